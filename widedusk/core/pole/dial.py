"""Where the stars near the pole stand, as the eye at the polar scope sees them.

facing north            facing south
   up                      up
W  +  E                 E  +  W        hour angle 0 is up in both; 6 h is left facing north,
 turns                   turns         right facing south. A scope that inverts turns the
 anticlockwise           clockwise     whole picture by half a turn.
"""

from dataclasses import dataclass
from datetime import datetime

import numpy as np

from widedusk.core.choices import PoleKind
from widedusk.core.kit.parts import ScopeView
from widedusk.core.pole.axis import aim
from widedusk.core.scene import Spot
from widedusk.core.sky.horizon import altaz, apparent_altitude, hour_angle, pressure_at
from widedusk.core.sky.places import Observer, star_place
from widedusk.core.sky.time import MINUTE, Floats, datetime_from_mjd
from widedusk.core.tracking.drift import direction

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


@dataclass(frozen=True)
class Arc:
    """One star's way, point by point; angles as in DialMark."""

    name: str
    clock_deg: list[float]
    radius_arcmin: list[float]


@dataclass(frozen=True)
class Turning:
    """How the pole's stars move over a night: moments in even steps with the clock of the place, and each star's way."""

    moments: list[datetime]
    clocks: list[str]
    arcs: tuple[Arc, ...]


ARC_STEP_MIN = 10


def _seen(
    observer: Observer, ra: Floats, dec: Floats, mjd: Floats, view: ScopeView, pole: PoleKind, temperature_c: float
) -> tuple[Floats, Floats]:
    """(angle clockwise from the top, distance) of stars from the point aimed at, radians; arrays broadcast."""
    altitude, azimuth = altaz(ra, dec, mjd, observer)
    apparent = apparent_altitude(altitude, pressure_at(observer.height_m), temperature_c)
    height, heading = aim(observer, pole, temperature_c)
    star, aimed = direction(apparent, azimuth), direction(height, heading)
    up, right = direction(height + np.pi / 2, heading), direction(0.0, heading + np.pi / 2)
    clock = np.arctan2(star @ right, star @ up) + (np.pi if view == "inverted" else 0.0)
    return clock % (2.0 * np.pi), np.arccos(np.clip(star @ aimed, -1.0, 1.0))


def dial(observer: Observer, mjd: float, view: ScopeView, pole: PoleKind = "refracted", temperature_c: float = 10.0) -> Dial:
    """The pole's stars around the point at which the axis should aim, at one moment.

    With the refracted pole the axis aims where the pole appears, about 0.8' above the true one at latitude 50°.
    """
    stars = SOUTH if observer.south else NORTH
    ra, dec = _places(stars, mjd)
    clock, radius = _seen(observer, ra, dec, np.asarray(mjd), view, pole, temperature_c)
    hours = np.degrees(hour_angle(ra, np.asarray(mjd), observer.longitude_rad)) / 15.0 % 24.0
    marks = tuple(
        DialMark(
            one.name,
            one.magnitude,
            float(hours[i]),
            float(np.degrees(np.pi / 2 - abs(dec[i])) * 60.0),
            float(np.degrees(clock[i])),
            float(np.degrees(radius[i]) * 60.0),
        )
        for i, one in enumerate(stars)
    )
    height = aim(observer, pole, temperature_c)[0]
    lifted = aim(observer, "refracted", temperature_c)[0] - abs(observer.latitude_rad)
    return Dial(observer.south, view, pole, float(np.degrees(height)), float(np.degrees(lifted) * 60.0), marks)


def turning(
    spot: Spot,
    first_mjd: float,
    last_mjd: float,
    view: ScopeView,
    pole: PoleKind = "refracted",
    temperature_c: float = 10.0,
    step_min: int = ARC_STEP_MIN,
) -> Turning:
    """The pole's stars from one moment to another, in even steps by the clock."""
    step = step_min * MINUTE
    mjd = np.arange(np.ceil(first_mjd / step - 1e-6), np.floor(last_mjd / step + 1e-6) + 1.0) * step
    stars = SOUTH if spot.observer.south else NORTH
    ra, dec = _places(stars, float(mjd[len(mjd) // 2]))
    arcs = []
    for i, one in enumerate(stars):
        clock, radius = _seen(spot.observer, ra[i], dec[i], mjd, view, pole, temperature_c)
        arcs.append(Arc(one.name, np.round(np.degrees(clock), 2).tolist(), np.round(np.degrees(radius) * 60.0, 2).tolist()))
    return Turning([datetime_from_mjd(float(at)) for at in mjd], [spot.clock(float(at)) for at in mjd], tuple(arcs))
