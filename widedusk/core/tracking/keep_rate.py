"""Which share of frames stays round under periodic error and drift together."""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from widedusk.core.sky.time import Floats
from widedusk.core.tracking.elongation import elongation, star_sigma_px

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

    @property
    def drift_speed_px_s(self) -> float:
        """Both directions together."""
        return float(np.hypot(self.drift_px_s, self.drift_ra_px_s))


def keep_rate(motion: Motion, exposure_s: Floats | float, fwhm_px: float, limit_ratio: float) -> Floats:
    """Share of starting phases of the worm for which a star's long axis stays within limit_ratio of its width.

    The shape is that of exposure_s.
    """
    return np.asarray(keep_rates((motion,), exposure_s, fwhm_px, limit_ratio)[0])


def keep_rates(motions: tuple[Motion, ...], exposure_s: Floats | float, fwhm_px: float, limit_ratio: float) -> Floats:
    """Keep rates under several motions that differ in their drift alone; shape (motions, *that of exposure_s).

    The last few hundred curves are kept: many questions of one night share them.
    """
    times = np.asarray(exposure_s, dtype=float)
    return _kept(motions, tuple(times.ravel().tolist()), fwhm_px, limit_ratio).reshape(len(motions), *times.shape)


@lru_cache(maxsize=512)
def _kept(motions: tuple[Motion, ...], exposure_s: tuple[float, ...], fwhm_px: float, limit_ratio: float) -> Floats:
    d, r = (np.repeat([getattr(one, name) for one in motions], len(exposure_s)) for name in ("drift_px_s", "drift_ra_px_s"))
    found = shares(motions[0], d, r, np.tile(exposure_s, len(motions)), fwhm_px, limit_ratio)
    found.flags.writeable = False
    return found


def elongations(motion: Motion, exposure_s: Floats, fwhm_px: float) -> Floats:
    """A star's long axis over its untrailed width for PHASES starting phases of the worm; shape (exposures, PHASES)."""
    t = np.asarray(exposure_s, dtype=float)
    across, covariance, along = _weights(motion, np.full(t.shape, motion.drift_px_s), np.full(t.shape, motion.drift_ra_px_s), t)
    return elongation(np.maximum(along @ WAVES, 0.0), across[:, None], covariance @ WAVES[:3], fwhm_px)


def shares(
    motion: Motion, drift_px_s: Floats, drift_ra_px_s: Floats, exposure_s: Floats | float, fwhm_px: float, limit_ratio: float
) -> Floats:
    """Keep rates of a motion under many drifts, each along declination and right ascension, and lengths; all of shape (n,).

    The long axis stays within a limit when no variance exceeds what that leaves beside the star's own, B = sigma² (limit² - 1):
    the largest principal value of the covariance is at most B just when Vx <= B, Vy <= B and C² <= (B - Vx) (B - Vy). Where the
    crests of the waves keep that for every phase, or their troughs break it, no phase is looked at.
    """
    d, r, t = np.broadcast_arrays(drift_px_s, drift_ra_px_s, np.asarray(exposure_s, dtype=float))
    across, covariance, along = _weights(motion, d, r, t)
    room = star_sigma_px(fwhm_px) ** 2 * (limit_ratio**2 - 1.0)
    crest = np.hypot(along[:, 1], along[:, 2]) + np.hypot(along[:, 3], along[:, 4])
    tilt = np.abs(covariance[:, 0]) + np.hypot(covariance[:, 1], covariance[:, 2])
    left_y, least_x = room - across, room - along[:, 0] - crest
    all_kept = (left_y >= 0.0) & (least_x >= 0.0) & (tilt**2 <= least_x * left_y)
    some = ~all_kept & (left_y >= 0.0) & (room - along[:, 0] + crest >= 0.0)
    left_x = room - along[some] @ WAVES
    held = (left_x >= 0.0) & ((covariance[some] @ WAVES[:3]) ** 2 <= left_x * left_y[some, None])
    found: Floats = all_kept.astype(np.float64)
    found[some] = np.mean(held, axis=-1)
    return found


def _weights(motion: Motion, d: Floats, r: Floats, t: Floats) -> tuple[Floats, Floats, Floats]:
    """Of the variance along dec, the covariance and the variance along RA within a sub, px²: shapes (n,), (n, 3) and (n, 5).

    Within a sub the place is x = A sin(w tau + phi) + r tau along RA and y = d tau along dec. Its mean, variance and
    covariance over the sub are sums of sines and cosines of phi and 2 phi (WAVES) whose weights hang on drift and length alone,
    so a whole curve costs two products with the same matrix.
    """
    a, w = motion.pe_half_amplitude_px, 2.0 * np.pi / motion.pe_period_s
    turn = w * t
    sin, cos = np.sin(turn), np.cos(turn)
    # mean of x: of cos phi and of sin phi
    mean_cos, mean_sin = a * (1.0 - cos) / turn, a * sin / turn
    # covariance of x with time: likewise
    time_cos = a * (sin / w**2 - t * cos / w) / t - mean_cos * t / 2.0
    time_sin = a * ((cos - 1.0) / w**2 + t * sin / w) / t - mean_sin * t / 2.0
    along = np.stack(
        (
            (a**2 - mean_cos**2 - mean_sin**2) / 2.0 + (r * t) ** 2 / 12.0,
            2.0 * r * time_cos,
            2.0 * r * time_sin,
            -(a**2) * np.sin(2.0 * turn) / (4.0 * turn) - (mean_cos**2 - mean_sin**2) / 2.0,
            a**2 * (1.0 - np.cos(2.0 * turn)) / (4.0 * turn) - mean_cos * mean_sin,
        ),
        axis=-1,
    )
    covariance = np.stack((d * r * t**2 / 12.0, d * time_cos, d * time_sin), axis=-1)
    return (d * t) ** 2 / 12.0, covariance, along
