"""How bright the sky of a picture is against its own stars, what clips in it, and how its stars look.

The sky is compared with listed stars in the same picture, so gain, exposure and aperture drop out.
"""

import numpy as np
import sep
from numpy.typing import NDArray

from widedusk.core.errors import Fault, InvalidInput
from widedusk.core.frames.facts import Lit
from widedusk.core.frames.matched import Matched
from widedusk.core.frames.shapes import typical_shape
from widedusk.core.frames.stars import Found

MIDDLE = 0.45  # of the half diagonal: there vignetting hardly matters
LEAST_STARS = 8
CLIPPED = 0.98  # of the clip level
BAND_SIGMA = 0.1  # sky and stars differ in colour, and the camera's band is neither Gaia's nor V: from memory


def middle_background(plane: NDArray[np.float32]) -> float:
    """Level of the sky in the middle of a picture, in counts, before anything is taken off."""
    height, width = plane.shape
    middle = plane[height * 3 // 8 : height * 5 // 8 : 3, width * 3 // 8 : width * 5 // 8 : 3]
    low, high = np.quantile(middle, [0.0, 0.9])
    return float(np.median(middle[(middle >= low) & (middle <= high)]))


def clipped_percent(plane: NDArray[np.float32], clip: float) -> float:
    """Share of pixels at the clip level."""
    return float(100.0 * np.mean(plane >= CLIPPED * clip))


def lit(
    plane: NDArray[np.float32],
    background: float,
    clipped: float,
    clip: float,
    found: Found,
    matched: Matched,
    binning: int,
    name: str,
) -> Lit:
    """Read a picture whose stars are known. plane: its background taken off; background and clipped as found before that.

    Raises InvalidInput when the sky is clipped or no star can be measured.
    """
    if background >= 0.9 * clip:
        told = f"“{name}”: its sky is white, so nothing can be read from it. Expose shorter or lower the ISO, and bring another."
        raise InvalidInput([Fault("picture", name, told)])
    shape = typical_shape(plane, found.x, found.y, found.fwhm_px, clip - background)
    if shape is None:
        told = f"“{name}”: its stars clip or crowd too much to be measured. Expose shorter, and bring another."
        raise InvalidInput([Fault("picture", name, told)])
    sky, sigma, stars, why_not = _sky(plane, background, clip, found, matched, 1.6 * shape.long_px)
    return Lit(
        sky,
        sigma,
        why_not,
        background / clip,
        clipped,
        shape.short_px * binning,
        shape.long_px * binning,
        shape.ratio,
        shape.angle_deg,
        stars,
    )


def _sky(
    plane: NDArray[np.float32], background: float, clip: float, found: Found, matched: Matched, radius: float
) -> tuple[float | None, float | None, int, str]:
    """Sky in mag/arcsec² with its uncertainty, from how many stars, and why not where it cannot be told."""
    corner = np.hypot(found.width_px, found.height_px) / 2.0
    x = -matched.x if matched.mirrored else matched.x
    column, row = x + (found.width_px - 1) / 2.0, matched.y + (found.height_px - 1) / 2.0
    flux, _, flag = sep.sum_circle(plane, column, row, radius, gain=1.0)
    near = np.clip(np.rint(np.stack([row, column])).astype(int), 0, np.array([[found.height_px - 1], [found.width_px - 1]]))
    peak = plane[near[0], near[1]]
    usable = (np.hypot(x, matched.y) < MIDDLE * corner) & (flag == 0) & (flux > 0) & (peak < 0.7 * (clip - background))
    usable &= flux > 5.0 * found.noise * np.sqrt(np.pi) * radius
    stars = int(np.count_nonzero(usable))
    if background <= 0.0:
        return None, None, stars, "the sky is below what this picture can show: expose longer, or bring a raw file"
    if stars < LEAST_STARS:
        told = f"only {stars} listed stars in its middle do not clip, {LEAST_STARS} are needed: take one of 5 to 20 s for the sky"
        return None, None, stars, told
    zero = matched.magnitude[usable] + 2.5 * np.log10(flux[usable])
    middle = float(np.median(zero))
    scatter = 1.4826 * float(np.median(np.abs(zero - middle)))
    scale = np.degrees(1.0 / matched.focal_px) * 3600.0
    sky = middle - 2.5 * np.log10(background / scale**2)
    return float(sky), float(np.hypot(scatter / np.sqrt(stars), BAND_SIGMA)), stars, ""
