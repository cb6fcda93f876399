"""Plain optics: image scale, field, f-numbers, stops, plates of glass."""

import numpy as np

from widedusk.core.sky.time import Floats

ARCSEC_PER_RADIAN = 206_264.806
FULL_FRAME_DIAGONAL_MM = 43.27


def image_scale_arcsec_px(pitch_um: Floats | float, focal_mm: Floats | float) -> Floats:
    """Sky seen by one pixel, arcsec. Small-angle identity: 206.2648 p / f."""
    return np.asarray(ARCSEC_PER_RADIAN * 1e-3 * np.asarray(pitch_um) / np.asarray(focal_mm))


def field_of_view_rad(side_mm: Floats | float, focal_mm: Floats | float) -> Floats:
    """Angle covered by one side of the sensor, radians: 2 atan(d / 2f), for a distortion-free lens."""
    return np.asarray(2.0 * np.arctan(np.asarray(side_mm) / (2.0 * np.asarray(focal_mm))))


def ring_f_number(focal_mm: float, ring_mm: float, f_widest: float) -> float:
    """f-number with a step-down ring of clear diameter ring_mm in front of the lens; never wider than the lens itself."""
    return max(focal_mm / ring_mm, f_widest)


def stops_between(f_number_from: float, f_number_to: float) -> float:
    """Stops of light lost in going from one f-number to another (gained when negative): 2 log2(N2 / N1)."""
    return float(2.0 * np.log2(f_number_to / f_number_from))


def crop_factor(width_mm: float, height_mm: float) -> float:
    """How much smaller the sensor's diagonal is than that of a 36 x 24 mm frame."""
    return float(FULL_FRAME_DIAGONAL_MM / np.hypot(width_mm, height_mm))


def plate_shift_mm(thickness_mm: float, index: float) -> float:
    """How much farther light focuses behind a plane plate: t (n - 1) / n, paraxial; about a third of the thickness for glass."""
    return thickness_mm * (index - 1.0) / index
