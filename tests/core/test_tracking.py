"""Keep rate against brute force and against what people in the field report."""

import numpy as np
import pytest

from widedusk.core.kit.optics import image_scale_arcsec_px
from widedusk.core.tracking.drift import worst_drift_arcsec_s
from widedusk.core.tracking.keep_rate import Motion, keep_rate


def brute_force(motion: Motion, exposure_s: float, fwhm_px: float, limit: float, trials: int = 4000) -> float:
    """Sample the star's path at random phases; principal values from numpy's own covariance and eigenvalues."""
    rng = np.random.default_rng(6)
    tau = (np.arange(400) + 0.5) / 400 * exposure_s
    kept = 0
    for phase in (np.arange(trials) + rng.uniform()) / trials * 2 * np.pi:
        path = np.stack(
            [motion.pe_half_amplitude_px * np.sin(2 * np.pi * tau / motion.pe_period_s + phase), motion.drift_px_s * tau]
        )
        longest = np.linalg.eigvalsh(np.cov(path, bias=True))[-1]
        kept += np.sqrt(1 + longest / (fwhm_px / 2.3548) ** 2) <= limit
    return kept / trials


@pytest.mark.parametrize(
    ("amplitude", "drift", "t"), [(2.2, 0.002, 120), (2.2, 0.002, 180), (4.6, 0.01, 60), (1.0, 0.02, 150), (0.0, 0.02, 150)]
)
def test_closed_form_equals_brute_force(amplitude, drift, t):
    motion = Motion(amplitude, 500, drift)
    assert keep_rate(motion, t, 2.5, 1.3) == pytest.approx(brute_force(motion, t, 2.5, 1.3), abs=0.01)


def test_keep_rates_people_see():
    """Common practice, no source: 135 mm keeps nearly all of 90 s and under half of 3 min; 400 mm at 160 s keeps the odd one."""
    scale = float(image_scale_arcsec_px(6, 135))
    motion = Motion(20 / scale, 500, float(worst_drift_arcsec_s(np.radians(4 / 60))) / scale)
    assert keep_rate(motion, np.array([90, 120, 180]), 2.5, 1.3) == pytest.approx([1.0, 0.85, 0.46], abs=0.03)
    # 100 mm on 6 µm, a minute: nearly all are kept, practice says one in twenty is lost.
    hundred = float(image_scale_arcsec_px(6, 100))
    assert keep_rate(Motion(20 / hundred, 500, float(worst_drift_arcsec_s(np.radians(4 / 60))) / hundred), 60, 2.5, 1.3) >= 0.95
    assert keep_rate(Motion(20 / 4.33, 500, 0), np.array([160, 120]), 2.5, 1.3) == pytest.approx([0.16, 0.28], abs=0.01)
