"""A run of nights: darkness, Moon and targets of each, the sum, and how long one has been awake before the drive home."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import date, datetime, time, timedelta

import numpy as np

from widedusk.core.choices import DARK_SUN_DEG, Choices
from widedusk.core.exposure.response import Through
from widedusk.core.night.lanes import NightSummary, fortnight
from widedusk.core.night.weather import Cover, Forecast, clear_percent
from widedusk.core.night.windows import night_at, track
from widedusk.core.scene import Spot, Target
from widedusk.core.sky.time import mjd_from_datetime
from widedusk.core.verdict import Level, Quantity, Verdict, Working, duration_words

PACKING_H = 1.0  # from the end of darkness to the car; common practice, no source
TIRED_H, IMPAIRED_H = 14.0, 17.0


@dataclass(frozen=True)
class TargetTime:
    target: str
    minutes: int
    words: str


@dataclass(frozen=True)
class TripNightRow:
    """clear_percent: of the time from sunset to sunrise, by the forecast; none where it does not reach."""

    night: date
    spot: str
    summary: NightSummary
    targets: tuple[TargetTime, ...]
    clear_percent: float | None


@dataclass(frozen=True)
class TripOverview:
    nights: tuple[TripNightRow, ...]
    dark_words: str
    moonless_words: str
    verdict: Verdict


def _words(minutes: int) -> str:
    return duration_words(minutes * 60) if minutes else "none"


def overview(
    stops: Sequence[Spot],
    first_night: date,
    targets: Sequence[Target],
    choices: Choices,
    wake: time,
    drive_h: float,
    through: Through | None = None,
    forecasts: Sequence[Forecast | None] = (),
) -> TripOverview:
    """One spot a night from `first_night` on; forecasts: of each of them, where there is any. Raises InvalidInput for a date out of
    reach."""
    rows = []
    for number, spot in enumerate(stops):
        evening = first_night + timedelta(days=number)
        night = night_at(spot, evening)
        times = []
        for target in targets:
            minutes = track(night, target, choices, through).usable_minutes
            times.append(TargetTime(target.name, minutes, _words(minutes)))
        forecast = forecasts[number] if number < len(forecasts) else None
        clear = clear_percent(Cover(forecast, night)) if forecast else None
        rows.append(TripNightRow(evening, spot.name, fortnight(spot, evening, choices, 1)[0], tuple(times), clear))
    dark = sum(row.summary.dark_minutes for row in rows)
    moonless = sum(row.summary.moonless_minutes for row in rows)
    drive = _drive(stops[-1], rows[-1], wake, drive_h)
    nights = tuple(Quantity(f"{row.night:%-d %b}", text=row.summary.dark_words) for row in rows)
    darkness = Working(
        "dark",
        "Dark hours of the trip",
        "Σ time with the Sun's centre below the chosen altitude, in steps of five minutes; Moon below the horizon apart",
        (*nights, Quantity("Sun below", DARK_SUN_DEG[choices.darkness], "°", decimals=0)),
        Quantity("Dark in all", text=_words(dark)),
        "Sun and Moon by ERFA epv00 and moon98 (Meeus 1998)",
        "published",
        f"Of it without the Moon: {_words(moonless)}. Each target's time is its window of that night.",
    )
    figures = (Quantity("Dark in all", text=_words(dark), working="dark"), *drive.figures)
    verdict = replace(drive, figures=figures, workings=(*drive.workings, darkness))
    return TripOverview(tuple(rows), _words(dark), _words(moonless), verdict)


def _drive(spot: Spot, last: TripNightRow, wake: time, drive_h: float) -> Verdict:
    """Hours awake when the car starts after the last night, and when it arrives."""
    night = night_at(spot, last.night)
    _, dawn = night.sun_crossing(float(np.radians(DARK_SUN_DEG["astronomical"])))
    sunrise = night.sunset_and_sunrise()[1]
    ends = dawn or sunrise or float(night.mjd[len(night.mjd) // 2])
    woke = mjd_from_datetime(datetime.combine(last.night, wake, spot.zone))
    awake = (ends - woke) * 24.0 + PACKING_H
    home = awake + drive_h
    level: Level = "go" if home < TIRED_H else "care" if home < IMPAIRED_H else "stop"
    working = Working(
        "awake",
        "Hours awake",
        "end of darkness + packing − waking, + drive",
        (
            spot.moment("Darkness ends", ends),
            Quantity("Packing", PACKING_H, "h"),
            Quantity("Awake since", text=f"{wake:%H:%M}"),
            Quantity("Drive", drive_h, "h"),
        ),
        Quantity("Awake on arrival", home, "h"),
        "17 hours awake impair like 0.05 % of alcohol in the blood: Dawson & Reid 1997, Nature 388, 235; packing common practice",
        "published",
    )
    if drive_h == 0:
        sentence = f"No drive after the last night; by the end of it you have been awake for {awake:.0f} h."
        level = "go"
    else:
        sentence = f"You start the drive after {awake:.0f} h awake and arrive after {home:.0f} h."
    advice = {
        "go": "",
        "care": "Sleep an hour in the afternoon, or before you drive.",
        "stop": "Sleep there first: after 17 h awake people drive as they do with 0.05 % of alcohol in the blood.",
    }[level]
    figures = (
        Quantity("Awake at the start", awake, "h", decimals=0, working="awake"),
        Quantity("On arrival", home, "h", decimals=0, working="awake"),
    )
    return Verdict(
        "Drive home",
        level,
        sentence,
        "hours awake",
        advice,
        figures,
        workings=(working,),
        caution="" if drive_h == 0 else "Do not drive tired; where rules on resting hold, they come first.",
    )
