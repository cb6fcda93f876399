"""How bright the sky of a picture is against its own stars, what clips in it, and how its stars look.

The sky is compared with listed stars in the same picture, so gain, exposure and aperture drop out.
"""

from dataclasses import dataclass, replace

import numpy as np
import sep
from numpy.typing import NDArray

from widedusk.core.errors import Fault, InvalidInput
from widedusk.core.frames.facts import Lit
from widedusk.core.frames.matched import Matched
from widedusk.core.frames.shapes import Shape
from widedusk.core.frames.stars import Found
from widedusk.core.frames.tone import Curved, sky_under_curves
from widedusk.core.sky.time import Floats

MIDDLE = 0.45  # of the half diagonal: there vignetting hardly matters
LEAST_STARS = 8
CLIPPED = 0.98  # of the clip level
MANY_PIXELS = 4_000_000
SKY_COLOUR = 1.2  # BP − RP of a star with B − V = 1.0, that of a dark sky: Patat 2003, A&A 400, 1183; from memory
SKY_COLOUR_SIGMA = 0.33  # from one dark sky to another: our own estimate, counted on runs by other physics than ours
BAND_SIGMA = 0.04  # V from Gaia's bands, and lines in the sky that no star has: our own estimate
NO_COLOUR_SIGMA = 0.1  # where too few stars tell how the camera's band differs from V
COLOURED = 12  # stars from which that is told
BENT = 0.06  # magnitudes a magnitude beyond which a file does not follow the light. Our own
MAX_CURVE_SIGMA = 0.15  # magnitudes beyond which a sky through a tone curve is not told. Our own
SURE_USUAL = 0.5  # how likely it must be that a JPEG follows the light. Our own
CURVE_STARS = 300  # that tell it
GROWTH, GROWTH_RING, GROWTH_STARS = 2.5, (3.0, 4.0), 40  # of the circle's radius: where a star's light ends, where there is sky
MAX_BEYOND = 1.3
BEYOND_SIGMA = 0.05  # magnitudes, where too few stars tell it: our own estimate


def middle_background(plane: NDArray[np.float32]) -> float:
    """Level of the sky in the middle of a picture, in counts, before anything is taken off.

    The mean of what is near the median: few counts a pixel, as in a dark JPEG, make the median one of them.
    """
    height, width = plane.shape
    middle = plane[height * 3 // 8 : height * 5 // 8 : 3, width * 3 // 8 : width * 5 // 8 : 3].astype(float)
    level = float(np.median(middle[middle <= np.quantile(middle, 0.9)]))
    near = middle[np.abs(middle - level) <= 3.0 * 1.4826 * max(float(np.median(np.abs(middle - level))), 1e-9)]
    return float(near.mean()) if near.size else level


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


@dataclass(frozen=True)
class _Stars:
    """Listed stars in the middle of a picture that do not clip: places in its plane, light in a circle, as listed."""

    column: Floats
    row: Floats
    flux: Floats
    v: Floats
    colour: Floats
    radius: float  # of the circle

    @property
    def count(self) -> int:
        return int(self.v.size)

    @property
    def coloured(self) -> bool:
        """Whether they tell how the camera's band differs from V."""
        return self.count >= COLOURED and float(np.std(self.colour)) >= 0.2

    def brightest(self, most: int) -> "_Stars":
        chosen = np.argsort(self.flux)[::-1][:most]
        return self.some(chosen)

    def some(self, chosen: NDArray[np.intp]) -> "_Stars":
        given = {name: getattr(self, name)[chosen] for name in ("column", "row", "flux", "v", "colour")}
        return replace(self, **given)


def _usable(plane: NDArray[np.float32], room: float, found: Found, matched: Matched, radius: float) -> _Stars:
    """room: counts between the sky and the clip level."""
    corner = np.hypot(found.width_px, found.height_px) / 2.0
    x = -matched.x if matched.mirrored else matched.x
    column, row = x + (found.width_px - 1) / 2.0, matched.y + (found.height_px - 1) / 2.0
    flux, _, flag = sep.sum_circle(plane, column, row, radius, gain=1.0)
    near = np.clip(np.rint(np.stack([row, column])).astype(int), 0, np.array([[found.height_px - 1], [found.width_px - 1]]))
    usable = (np.hypot(x, matched.y) < MIDDLE * corner) & (flag == 0) & (plane[near[0], near[1]] < 0.7 * room)
    usable &= np.isfinite(matched.colour) & (flux > 5.0 * found.noise * np.sqrt(np.pi) * radius)
    every = _Stars(column, row, flux, matched.v_magnitude, matched.colour, radius)
    return every.some(np.flatnonzero(usable))


def sky_of(
    plane: NDArray[np.float32], background: float, clip: float, found: Found, matched: Matched, radius: float, curved: bool
) -> tuple[float | None, float | None, int, str]:
    """Sky in mag/arcsec² with its uncertainty, from how many stars, and why not where it cannot be told.

    It is the sky against stars as the air dims them: extinction is for whoever knows how high the picture looked.
    """
    stars = _usable(plane, clip - background, found, matched, radius)
    if background <= 0.0:
        return None, None, stars.count, "the sky is below what this picture can show: expose longer, or bring a raw file"
    if stars.count < LEAST_STARS:
        told = f"only {stars.count} listed stars in its middle do not clip, {LEAST_STARS} are needed: take one of 5 to 20 s"
        return None, None, stars.count, told
    pixel = 5.0 * float(np.log10(np.degrees(1.0 / matched.focal_px) * 3600.0))  # magnitudes from one to a square arcsecond
    beyond, beyond_sigma = _beyond(plane, stars)
    if curved:
        fit = _through_curves(plane, background, clip, found.noise, stars)
        slope = fit.colour_slope if fit is not None else None
        by_colour = NO_COLOUR_SIGMA if slope is None else abs(slope) * SKY_COLOUR_SIGMA
        sigma = float(np.linalg.norm([fit.sigma if fit else np.inf, beyond_sigma, by_colour, BAND_SIGMA]))
        if fit is None or fit.usual < SURE_USUAL or sigma > MAX_CURVE_SIGMA:
            refusal = (
                "by its stars this JPEG went through a tone curve of the camera's own, under which nobody can tell the sky: "
                "bring the raw file"
            )
            return None, None, stars.count, refusal
        return fit.zero_less_sky + beyond + pixel, sigma, stars.count, ""
    zero, sigma, bent, bent_sigma = _zero_point(stars)
    if abs(bent) > max(BENT, 3.0 * bent_sigma):
        told = (
            f"its stars are not as bright as their magnitudes say ({bent:+.2f} mag a magnitude): this file does not follow the "
            "light, so its sky cannot be told; bring the raw file"
        )
        return None, None, stars.count, told
    sky = float(zero + beyond - 2.5 * np.log10(background) + pixel)
    return sky, float(np.hypot(sigma, beyond_sigma)), stars.count, ""


def _beyond(plane: NDArray[np.float32], stars: _Stars) -> tuple[float, float]:
    """Magnitudes of starlight outside the circle, told by the brightest, and their standard deviation; never less than none."""
    bright = stars.brightest(GROWTH_STARS)
    ring = (GROWTH_RING[0] * stars.radius, GROWTH_RING[1] * stars.radius)
    near, wide = (
        sep.sum_circle(plane, bright.column, bright.row, size * stars.radius, bkgann=ring, gain=1.0)[0] for size in (1.0, GROWTH)
    )
    ratio = (wide / np.maximum(near, 1e-9))[near > 0]
    if ratio.size < LEAST_STARS:
        return 0.0, BEYOND_SIGMA
    middle = float(np.median(ratio))
    spread = 1.2533 * 1.4826 * float(np.median(np.abs(ratio - middle))) / np.sqrt(ratio.size)
    lost = 2.5 * float(np.log10(np.clip(middle, 1.0, MAX_BEYOND)))
    return lost, float(np.hypot(1.0857 * spread, lost / 2.0))  # a star's wings go on beyond the wider circle


def _through_curves(plane: NDArray[np.float32], sky: float, clip: float, noise: float, stars: _Stars) -> Curved | None:
    """plane, sky, clip and noise in counts. Stars of all magnitudes are taken where there are more than needed."""
    by_light = stars.brightest(stars.count)
    sample = by_light.some(np.unique(np.linspace(0, stars.count - 1, min(stars.count, CURVE_STARS)).astype(int)))
    half = int(np.ceil(stars.radius))
    offset = np.arange(-half, half + 1)
    rows = np.rint(sample.row).astype(int)[:, None, None] + offset[None, :, None]
    columns = np.rint(sample.column).astype(int)[:, None, None] + offset[None, None, :]
    apart = (rows - sample.row[:, None, None]) ** 2 + (columns - sample.column[:, None, None]) ** 2
    stamps = np.where(apart <= stars.radius**2, plane[rows, columns], 0.0).reshape(sample.count, -1) / clip
    colour = sample.colour - SKY_COLOUR if stars.coloured else None
    return sky_under_curves(stamps, sky / clip, noise / clip, sample.v, colour)


def _zero_point(stars: _Stars) -> tuple[float, float, float, float]:
    """Magnitude of one count for light of the sky's colour, its standard deviation, and by how much a magnitude of the stars
    counts for more or less than one, with its own: where that is certain, the file does not follow the light.

    A straight line in colour stands for how the camera's band differs from V.
    """
    v, colour, wide = stars.v, stars.colour, stars.coloured
    zero = v + 2.5 * np.log10(stars.flux)
    fitted = np.ones(v.size, dtype=bool)
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
