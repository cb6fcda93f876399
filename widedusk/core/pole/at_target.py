"""What a measured axis error does to one target, with the air's part in it.

The mount turns about its own axis M; a star, lifted by the air, goes its own way. On the sensor it moves with

    ds/dt + w M x s        s, M: unit vectors, local east-north-up; without air this is w (M - P) x s
"""

import numpy as np

from widedusk.core.choices import PoleKind
from widedusk.core.exposure.setting import Drift
from widedusk.core.pole.axis import AxisError, aim, axis_direction
from widedusk.core.scene import Target
from widedusk.core.sky.horizon import altaz, apparent_altitude, pressure_at
from widedusk.core.sky.places import Observer, star_place
from widedusk.core.sky.time import SECOND, Floats
from widedusk.core.tracking.drift import SIDEREAL_RATE_RAD_S, direction, field_rotation_rad_s, pole_direction

RADIAN_ARCSEC = float(np.degrees(1.0) * 3600.0)
STEP_S = 60.0  # for the rate of the seen place


def drifts_at(error: AxisError, observer: Observer, pole: PoleKind, target: Target, mjd: Floats) -> tuple[Drift, ...]:
    """Drift of a target at even moments of a window, split along right ascension and declination, the fastest first.

    mjd: the moments, shape (n,). Refraction is that of mean air at the height, Bennett 1982.
    """
    ra, dec = star_place(np.radians(target.ra_deg), np.radians(target.dec_deg), float(mjd[len(mjd) // 2]))

    def seen(moments: Floats) -> Floats:
        altitude, azimuth = altaz(ra, dec, moments, observer)
        return direction(apparent_altitude(altitude, pressure_at(observer.height_m)), azimuth)

    before, star, after = (seen(mjd + step * SECOND) for step in (-STEP_S / 2, 0.0, STEP_S / 2))
    aim_altitude, aim_azimuth = aim(observer, pole)
    axis, towards = axis_direction(error, aim_altitude, aim_azimuth), direction(aim_altitude, aim_azimuth)
    northern = -axis if observer.south else axis
    drift = (after - before) / STEP_S + SIDEREAL_RATE_RAD_S * np.cross(northern, star)
    east = np.cross(pole_direction(observer.latitude_rad), star)
    east /= np.maximum(np.linalg.norm(east, axis=-1, keepdims=True), 1e-9)
    north = np.cross(star, east)
    along, across = np.sum(drift * east, axis=-1) * RADIAN_ARCSEC, np.sum(drift * north, axis=-1) * RADIAN_ARCSEC
    turn = np.abs(field_rotation_rad_s(axis, towards, star))
    total = error.total_arcmin
    found = [Drift(float(a), float(b), float(c), total) for a, b, c in zip(along, across, turn, strict=True)]
    return tuple(sorted(found, key=lambda one: -float(np.hypot(one.ra_arcsec_s, one.dec_arcsec_s))))
