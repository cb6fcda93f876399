"""How long stars look: the motion within a sub, added to the star's own width."""

import numpy as np

from widedusk.core.sky.time import Floats

FWHM_PER_SIGMA = 2.0 * np.sqrt(2.0 * np.log(2.0))


def star_sigma_px(fwhm_px: float) -> float:
    """Standard deviation of a Gaussian star of given full width at half maximum."""
    return float(fwhm_px / FWHM_PER_SIGMA)


def axis_ratio(variance_x: Floats, variance_y: Floats, covariance: Floats, fwhm_px: float) -> Floats:
    """Long over short axis of a trailed star from the covariance of its position within the sub, px²; arrays broadcast.

    The star's own variance is added along both principal axes: second moments of a convolution add.
    """
    star = star_sigma_px(fwhm_px) ** 2
    mean = (variance_x + variance_y) / 2.0
    spread = np.hypot((variance_x - variance_y) / 2.0, covariance)
    return np.asarray(np.sqrt((star + mean + spread) / (star + np.maximum(mean - spread, 0.0))))


def elongation(variance_x: Floats, variance_y: Floats, covariance: Floats, fwhm_px: float) -> Floats:
    """Long axis of a trailed star over its untrailed width; arrays broadcast.

    Along one direction this is the axis ratio. Along two it is stricter: drift across the periodic error makes a star
    rounder only by making it fat, and a fat star is as spoilt as a long one.
    """
    mean = (variance_x + variance_y) / 2.0
    spread = np.hypot((variance_x - variance_y) / 2.0, covariance)
    return np.asarray(np.sqrt(1.0 + (mean + spread) / star_sigma_px(fwhm_px) ** 2))


def uniform_trail_ratio(trail_px: Floats | float, fwhm_px: float) -> Floats:
    """Axis ratio of a star trailed evenly over trail_px: its variance grows by L²/12."""
    return axis_ratio(np.asarray(trail_px, dtype=float) ** 2 / 12.0, np.asarray(0.0), np.asarray(0.0), fwhm_px)


def tolerated_trail_px(limit_ratio: float, fwhm_px: float) -> float:
    """Even trail at which the axis ratio reaches a limit: sigma * sqrt(12 (e² - 1))."""
    return float(star_sigma_px(fwhm_px) * np.sqrt(12.0 * (limit_ratio**2 - 1.0)))
