"""A target's year from one spot: usable time night by night, and when it first clears the roof before midnight."""

from dataclasses import dataclass
from datetime import date, datetime, time, timedelta

import numpy as np
from numpy.typing import NDArray

from widedusk.core.choices import Choices
from widedusk.core.exposure.response import Through, moon_limit_mag
from widedusk.core.night.season import STEP_MIN, WORTH_MIN, clear_at, dark_at, highest_altitude_deg, moon_bearable, night_grid
from widedusk.core.scene import Spot, Target
from widedusk.core.sky.horizon import altaz
from widedusk.core.sky.places import star_place
from widedusk.core.sky.time import Floats, day_words, mjd_from_datetime
from widedusk.core.verdict import Level, Quantity, Verdict, Working, duration_words

YEAR = 365


@dataclass(frozen=True)
class YearNight:
    night: date
    dark_minutes: int
    clear_minutes: int  # dark and clear of everything, Moon aside
    usable_minutes: int  # and the Moon bearable


@dataclass(frozen=True)
class YearCalendar:
    """A year of nights from the given one on, with what stands out in it."""

    nights: tuple[YearNight, ...]
    verdict: Verdict
    best: date | None
    first_before_midnight: date | None
    last_worth_it: date | None  # of the run of nights with an hour that is on or comes next


def _midnights(spot: Spot, after: date, nights: int) -> Floats:
    """MJD at which the local clock strikes twelve in each night."""
    return np.array(
        [mjd_from_datetime(datetime.combine(after + timedelta(days=number + 1), time(0), spot.zone)) for number in range(nights)]
    )


def _day(after: date, nights: NDArray[np.bool_]) -> date | None:
    return after + timedelta(days=int(np.argmax(nights))) if nights.any() else None


def year_calendar(spot: Spot, target: Target, after: date, choices: Choices, through: Through | None = None) -> YearCalendar:
    """Look through the coming year. Raises InvalidInput for a date out of reach."""
    limit_mag = moon_limit_mag(through, target, choices.moon_limit_mag)
    mjd = night_grid(spot, after, YEAR)
    dark = dark_at(spot, mjd, choices)
    ra, dec = star_place(np.radians(target.ra_deg), np.radians(target.dec_deg), float(np.mean(mjd)))
    altitude, azimuth = altaz(ra, dec, mjd, spot.observer)
    clear = dark & clear_at(spot, altitude, azimuth, choices)
    usable = clear.copy()
    if clear.any():
        usable[clear] = moon_bearable(spot, ra, dec, mjd[clear], altitude[clear], limit_mag)
    dark_min, clear_min, usable_min = (STEP_MIN * np.count_nonzero(one, axis=1) for one in (dark, clear, usable))

    early = np.asarray((clear & (mjd < _midnights(spot, after, mjd.shape[0])[:, None])).any(axis=1))
    best = after + timedelta(days=int(np.argmax(clear_min))) if clear_min.any() else None
    worth = clear_min >= WORTH_MIN
    begins = int(np.argmax(worth)) if worth.any() else None
    ends = begins + int(np.argmin(np.append(worth[begins:], False))) - 1 if begins is not None else None
    nights = tuple(
        YearNight(after + timedelta(days=number), int(dark_min[number]), int(clear_min[number]), int(usable_min[number]))
        for number in range(mjd.shape[0])
    )
    first_early, last = _day(after, early), after + timedelta(days=ends) if ends is not None else None
    verdict = _verdict(spot, target, choices, limit_mag, nights, best, first_early, last)
    return YearCalendar(nights, verdict, best, first_early, last)


def _verdict(
    spot: Spot,
    target: Target,
    choices: Choices,
    limit_mag: float,
    nights: tuple[YearNight, ...],
    best: date | None,
    early: date | None,
    last: date | None,
) -> Verdict:
    tonight = nights[0]
    highest = highest_altitude_deg(spot.latitude_deg, target.dec_deg)
    working = Working(
        "year",
        "Usable time of a night",
        "dark ∩ above the horizon profile ∩ above the lowest altitude, every ten minutes of 365 nights",
        (
            Quantity("Latitude", spot.latitude_deg, "°", "φ", 2),
            Quantity("Declination", target.dec_deg, "°", "δ", 2),
            Quantity("Highest altitude, 90° − |φ − δ|", highest, "°"),
            Quantity("Lowest altitude", choices.min_altitude_deg, "°", decimals=0),
            Quantity("The Moon may add", limit_mag, "mag"),
        ),
        Quantity("Best night", text=day_words(best) if best else "none"),
        "IAU 2006/2000A places through ERFA; one apparent place for the year",
        "published",
        "Moonlit minutes are counted apart: they change from month to month.",
    )
    if best is None:
        return Verdict(
            "Season",
            "stop",
            f"{target.name} never clears {spot.name} while it is dark, on no night of the coming year.",
            "latitude" if highest < choices.min_altitude_deg else "what stands in the way at this spot",
            "Try another spot or another place.",
            (Quantity("Highest, any time", highest, "°", working="year"),),
            workings=(working,),
        )
    most = max(one.clear_minutes for one in nights)
    figures = (
        Quantity("Best night", text=day_words(best), working="year"),
        Quantity("Then usable", text=duration_words(most * 60), working="year"),
        Quantity("Tonight", text=duration_words(tonight.clear_minutes * 60) if tonight.clear_minutes else "none", working="year"),
    )
    when = f"Best on {day_words(best)} with {duration_words(most * 60)}, Moon aside."
    if early == tonight.night:
        sentence = f"{target.name} clears the horizon profile before midnight already."
    elif early:
        sentence = f"{target.name} first clears the horizon profile before midnight on {day_words(early)}."
    else:
        sentence = f"{target.name} clears the horizon profile after midnight only, all year."
    until = f" Nights with an hour or more last until {day_words(last)}." if last and last < nights[-1].night else ""
    level: Level = "go" if tonight.clear_minutes >= WORTH_MIN else "care"
    return Verdict("Season", level, sentence, "the season", when + until, figures, workings=(working,))
