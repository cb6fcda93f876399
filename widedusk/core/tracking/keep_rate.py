"""Which share of frames stays round under periodic error and drift together."""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from widedusk.core.sky.time import Floats
from widedusk.core.tracking.elongation import lengthening

PHASES = 720


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

    Within a sub the place is x = A sin(w tau + phi) + r tau along RA and y = d tau along dec. Mean, variance and
    covariance over the sub are written in closed form, so a whole curve costs one array expression.
    """
    t = np.asarray(exposure_s, dtype=float)[:, None]
    phase = np.linspace(0.0, 2.0 * np.pi, PHASES, endpoint=False)
    w = 2.0 * np.pi / motion.pe_period_s
    end = w * t + phase
    a, d, r = motion.pe_half_amplitude_px, motion.drift_px_s, motion.drift_ra_px_s
    sin_end, cos_end, sin_phase, cos_phase = np.sin(end), np.cos(end), np.sin(phase), np.cos(phase)
    mean_x = a * (cos_phase - cos_end) / (w * t)
    mean_xx = a**2 / 2.0 * (1.0 - (sin_end * cos_end - sin_phase * cos_phase) / (w * t))
    mean_x_tau = a * ((sin_end - sin_phase) / w**2 - t * cos_end / w) / t
    worm_with_time = mean_x_tau - mean_x * t / 2.0
    variance_x = np.maximum(mean_xx - mean_x**2 + 2.0 * r * worm_with_time + (r * t) ** 2 / 12.0, 0.0)
    variance_y = (d * t) ** 2 / 12.0
    covariance = d * (worm_with_time + r * t**2 / 12.0)
    return lengthening(variance_x, variance_y, covariance, fwhm_px)


@lru_cache(maxsize=512)
def _shares(motion: Motion, exposure_s: tuple[float, ...], fwhm_px: float, limit_ratio: float) -> tuple[float, ...]:
    held = lengthenings(motion, np.asarray(exposure_s), fwhm_px) <= limit_ratio
    return tuple(np.mean(held, axis=-1).tolist())
