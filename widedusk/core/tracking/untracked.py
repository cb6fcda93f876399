"""How long a camera that stands still may expose: three schools."""

from typing import Literal

import numpy as np

from widedusk.core.tracking.drift import SIDEREAL_RATE_ARCSEC_S

UntrackedSchool = Literal["pixel", "detailed", "500"]


def pixel_rule_s(trail_px: float, scale_arcsec_px: float, dec_rad: float) -> float:
    """Strict: the sky may carry a star over trail_px. t = k s / (15.041 cos dec)."""
    return float(trail_px * scale_arcsec_px / (SIDEREAL_RATE_ARCSEC_S * max(np.cos(dec_rad), 1e-3)))


def rule_of_500_s(focal_mm: float, crop: float) -> float:
    """500 over the full-frame equivalent focal length. Common practice, no source."""
    return 500.0 / (crop * focal_mm)


def detailed_rule_s(focal_mm: float, f_number: float, pitch_um: float, dec_rad: float) -> float:
    """t = (16.856 N + 0.0997 f + 13.713 p) / (f cos dec), f in mm, p in micrometres.

    Source: F. Michaud, Société astronomique du Havre ("NPF"); the constants are from memory.
    """
    return float((16.856 * f_number + 0.0997 * focal_mm + 13.713 * pitch_um) / (focal_mm * max(np.cos(dec_rad), 1e-3)))
