"""Which share of frames stays round under periodic error and drift together."""

from dataclasses import dataclass

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


def keep_rate(motion: Motion, exposure_s: Floats | float, fwhm_px: float, limit_ratio: float) -> Floats:
    """Share of starting phases of the worm for which a star's long axis stays within limit_ratio of its width.

    The shape is that of exposure_s. Within a sub the place is x = A sin(w tau + phi) along RA and y = d tau along
    dec. Mean, variance and covariance over the sub are written in closed form, so a whole curve costs one array
    expression.
    """
    t = np.asarray(exposure_s, dtype=float)[..., None]
    phase = np.linspace(0.0, 2.0 * np.pi, PHASES, endpoint=False)
    w = 2.0 * np.pi / motion.pe_period_s
    end = w * t + phase
    a, d = motion.pe_half_amplitude_px, motion.drift_px_s
    mean_x = a * (np.cos(phase) - np.cos(end)) / (w * t)
    mean_xx = a**2 / 2.0 * (1.0 - (np.sin(2.0 * end) - np.sin(2.0 * phase)) / (2.0 * w * t))
    mean_x_tau = a * ((np.sin(end) - np.sin(phase)) / w**2 - t * np.cos(end) / w) / t
    variance_x = np.maximum(mean_xx - mean_x**2, 0.0)
    variance_y = (d * t) ** 2 / 12.0
    covariance = d * (mean_x_tau - mean_x * t / 2.0)
    return np.asarray(np.mean(lengthening(variance_x, variance_y, covariance, fwhm_px) <= limit_ratio, axis=-1))
