"""Where a magnetic needle points, by the World Magnetic Model in force."""

from dataclasses import dataclass
from datetime import date
from functools import cache

from pygeomag import GeoMag

from widedusk.core.verdict import Level, Quantity, Verdict, Working

MODEL_FROM, MODEL_TO = 2025.0, 2030.0  # WMM2025, NOAA/NCEI and BGS
WEAK_FIELD_NT = 6_000.0  # horizontal; below it the model's makers call compasses unreliable (caution zone)


@dataclass(frozen=True)
class Needle:
    declination_deg: float  # east positive
    drift_deg_year: float
    horizontal_nt: float
    in_force: bool  # false: the model is used outside its years, at its nearest end


@cache
def _model() -> GeoMag:
    return GeoMag()


def decimal_year(day: date) -> float:
    start, end = date(day.year, 1, 1), date(day.year + 1, 1, 1)
    return day.year + (day - start).days / (end - start).days


def needle(latitude_deg: float, longitude_deg: float, height_m: float, day: date) -> Needle:
    """Declination and its drift. Outside the model's years its nearest end is used and told."""
    year = decimal_year(day)
    used = min(max(year, MODEL_FROM), MODEL_TO - 0.001)
    before = min(used, MODEL_TO - 1.0)  # the year over which the drift is taken lies within the model's

    def at(when: float) -> tuple[float, float]:
        found = _model().calculate(glat=latitude_deg, glon=longitude_deg, alt=height_m / 1000.0, time=when)
        return float(found.d), float(found.h)

    now, field = at(used)
    turn = (at(before + 0.999)[0] - at(before)[0] + 180.0) % 360.0 - 180.0
    return Needle(now, turn / 0.999, field, MODEL_FROM <= year < MODEL_TO)


def _side(degrees: float) -> str:
    return "east" if degrees >= 0 else "west"


def compass_verdict(latitude_deg: float, longitude_deg: float, height_m: float, day: date) -> Verdict:
    """What to set on a magnetic compass to face the celestial pole."""
    found = needle(latitude_deg, longitude_deg, height_m, day)
    south = latitude_deg < 0
    bearing = ((180.0 if south else 0.0) - found.declination_deg) % 360.0
    weak = found.horizontal_nt < WEAK_FIELD_NT
    level: Level = "care" if weak or not found.in_force else "go"
    advice = ""
    if weak:
        advice = "The field is too steep here for a compass; use the Sun, a landmark or two photographs."
    elif not found.in_force:
        advice = f"The model holds from {MODEL_FROM:.0f} to {MODEL_TO:.0f}; this is its nearest end."
    working = Working(
        "bearing",
        "Bearing to set on a magnetic compass",
        "B = true bearing − D",
        (
            Quantity("True bearing of the pole", 180.0 if south else 0.0, "°", decimals=0),
            Quantity("Declination, east positive", found.declination_deg, "°", "D", 2),
            Quantity("Drift", found.drift_deg_year, "° a year", decimals=2),
            Quantity("Horizontal field", found.horizontal_nt, "nT", decimals=0),
        ),
        Quantity("Bearing", bearing, "°", "B", 1),
        "World Magnetic Model WMM2025, NOAA/NCEI and BGS, valid 2025.0 to 2030.0",
        "published",
        "A phone set to true north has taken this off already: do not correct twice.",
    )
    return Verdict(
        "Compass",
        level,
        f"The needle points {abs(found.declination_deg):.1f}° {_side(found.declination_deg)} of true north; "
        f"set {bearing:.0f}° to face the {'south' if south else 'north'} pole.",
        "magnetic declination",
        advice,
        (
            Quantity("Declination", found.declination_deg, "°", decimals=1, working="bearing"),
            Quantity("Drift", found.drift_deg_year, "° a year", decimals=2, working="bearing"),
        ),
        (),
        (working,),
    )
