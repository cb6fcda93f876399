"""A lens that nobody owns, and what its stars look like at every stop.

Rays through points of the pupil are followed to where they miss: defocus that a tilted or curved image brings, coma about a middle
that may lie askew, colours that focus elsewhere and are larger. Stopping down takes the outer rays away. Nothing here knows how
pictures are measured; what is true is read off the rays themselves, on a grid far finer than pixels.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
RED, GREEN, BLUE = 0, 1, 2
PIXEL_VARIANCE = 1.0 / 12.0
WIDTH_PER_SIGMA = 2.3548
STAMP = 13  # px about a star that are drawn
RAY_PX = 55.0  # that a spike reaches at most
TWO_BY_TWO = {"RGGB": ((RED, GREEN), (GREEN, BLUE)), "GRBG": ((GREEN, RED), (BLUE, GREEN))}


@dataclass(frozen=True)
class InventedLens:
    """Every fault in pixels at the edge of the full pupil; in the field at the corner, half a diagonal from the middle.

    coma_px: tangential coma over three; curved_px: defocus in the corner; tilt_px: in the corner that lies towards tilt_deg
    (from right towards down), and as much the other way opposite; askew: middle of the coma, half diagonals right and down.
    focus_px: red, green and blue focus in front of or behind each other; larger: by how many pixels red and blue lie further out
    than green in the corner. fall: share of light that the corner loses wide open. blades: of the iris.
    """

    open_f: float = 1.8
    core_fwhm_px: float = 1.9
    coma_px: float = 0.0
    curved_px: float = 0.0
    tilt_px: float = 0.0
    tilt_deg: float = 0.0
    askew: tuple[float, float] = (0.0, 0.0)
    focus_px: tuple[float, float, float] = (0.0, 0.0, 0.0)
    larger: tuple[float, float] = (0.0, 0.0)
    fall: float = 0.0
    blades: int = 7

    def pupil(self, f_number: float) -> float:
        return min(self.open_f / f_number, 1.0)

    def light(self, r: Floats, f_number: float) -> Floats:
        """Share of the middle's light at r half diagonals; the mechanical part goes as the lens is stopped down."""
        lost = self.fall * (0.35 + 0.65 * self.pupil(f_number) ** 2)
        return np.asarray(1.0 - lost * (0.7 * r**2 + 0.3 * r**4))

    def misses(self, x: Floats, y: Floats, f_number: float, colour: int) -> tuple[Floats, Floats]:
        """Where rays through the pupil miss the star's own place, (rays, stars), px; x, y in half diagonals."""
        u, v = _pupil_points()
        u, v = (one[:, None] * self.pupil(f_number) for one in (u, v))
        r2 = x**2 + y**2
        heading = np.radians(self.tilt_deg)
        defocus = self.curved_px * r2 + self.tilt_px * (x * np.cos(heading) + y * np.sin(heading)) + self.focus_px[colour]
        wx, wy = x - self.askew[0], y - self.askew[1]
        size = np.hypot(wx, wy)
        cos, sin = wx / np.maximum(size, 1e-9), wy / np.maximum(size, 1e-9)
        along, across = u * cos + v * sin, -u * sin + v * cos
        radial = self.coma_px * size * (3 * along**2 + across**2)
        around = self.coma_px * size * 2 * along * across
        return defocus * u + radial * cos - around * sin, defocus * v + radial * sin + around * cos

    def place(self, x: Floats, y: Floats, colour: int) -> tuple[Floats, Floats]:
        """How far a star lies from where green puts it, px."""
        out = {RED: self.larger[0], GREEN: 0.0, BLUE: self.larger[1]}[colour]
        return out * x, out * y

    def core_variance(self) -> float:
        return (self.core_fwhm_px / WIDTH_PER_SIGMA) ** 2 + PIXEL_VARIANCE

    def spot(self, x: float, y: float, f_number: float, colour: int, placed: bool = False) -> Floats:
        """Light of one star on a grid of a fifth of a pixel, (rows, columns), its own place in the middle; placed: green's."""
        dx, dy = self.misses(np.array([x]), np.array([y]), f_number, colour)
        if placed:
            out_x, out_y = self.place(np.array([x]), np.array([y]), colour)
            dx, dy = dx + out_x, dy + out_y
        at = np.arange(-60, 61) / 5.0
        variance = self.core_variance()
        columns, rows = (np.exp(-0.5 * (at[None, :] - one) ** 2 / variance) for one in (dx, dy))
        return np.asarray(rows.T @ columns)


def _pupil_points() -> tuple[Floats, Floats]:
    """Over a disc, as seeds lie in a sunflower."""
    number = np.arange(61) + 0.5
    away, around = np.sqrt(number / 61), number * np.pi * (3.0 - np.sqrt(5.0))
    return np.asarray(away * np.cos(around)), np.asarray(away * np.sin(around))


@dataclass(frozen=True)
class Shot:
    """How a picture of the lens is taken. by_iris: then bright stars grow rays when the lens is not wide open."""

    f_number: float
    width_px: int = 960
    height_px: int = 640
    stars: int = 700
    brightest_e: float = 60_000.0  # light of the tenth brightest star at the lens's widest
    sky_e: float = 900.0
    slope: tuple[float, float] = (0.0, 0.0)  # of the sky, share from the middle to the corner
    read_noise_e: float = 3.0
    by_iris: bool = True
    exposed: float = 1.0  # squared: how much longer than a picture wide open, so that stars are as bright


def picture(lens: InventedLens, shot: Shot, rng: np.random.Generator) -> NDArray[np.float32]:
    """Electrons, (rows, columns, 3)."""
    half = float(np.hypot(shot.width_px, shot.height_px)) / 2.0
    x, y = ((rng.random(shot.stars) - 0.5) * side / half for side in (shot.width_px, shot.height_px))
    light = shot.brightest_e * (np.arange(shot.stars) / 10.0 + 0.2) ** -0.6 * (lens.pupil(shot.f_number) * shot.exposed) ** 2
    light *= lens.light(np.hypot(x, y), shot.f_number)
    image = np.zeros((shot.height_px, shot.width_px, 3))
    for colour in range(3):
        _draw(image[..., colour], lens, shot, (x, y, light), colour, half)
    rows, columns = np.ogrid[0 : shot.height_px, 0 : shot.width_px]
    px, py = (columns - (shot.width_px - 1) / 2) / half, (rows - (shot.height_px - 1) / 2) / half
    sky = shot.sky_e * (lens.pupil(shot.f_number) * shot.exposed) ** 2 * lens.light(np.hypot(px, py), shot.f_number)
    image += (sky * (1 + shot.slope[0] * px + shot.slope[1] * py))[..., None]
    noisy = image + np.sqrt(image + shot.read_noise_e**2) * rng.standard_normal(image.shape)
    return np.maximum(noisy, 0.0).astype(np.float32)


def mosaic(image: NDArray[np.float32], pattern: str = "RGGB") -> NDArray[np.float32]:
    """One colour a pixel, as a sensor sees it."""
    one = np.empty(image.shape[:2], dtype=np.float32)
    for row, colours in enumerate(TWO_BY_TWO[pattern]):
        for column, colour in enumerate(colours):
            one[row::2, column::2] = image[row::2, column::2, colour]
    return one


def _draw(image: Floats, lens: InventedLens, shot: Shot, stars: tuple[Floats, Floats, Floats], colour: int, half: float) -> None:
    x, y, light = stars
    dx, dy = lens.misses(x, y, shot.f_number, colour)
    out_x, out_y = lens.place(x, y, colour)
    column, row = x * half + out_x + (shot.width_px - 1) / 2, y * half + out_y + (shot.height_px - 1) / 2
    first_column, first_row = np.rint(column).astype(int), np.rint(row).astype(int)
    offset = np.arange(-STAMP, STAMP + 1)
    variance = lens.core_variance()
    across, down = (
        np.exp(-0.5 * (offset[None, None, :] + (first - at)[None, :, None] - miss[:, :, None]) ** 2 / variance)
        for first, at, miss in ((first_column, column, dx), (first_row, row, dy))
    )
    stamps = np.einsum("psr,psc->src", down, across) / (len(dx) * 2 * np.pi * variance) * light[:, None, None]
    rows = np.broadcast_to(first_row[:, None, None] + offset[None, :, None], stamps.shape)
    columns = np.broadcast_to(first_column[:, None, None] + offset[None, None, :], stamps.shape)
    inside = (rows >= 0) & (rows < shot.height_px) & (columns >= 0) & (columns < shot.width_px)
    np.add.at(image, (rows[inside], columns[inside]), stamps[inside])
    if shot.by_iris and lens.pupil(shot.f_number) < 0.97:
        _rays(image, lens, column[:12], row[:12], light[:12])


def _rays(image: Floats, lens: InventedLens, column: Floats, row: Floats, light: Floats) -> None:
    """A blade diffracts across its edge, both ways."""
    along = np.arange(4.0, RAY_PX, 0.5)
    for blade in range(lens.blades):
        for way in (0.0, np.pi):
            angle = 0.3 + 2 * np.pi * blade / lens.blades + way
            for at_x, at_y, much in zip(column, row, light, strict=True):
                x, y = np.rint(at_x + along * np.cos(angle)).astype(int), np.rint(at_y + along * np.sin(angle)).astype(int)
                inside = (x >= 0) & (x < image.shape[1]) & (y >= 0) & (y < image.shape[0])
                np.add.at(image, (y[inside], x[inside]), much * 0.004 / (along[inside] / 4.0) ** 2)
