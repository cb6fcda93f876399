"""Which share of frames stays round under periodic error and drift together."""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from widedusk.core.sky.time import Floats
from widedusk.core.tracking.elongation import lengthening

PHASES = 720
_PHASE = np.linspace(0.0, 2.0 * np.pi, PHASES, endpoint=False)
WAVES = np.stack((np.ones(PHASES), np.cos(_PHASE), np.sin(_PHASE), np.cos(2.0 * _PHASE), np.sin(2.0 * _PHASE)))


@dataclass(frozen=True)
class Motion:
    """What the tracker does wrong, as seen on the sensor."""

    pe_half_amplitude_px: float  # along right ascension, already times cos(declination)
    pe_period_s: float
    drift_px_s: float  # along declination: the worst case of polar misalignment
    drift_ra_px_s: float = 0.0  # along right ascension: what misalignment adds there, or the whole sky without a tracker


def keep_rate(motion: Motion, exposure_s: Floats | float, fwhm_px: float, limit_ratio: float) -> Floats:
    """Share of starting phases of the worm for which a star's long axis stays within limit_ratio of its width.

    The shape is that of exposure_s. The last few hundred curves are kept: many questions of one night share them.
    """
    times = np.asarray(exposure_s, dtype=float)
    return np.asarray(_shares(motion, tuple(times.ravel().tolist()), fwhm_px, limit_ratio)).reshape(times.shape)


def lengthenings(motion: Motion, exposure_s: Floats, fwhm_px: float) -> Floats:
    """A star's long axis over its untrailed width for PHASES starting phases of the worm; shape (exposures, PHASES).

    Within a sub the place is x = A sin(w tau + phi) + r tau along RA and y = d tau along dec. Its mean, variance and
    covariance over the sub are sums of sines and cosines of phi and 2 phi whose weights hang on the exposure alone, so a
    whole curve costs two products with the same matrix.
    """
    t = np.asarray(exposure_s, dtype=float)
    a, d, r = motion.pe_half_amplitude_px, motion.drift_px_s, motion.drift_ra_px_s
    w = 2.0 * np.pi / motion.pe_period_s
    turn = w * t
    sin, cos = np.sin(turn), np.cos(turn)
    # mean of x: of cos phi and of sin phi
    mean_cos, mean_sin = a * (1.0 - cos) / turn, a * sin / turn
    # covariance of x with time: likewise
    time_cos = a * (sin / w**2 - t * cos / w) / t - mean_cos * t / 2.0
    time_sin = a * ((cos - 1.0) / w**2 + t * sin / w) / t - mean_sin * t / 2.0
    variance_x = np.stack(
        (
            (a**2 - mean_cos**2 - mean_sin**2) / 2.0 + (r * t) ** 2 / 12.0,
            2.0 * r * time_cos,
            2.0 * r * time_sin,
            -(a**2) * np.sin(2.0 * turn) / (4.0 * turn) - (mean_cos**2 - mean_sin**2) / 2.0,
            a**2 * (1.0 - np.cos(2.0 * turn)) / (4.0 * turn) - mean_cos * mean_sin,
        ),
        axis=-1,
    )
    covariance = d * np.stack((r * t**2 / 12.0, time_cos, time_sin), axis=-1)
    variance_y = ((d * t) ** 2 / 12.0)[:, None]
    return lengthening(np.maximum(variance_x @ WAVES, 0.0), variance_y, covariance @ WAVES[:3], fwhm_px)


@lru_cache(maxsize=512)
def _shares(motion: Motion, exposure_s: tuple[float, ...], fwhm_px: float, limit_ratio: float) -> tuple[float, ...]:
    held = lengthenings(motion, np.asarray(exposure_s), fwhm_px) <= limit_ratio
    return tuple(np.mean(held, axis=-1).tolist())
