"""Drift from polar misalignment.

The tracker turns about its own axis M, the sky about the pole P, both at the sidereal rate w.
In the camera's frame a star at s therefore moves with  w (M - P) x s,  and the field turns
about s at  w (M - P) . s.     M, P, s: unit vectors, local east-north-up.
"""

import numpy as np

from widedusk.core.sky.time import Floats

SIDEREAL_RATE_RAD_S = 7.292115e-5  # rotation of the Earth against the stars, IERS Conventions 2010
SIDEREAL_RATE_ARCSEC_S = float(np.degrees(SIDEREAL_RATE_RAD_S) * 3600.0)


def direction(altitude: Floats | float, azimuth: Floats | float) -> Floats:
    """East-north-up unit vector, shape (..., 3), of an altitude and azimuth in radians."""
    altitude, azimuth = np.broadcast_arrays(altitude, azimuth)
    return np.stack([np.cos(altitude) * np.sin(azimuth), np.cos(altitude) * np.cos(azimuth), np.sin(altitude)], axis=-1)


def pole_direction(latitude_rad: float) -> Floats:
    """The north celestial pole, for southern observers too (there it lies below the ground)."""
    return direction(latitude_rad, 0.0)


def drift_rad_s(axis: Floats, pole: Floats, star: Floats) -> Floats:
    """Drift vector of a star, radians per second, east-north-up, shape (..., 3). Exact to first order in the axis error.

    For a southern tracker give its northern end (the opposite of where it points) together with the northern pole.
    """
    return np.asarray(SIDEREAL_RATE_RAD_S * np.cross(axis - pole, star))


def field_rotation_rad_s(axis: Floats, pole: Floats, star: Floats) -> Floats:
    """Rate at which the field turns about a star, radians per second."""
    return np.asarray(SIDEREAL_RATE_RAD_S * np.sum((axis - pole) * star, axis=-1))


def worst_drift_arcsec_s(axis_error_rad: Floats | float) -> Floats:
    """Largest drift an axis error can cause for any star: w * error. It runs along declination."""
    return np.asarray(SIDEREAL_RATE_ARCSEC_S * np.asarray(axis_error_rad))
