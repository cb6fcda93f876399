"""How bright the sky of a picture is against its own stars, what clips in it, and how its stars look.

The sky is compared with listed stars in the same picture, so gain, exposure and aperture drop out.
"""

import numpy as np
import sep
from numpy.typing import NDArray

from widedusk.core.errors import Fault, InvalidInput
from widedusk.core.frames.facts import Lit
from widedusk.core.frames.matched import Matched
from widedusk.core.frames.shapes import Shape
from widedusk.core.frames.stars import Found
from widedusk.core.sky.time import Floats

MIDDLE = 0.45  # of the half diagonal: there vignetting hardly matters
LEAST_STARS = 8
CLIPPED = 0.98  # of the clip level
MANY_PIXELS = 4_000_000
SKY_COLOUR, SKY_COLOUR_SIGMA = (
    1.2,
    0.4,
)  # BP − RP of a star with B − V = 1.0, that of a dark sky: Patat 2003, A&A 400, 1183; from memory
BAND_SIGMA = 0.04  # V from Gaia's bands, and lines in the sky that no star has: our own estimate
NO_COLOUR_SIGMA = 0.1  # where too few stars tell how the camera's band differs from V
COLOURED = 12  # stars from which that is told
BENT, CURVED_BENT = 0.06, 0.04  # magnitudes a magnitude beyond which a file does not follow the light. Our own
CURVE_SIGMA = 0.3  # of a sky through a tone curve too mild to show in its stars: benchmarks/sky_of_pictures.py


def middle_background(plane: NDArray[np.float32]) -> float:
    """Level of the sky in the middle of a picture, in counts, before anything is taken off."""
    height, width = plane.shape
    middle = plane[height * 3 // 8 : height * 5 // 8 : 3, width * 3 // 8 : width * 5 // 8 : 3]
    low, high = np.quantile(middle, [0.0, 0.9])
    return float(np.median(middle[(middle >= low) & (middle <= high)]))


def clipped_percent(plane: NDArray[np.float32], clip: float) -> float:
    """Share of pixels at the clip level; of a large plane of every second row."""
    rows = plane[::2] if plane.size > MANY_PIXELS else plane
    return float(100.0 * np.count_nonzero(rows >= np.float32(CLIPPED * clip)) / rows.size)


def lit(
    plane: NDArray[np.float32],
    background: float,
    clipped: float,
    clip: float,
    found: Found,
    matched: Matched,
    shape: Shape | None,
    binning: int,
    name: str,
    curved: bool = False,
) -> Lit:
    """Read a picture whose stars are known. plane: its background taken off; background and clipped as found before that;
    shape: of its typical star.

    curved: it went through a camera's tone curve, and only the usual one was taken off.

    Raises InvalidInput when the sky is clipped or no star can be measured.
    """
    if background >= 0.9 * clip:
        told = f"“{name}”: its sky is white, so nothing can be read from it. Expose shorter or lower the ISO, and bring another."
        raise InvalidInput([Fault("picture", name, told)])
    if shape is None:
        told = f"“{name}”: its stars clip or crowd too much to be measured. Expose shorter, and bring another."
        raise InvalidInput([Fault("picture", name, told)])
    sky, sigma, stars, why_not = sky_of(plane, background, clip, found, matched, 1.6 * shape.long_px, curved)
    of_file = shape.in_file(binning)
    return Lit(
        sky, sigma, why_not, background / clip, clipped, of_file.short_px, of_file.long_px, of_file.ratio, shape.angle_deg, stars
    )


def sky_of(
    plane: NDArray[np.float32], background: float, clip: float, found: Found, matched: Matched, radius: float, curved: bool
) -> tuple[float | None, float | None, int, str]:
    """Sky in mag/arcsec² with its uncertainty, from how many stars, and why not where it cannot be told."""
    corner = np.hypot(found.width_px, found.height_px) / 2.0
    x = -matched.x if matched.mirrored else matched.x
    column, row = x + (found.width_px - 1) / 2.0, matched.y + (found.height_px - 1) / 2.0
    flux, _, flag = sep.sum_circle(plane, column, row, radius, gain=1.0)
    near = np.clip(np.rint(np.stack([row, column])).astype(int), 0, np.array([[found.height_px - 1], [found.width_px - 1]]))
    peak = plane[near[0], near[1]]
    usable = (np.hypot(x, matched.y) < MIDDLE * corner) & (flag == 0) & (flux > 0) & (peak < 0.7 * (clip - background))
    usable &= np.isfinite(matched.colour)
    usable &= flux > 5.0 * found.noise * np.sqrt(np.pi) * radius
    stars = int(np.count_nonzero(usable))
    if background <= 0.0:
        return None, None, stars, "the sky is below what this picture can show: expose longer, or bring a raw file"
    if stars < LEAST_STARS:
        told = f"only {stars} listed stars in its middle do not clip, {LEAST_STARS} are needed: take one of 5 to 20 s for the sky"
        return None, None, stars, told
    v, colour = matched.v_magnitude[usable], matched.colour[usable]
    zero, sigma, bent, bent_sigma = _zero_point(v, v + 2.5 * np.log10(flux[usable]), colour)
    if abs(bent) > max(CURVED_BENT if curved else BENT, 3.0 * bent_sigma):
        told = (
            f"its stars are not as bright as their magnitudes say ({bent:+.2f} mag a magnitude): the camera has bent the curve of "
            "this file, so its sky cannot be told; bring the raw file"
        )
        return None, None, stars, told
    scale = np.degrees(1.0 / matched.focal_px) * 3600.0
    sky = float(zero - 2.5 * np.log10(background / scale**2))
    return sky, float(np.hypot(sigma, CURVE_SIGMA if curved else 0.0)), stars, ""


def _zero_point(v: Floats, zero: Floats, colour: Floats) -> tuple[float, float, float, float]:
    """Magnitude of one count for light of the sky's colour, its standard deviation, and by how much a magnitude of the stars
    counts for more or less than one, with its own: where that is certain, the file does not follow the light.

    v: listed; zero: v + 2.5 log10(counts) of each star. A straight line in colour stands for how the camera's band differs from V.
    """
    fitted = np.ones(v.size, dtype=bool)
    wide = v.size >= COLOURED and float(np.std(colour)) >= 0.2
    for _ in range(4):
        columns = [np.ones(v.size), v - np.median(v[fitted])] + ([colour - SKY_COLOUR] if wide else [])
        design = np.stack(columns, axis=1)
        found, *_ = np.linalg.lstsq(design[fitted], zero[fitted], rcond=None)
        off = zero - design @ found
        scatter = max(1.4826 * float(np.median(np.abs(off[fitted]))), 0.01)
        fitted = np.abs(off) < 3.0 * scatter
    spread = scatter**2 * np.linalg.pinv(design[fitted].T @ design[fitted])  # stars may all be as bright
    bend, bend_sigma = float(found[1]), float(np.sqrt(spread[1, 1]))
    by_colour = abs(float(found[2])) * SKY_COLOUR_SIGMA if wide else NO_COLOUR_SIGMA
    sigma = float(np.sqrt(spread[0, 0] + by_colour**2 + BAND_SIGMA**2))
    return float(found[0]), sigma, bend, bend_sigma
