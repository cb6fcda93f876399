"""The tracker's axis and the point it should aim at: what is measured, in the same words whatever measured it."""

from dataclasses import dataclass

import numpy as np

from widedusk.core.choices import PoleKind
from widedusk.core.sky.horizon import apparent_altitude, pressure_at
from widedusk.core.sky.places import Observer
from widedusk.core.sky.time import Floats
from widedusk.core.tracking.drift import direction

ARCMIN = np.radians(1.0 / 60.0)


@dataclass(frozen=True)
class AxisError:
    """Where the end of the axis that points at the sky stands, seen from the pole it should point at; arcminutes.

    high: above the pole, east: towards the east along the horizon's circle (on the sky, not in azimuth), with standard deviations.
    Together they are the distance from the pole along a great circle, split by the direction in which the axis stands.
    """

    altitude_arcmin: float
    azimuth_arcmin: float
    altitude_sigma: float
    azimuth_sigma: float

    @property
    def total_arcmin(self) -> float:
        return float(np.hypot(self.altitude_arcmin, self.azimuth_arcmin))

    @property
    def total_sigma(self) -> float:
        """Of the distance: the spread along the direction in which the axis stands; the larger one where it stands on the pole."""
        total = self.total_arcmin
        if total < 1e-9:
            return max(self.altitude_sigma, self.azimuth_sigma)
        return float(np.hypot(self.altitude_arcmin * self.altitude_sigma, self.azimuth_arcmin * self.azimuth_sigma) / total)


@dataclass(frozen=True)
class UsualAxis:
    """An alignment that nobody measured: nine in ten that are done this way stand within worst_arcmin of the pole."""

    way: str
    worst_arcmin: float


Axis = AxisError | UsualAxis


def aim(observer: Observer, pole: PoleKind, temperature_c: float = 10.0) -> tuple[float, float]:
    """Altitude and azimuth at which the axis should point, radians."""
    true = abs(observer.latitude_rad)
    lifted = float(apparent_altitude(true, pressure_at(observer.height_m), temperature_c))
    return (lifted if pole == "refracted" else true), (np.pi if observer.south else 0.0)


def error_frame(aim_altitude: float, aim_azimuth: float) -> Floats:
    """Upward and eastward unit vectors at the point aimed at, east-north-up, shape (2, 3)."""
    return np.stack([direction(aim_altitude + np.pi / 2, aim_azimuth), np.array([1.0, 0.0, 0.0])])


def axis_direction(error: AxisError, aim_altitude: float, aim_azimuth: float) -> Floats:
    """Where an axis with this error points, east-north-up."""
    off = error.total_arcmin * ARCMIN
    across = np.array([error.altitude_arcmin, error.azimuth_arcmin]) @ error_frame(aim_altitude, aim_azimuth)
    length = float(np.linalg.norm(across))
    sideways = across / length if length > 0 else across
    return np.asarray(np.cos(off) * direction(aim_altitude, aim_azimuth) + np.sin(off) * sideways)


def error_of_axis(axis: Floats, covariance: Floats, aim_altitude: float, aim_azimuth: float) -> AxisError:
    """An axis (east-north-up unit vector, covariance rad², shape (3, 3)) as an error."""
    frame = error_frame(aim_altitude, aim_azimuth)
    across = frame @ axis
    sine = float(np.linalg.norm(across))
    distance = np.arctan2(sine, float(axis @ direction(aim_altitude, aim_azimuth)))
    high, east = across / max(sine, 1e-12) * distance / ARCMIN
    sigma = np.sqrt(np.maximum(np.diag(frame @ covariance @ frame.T), 0.0)) / ARCMIN
    return AxisError(float(high), float(east), float(sigma[0]), float(sigma[1]))


def arc_words(arcmin: float) -> str:
    """An angle as people say it: 4.3′, 25′, 1.4°."""
    return f"{arcmin / 60:.1f}°" if arcmin >= 90 else f"{arcmin:.1f}′" if arcmin < 9.95 else f"{arcmin:.0f}′"


def axis_words(axis: Axis) -> str:
    """How far off the pole, and whether anybody knows."""
    return arc_words(axis.total_arcmin) if isinstance(axis, AxisError) else f"usually within {arc_words(axis.worst_arcmin)}"


def hand(east: bool, south: bool) -> str:
    """Which hand a side is on for somebody who faces the pole."""
    return "left" if east == south else "right"
