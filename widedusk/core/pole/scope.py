"""The polar scope over an evening: the dial now, a table for the print, and what a wrong hour or longitude costs."""

from dataclasses import dataclass
from datetime import datetime

import numpy as np

from widedusk.core.choices import PoleKind
from widedusk.core.kit.parts import ScopeView
from widedusk.core.pole.axis import arc_words
from widedusk.core.pole.dial import Dial, Turning, dial, turning
from widedusk.core.scene import Spot
from widedusk.core.sky.places import Observer
from widedusk.core.sky.time import MINUTE, datetime_from_mjd
from widedusk.core.verdict import Quantity, Verdict, Working

HALF_A_NIGHT, HALF_AN_HOUR = 0.25, 1.0 / 48.0
TABLE_STEP_MIN = 10
TABLE_HOURS = 6.0
DEGREES_AN_HOUR = 15.041


@dataclass(frozen=True)
class ScopeRow:
    """One line of the table: where the guiding star stands on three kinds of dial."""

    moment: datetime
    clock: str
    clock_hours: float  # 12-hour face, 0 at the top, clockwise
    parts_24: float  # 24-part face, 0 at the top, clockwise
    degrees: float  # 0 to 360, clockwise from the top
    radius_arcmin: float


@dataclass(frozen=True)
class YearRing:
    """Polar distance of the guiding star in another year: reticles carry rings for a few of them."""

    year: int
    radius_arcmin: float


@dataclass(frozen=True)
class Scope:
    dial: Dial
    at: datetime  # of the dial
    turning: Turning
    clock: str
    star: str
    rows: tuple[ScopeRow, ...]
    rings: tuple[YearRing, ...]
    other_ring_arcmin: float  # of the other hemisphere's guiding star: many reticles carry both
    cost: Verdict


def _rings(spot: Spot, mjd: float, view: ScopeView) -> tuple[YearRing, ...]:
    """The mean of a day takes the refraction out, so that a ring is a ring."""
    year = datetime_from_mjd(mjd).year
    rings = []
    for offset in (-6, -3, 0, 3, 6):
        at = mjd + offset * 365.25
        radii = [dial(spot.observer, at + part / 8.0, view, "true").marks[0].polar_distance_arcmin for part in range(8)]
        rings.append(YearRing(year + offset, float(np.mean(radii))))
    return tuple(rings)


def scope(
    spot: Spot, mjd: float, view: ScopeView, pole: PoleKind, span: tuple[float, float] | None = None, temperature_c: float = 10.0
) -> Scope:
    """Everything about the polar scope from one moment on. span: of the night, MJD; none: six hours either way."""
    first, last = span or (mjd - HALF_A_NIGHT, mjd + HALF_A_NIGHT)
    face = dial(spot.observer, mjd, view, pole, temperature_c)
    star = face.marks[0]
    across = Observer(-spot.observer.latitude_rad, spot.observer.longitude_rad, spot.height_m)
    other = dial(across, mjd, view, pole, temperature_c).marks[0].polar_distance_arcmin
    rows = []
    for minutes in np.arange(0.0, TABLE_HOURS * 60.0 + 1.0, TABLE_STEP_MIN):
        at = float(np.round(mjd * 1440) / 1440 + minutes * MINUTE)
        mark = dial(spot.observer, at, view, pole, temperature_c).marks[0]
        rows.append(
            ScopeRow(
                datetime_from_mjd(at), spot.clock(at), mark.clock_hours, mark.clock_deg / 15.0, mark.clock_deg, mark.radius_arcmin
            )
        )
    # A star set at a wrong angle puts the axis off by the chord of that angle at its distance from the pole.
    an_hour = 2.0 * star.radius_arcmin * np.sin(np.radians(DEGREES_AN_HOUR / 2.0))
    a_degree = 2.0 * star.radius_arcmin * np.sin(np.radians(0.5))
    working = Working(
        "cost",
        "What a wrong angle on the dial costs",
        "ε = 2 r sin(Δ / 2)",
        (
            Quantity(f"{star.name} from the point aimed at", star.radius_arcmin, "′", "r", 1),
            Quantity("An hour turns the sky by", DEGREES_AN_HOUR, "°", "Δ", 2),
            Quantity("A degree of longitude by", 1.0, "°", "Δ", 0),
        ),
        Quantity("An hour wrong", an_hour, "′", decimals=1),
        "Chord of a circle",
        "definition",
    )
    cost = Verdict(
        "What it costs",
        "go",
        f"An hour wrong, as with summer time, costs {arc_words(an_hour)}; a degree of longitude {arc_words(a_degree)}.",
        "how far the star is from the pole",
        f"The {'true' if pole == 'refracted' else 'refracted'} pole instead: {face.refraction_arcmin:.1f}′.",
        (
            Quantity("An hour", an_hour, "′", decimals=1, working="cost"),
            Quantity("A degree of longitude", a_degree, "′", decimals=1, working="cost"),
        ),
        workings=(working,),
    )
    ways = turning(spot, min(first, mjd), max(last, mjd + HALF_AN_HOUR), view, pole, temperature_c)
    return Scope(face, datetime_from_mjd(mjd), ways, spot.clock(mjd), star.name, tuple(rows), _rings(spot, mjd, view), other, cost)
