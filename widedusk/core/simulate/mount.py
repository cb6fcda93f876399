"""A tracker on a tripod: an axis that points nearly at the pole, a worm that is nearly even.

All vectors are unit vectors in a frame of x north, y west, z up.
"""

from dataclasses import dataclass

import erfa
import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]

SKY_TURN_RAD_S = 2.0 * np.pi / 86164.0905  # one turn in a mean sidereal day


@dataclass(frozen=True)
class Site:
    """Where the tripod stands and what air lies over it."""

    latitude_deg: float
    longitude_deg: float
    height_m: float = 500.0
    pressure_hpa: float = 955.0
    temperature_c: float = 10.0
    humidity: float = 0.5

    @property
    def south(self) -> bool:
        return self.latitude_deg < 0

    def refraction_constants(self) -> tuple[float, float]:
        """ERFA's A and B: the air lifts by A tan z + B tan³ z, z the observed distance from the zenith."""
        a, b = erfa.refco(self.pressure_hpa, self.temperature_c, self.humidity, 0.55)
        return float(a), float(b)

    def refracted_pole_altitude(self) -> float:
        """Where the pole in the sky is seen, radians."""
        a, b = self.refraction_constants()
        true = seen = np.radians(90.0 - abs(self.latitude_deg))
        for _ in range(8):
            seen = true - a * np.tan(seen) - b * np.tan(seen) ** 3
        return float(np.pi / 2 - seen)


def from_compass(altitude_rad: float | Floats, azimuth_rad: float | Floats) -> Floats:
    """North-west-up direction of an altitude and an azimuth counted from north through east; shape (..., 3)."""
    altitude, azimuth = np.broadcast_arrays(altitude_rad, azimuth_rad)
    return np.stack([np.cos(altitude) * np.cos(azimuth), -np.cos(altitude) * np.sin(azimuth), np.sin(altitude)], axis=-1)


def turned(vector: Floats, axis: Floats, angle: float) -> Floats:
    """Rodrigues' rotation of (..., 3) vectors, right-handed about a unit axis."""
    along = (vector @ axis)[..., None] * axis
    return np.asarray(along + np.cos(angle) * (vector - along) + np.sin(angle) * np.cross(axis, vector))


@dataclass(frozen=True)
class Mount:
    """Its axis stands `high` above and `east` of the refracted pole in the sky, arcminutes on the sky."""

    site: Site
    altitude_arcmin: float = 0.0
    azimuth_arcmin: float = 0.0
    pe_half_amplitude_arcsec: float = 0.0
    pe_period_s: float = 480.0
    pe_phase_rad: float = 0.0
    running: bool = True

    @property
    def axis(self) -> Floats:
        """Towards the pole that is above the ground."""
        altitude = self.site.refracted_pole_altitude()
        pole = from_compass(altitude, np.pi if self.site.south else 0.0)
        above = from_compass(altitude + np.pi / 2, np.pi if self.site.south else 0.0)
        east = np.array([0.0, -1.0, 0.0])
        off = np.radians(np.hypot(self.altitude_arcmin, self.azimuth_arcmin) / 60.0)  # along a great circle from the pole
        heading = np.arctan2(self.azimuth_arcmin, self.altitude_arcmin)
        return np.asarray(np.cos(off) * pole + np.sin(off) * (np.cos(heading) * above + np.sin(heading) * east))

    def angle(self, seconds: float, by_hand_rad: float = 0.0) -> float:
        """How far it has turned since the start, in the sense of the sky (from east to west), radians."""
        run = SKY_TURN_RAD_S * seconds if self.running else 0.0
        wobble = np.radians(self.pe_half_amplitude_arcsec / 3600.0)
        worm = wobble * np.sin(2.0 * np.pi * seconds / self.pe_period_s + self.pe_phase_rad) if self.running else 0.0
        return float(by_hand_rad + run + worm)

    def carried(self, vectors: Floats, seconds: float, by_hand_rad: float = 0.0) -> Floats:
        """Directions fixed to the camera, after the mount has turned."""
        # The sky turns right-handed about the pole that is below the ground in the north, above it in the south.
        sense = 1.0 if self.site.south else -1.0
        return turned(vectors, self.axis, sense * self.angle(seconds, by_hand_rad))
