"""Where the stars near the pole stand, as the eye at the polar scope sees them.

facing north            facing south
   up                      up
W  +  E                 E  +  W        hour angle 0 is up in both; 6 h is left facing north,
 turns                   turns         right facing south. A scope that inverts turns the
 anticlockwise           clockwise     whole picture by half a turn.
"""

from dataclasses import dataclass
from typing import Literal

import numpy as np

from widedusk.core.kit.parts import ScopeView
from widedusk.core.sky.horizon import altaz, apparent_altitude, hour_angle, pressure_at
from widedusk.core.sky.places import Observer, star_place
from widedusk.core.sky.time import Floats
from widedusk.core.tracking.drift import direction

PoleKind = Literal["refracted", "true"]
MILLIARCSEC = np.radians(1.0 / 3.6e6)


@dataclass(frozen=True)
class PoleStar:
    """Catalogue place, ICRS at J2000.0. pm_ra_mas is mu_alpha * cos(delta), mas per year."""

    name: str
    hip: int
    ra_deg: float
    dec_deg: float
    pm_ra_mas: float
    pm_dec_mas: float
    parallax_mas: float
    magnitude: float


# Hipparcos, the new reduction (van Leeuwen 2007, VizieR I/311), carried from J1991.25 to J2000; V magnitudes from memory.
NORTH = (PoleStar("Polaris", 11767, 37.9545607, 89.2641090, 44.48, -11.85, 7.54, 1.98),)
SOUTH = (
    PoleStar("σ Oct", 104382, 317.1951637, -88.9564991, 25.75, 4.98, 11.61, 5.45),
    PoleStar("τ Oct", 115836, 352.0157901, -87.4822137, 16.83, 11.56, 6.71, 5.49),
    PoleStar("χ Oct", 92824, 283.6963882, -87.6058427, -36.88, -134.96, 12.70, 5.29),
    PoleStar("υ Oct", 111196, 337.9063340, -85.9672530, -37.08, 61.28, 10.06, 5.76),
)


@dataclass(frozen=True)
class DialMark:
    """One star on the dial. `clock_deg` runs clockwise from the top of what the eye sees."""

    name: str
    magnitude: float
    hour_angle_h: float
    polar_distance_arcmin: float
    clock_deg: float
    radius_arcmin: float

    @property
    def clock_hours(self) -> float:
        """The same direction on a face of twelve hours, 0 at the top."""
        return self.clock_deg / 30.0


@dataclass(frozen=True)
class Dial:
    south: bool
    view: ScopeView
    pole: PoleKind
    pole_altitude_deg: float  # of the point the axis should aim at
    refraction_arcmin: float
    marks: tuple[DialMark, ...]


def _places(stars: tuple[PoleStar, ...], mjd: float) -> tuple[Floats, Floats]:
    ra, dec = np.radians([star.ra_deg for star in stars]), np.radians([star.dec_deg for star in stars])
    pm_ra = np.array([star.pm_ra_mas for star in stars]) * MILLIARCSEC / np.cos(dec)
    pm_dec = np.array([star.pm_dec_mas for star in stars]) * MILLIARCSEC
    return star_place(ra, dec, mjd, pm_ra, pm_dec, np.array([star.parallax_mas for star in stars]) / 1000.0)


def dial(observer: Observer, mjd: float, view: ScopeView, pole: PoleKind = "refracted", temperature_c: float = 10.0) -> Dial:
    """The pole's stars around the point at which the axis should aim, at one moment.

    With the refracted pole the axis aims where the pole appears, about 0.8' above the true one at latitude 50°.
    """
    stars = SOUTH if observer.south else NORTH
    ra, dec = _places(stars, mjd)
    moment = np.asarray(mjd)
    altitude, azimuth = altaz(ra, dec, moment, observer)
    pressure = pressure_at(observer.height_m)
    apparent = apparent_altitude(altitude, pressure, temperature_c)
    true_pole = abs(observer.latitude_rad)
    refracted_pole = float(apparent_altitude(true_pole, pressure, temperature_c))
    aim_altitude = refracted_pole if pole == "refracted" else true_pole
    aim_azimuth = np.pi if observer.south else 0.0
    star, aim = direction(apparent, azimuth), direction(aim_altitude, aim_azimuth)
    up = direction(aim_altitude + np.pi / 2, aim_azimuth)
    right = direction(0.0, aim_azimuth + np.pi / 2)
    clock = np.arctan2(star @ right, star @ up) + (np.pi if view == "inverted" else 0.0)
    radius = np.arccos(np.clip(star @ aim, -1.0, 1.0))
    hours = np.degrees(hour_angle(ra, moment, observer.longitude_rad)) / 15.0 % 24.0
    marks = tuple(
        DialMark(
            one.name,
            one.magnitude,
            float(hours[i]),
            float(np.degrees(np.pi / 2 - abs(dec[i])) * 60.0),
            float(np.degrees(clock[i]) % 360.0),
            float(np.degrees(radius[i]) * 60.0),
        )
        for i, one in enumerate(stars)
    )
    return Dial(
        observer.south, view, pole, float(np.degrees(aim_altitude)), float(np.degrees(refracted_pole - true_pole) * 60.0), marks
    )
