"""One night for several targets side by side, and the fortnight around it."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, datetime, timedelta
from typing import cast

import numpy as np

from widedusk.core.choices import DARK_SUN_DEG, Choices
from widedusk.core.exposure.response import Through
from widedusk.core.night.season import night_grid
from widedusk.core.night.verdict import Clear, window_verdict
from widedusk.core.night.windows import STATES, Night, Run, Track, strip_span, track
from widedusk.core.scene import Spot, Target
from widedusk.core.sky.brightness import EXTINCTION_V, airmass, flux
from widedusk.core.sky.horizon import sin_altitude
from widedusk.core.sky.places import moon_phase_angle, moon_place, sun_place
from widedusk.core.sky.time import datetime_from_mjd, day_words
from widedusk.core.verdict import Level, Quantity, Verdict, Working, duration_words

SLOT_MIN = 120
LANE_STEP_MIN = 2
FORTNIGHT = 14
FORTNIGHT_STEP_MIN = 5


@dataclass(frozen=True)
class Slot:
    """A stretch of the clock, and its minutes on the strip."""

    first: int
    last: int
    from_clock: str
    to_clock: str


@dataclass(frozen=True)
class Lane:
    """One target through the night; lists every LANE_STEP_MIN minutes from the start of the strip, degrees."""

    name: str
    state: list[str]
    altitude: list[float]
    obstruction: list[float]
    usable_minutes: int
    usable_words: str
    transit: datetime | None  # highest while the night is shown
    transit_clock: str
    transit_deg: float
    best: Slot | None  # the two hours in which it costs least time
    usable: tuple[Slot, ...]
    minutes_by_state: dict[str, int]
    verdict: Verdict


@dataclass(frozen=True)
class Lanes:
    start: datetime
    step_min: int
    lanes: tuple[Lane, ...]


def _cost(path: Track, run: Run) -> np.ndarray[tuple[int], np.dtype[np.float64]]:
    """Time that a given signal to noise takes in each minute of a run, relative: sky / dimming²; the sky dominates."""
    window = slice(run[0], run[1] + 1)
    dimming = 10.0 ** (-0.4 * EXTINCTION_V * airmass(path.altitude[window]))
    return np.asarray(flux(path.sky_mag[window]) / dimming**2)


def best_slot(path: Track) -> Run | None:
    """The SLOT_MIN minutes within the longest usable stretch that cost least; the whole of a shorter one."""
    run = path.best_run
    if run is None or run[1] - run[0] <= SLOT_MIN:
        return run
    sums = np.convolve(_cost(path, run), np.ones(SLOT_MIN + 1), mode="valid")
    first = run[0] + int(np.argmin(sums))
    return first, first + SLOT_MIN


def _slot(night: Night, run: Run, begins: int) -> Slot:
    clocks = (night.spot.clock(float(night.mjd[minute])) for minute in run)
    return Slot(run[0] - begins, run[1] - begins, *clocks)


def lane(night: Night, target: Target, choices: Choices, through: Through | None = None, clear: Clear | None = None) -> Lane:
    """One target's night. clear: of the frame it is taken with. Raises InvalidInput for what cannot be right."""
    path = track(night, target, choices, through)
    first, last = strip_span(night)
    window = slice(first, last + 1, LANE_STEP_MIN)
    shown = slice(first, last + 1)
    top = first + int(np.argmax(path.altitude[shown]))
    highest = first < top < last and path.altitude[top] > 0
    best = best_slot(path)
    minutes = path.usable_minutes
    codes, counts = np.unique(path.state[shown], return_counts=True)
    return Lane(
        target.name,
        [STATES[code] for code in path.state[window]],
        np.round(np.degrees(path.altitude[window]), 1).tolist(),
        np.round(np.degrees(path.obstruction[window]), 1).tolist(),
        minutes,
        duration_words(minutes * 60) if minutes else "none",
        datetime_from_mjd(float(night.mjd[top])) if highest else None,
        night.spot.clock(float(night.mjd[top])) if highest else "",
        float(np.degrees(path.altitude[top])),
        _slot(night, best, first) if best else None,
        tuple(_slot(night, run, first) for run in path.runs),
        {STATES[code]: int(count) for code, count in zip(codes, counts, strict=True)},
        window_verdict(night, path, target, choices, clear),
    )


def lanes(
    night: Night, targets: Sequence[Target], choices: Choices, through: Through | None = None, clears: Sequence[Clear] = ()
) -> Lanes:
    """Every chosen target as a lane, in the order given. clears: of the frame of each, where a rig is chosen."""
    first, _ = strip_span(night)
    frames: Sequence[Clear | None] = clears or [None] * len(targets)
    found = tuple(lane(night, one, choices, through, clear) for one, clear in zip(targets, frames, strict=True))
    return Lanes(datetime_from_mjd(float(night.mjd[first])), LANE_STEP_MIN, found)


@dataclass(frozen=True)
class NightSummary:
    """One night of the coming fortnight at a spot."""

    night: date
    dark_minutes: int
    moonless_minutes: int  # of the dark ones
    moon_up_percent: float  # of the dark time
    moon_lit_percent: float
    dark_words: str


def fortnight(spot: Spot, after: date, choices: Choices, nights: int = FORTNIGHT) -> tuple[NightSummary, ...]:
    """Darkness and Moon of the nights from `after` on. Raises InvalidInput for a date out of reach."""
    mjd = night_grid(spot, after, nights, FORTNIGHT_STEP_MIN)
    sun = sun_place(spot.observer, mjd.ravel())
    dark = sin_altitude(sun.ra, sun.dec, mjd.ravel(), spot.observer) < np.sin(np.radians(DARK_SUN_DEG[choices.darkness]))
    moon = moon_place(spot.observer, mjd.ravel())
    up = sin_altitude(moon.ra, moon.dec, mjd.ravel(), spot.observer) > 0
    lit = (1 + np.cos(moon_phase_angle(mjd[:, mjd.shape[1] // 2]))) / 2
    dark, up = dark.reshape(mjd.shape), up.reshape(mjd.shape)
    found = []
    for number in range(mjd.shape[0]):
        minutes = int(np.count_nonzero(dark[number])) * FORTNIGHT_STEP_MIN
        moonless = int(np.count_nonzero(dark[number] & ~up[number])) * FORTNIGHT_STEP_MIN
        share = 100.0 * (minutes - moonless) / minutes if minutes else 0.0
        words = duration_words(minutes * 60) if minutes else "no darkness"
        found.append(NightSummary(after + timedelta(days=number), minutes, moonless, share, float(lit[number] * 100), words))
    return tuple(found)


def fortnight_verdict(nights: Sequence[NightSummary], choices: Choices) -> Verdict:
    """Which of the nights is darkest, and how it was worked out."""
    best = max(nights, key=lambda one: (one.moonless_minutes, one.dark_minutes))
    working = Working(
        "dark",
        "Dark and moonless hours of a night",
        "Σ time with the Sun's centre below the chosen altitude; of it, with the Moon's below the horizon",
        (
            Quantity("Sun below", DARK_SUN_DEG[choices.darkness], "°", decimals=0),
            Quantity("Step", FORTNIGHT_STEP_MIN, "min", decimals=0),
            Quantity("Dark", text=best.dark_words),
            Quantity("Moon lit at midnight", best.moon_lit_percent, "%", decimals=0),
        ),
        Quantity("Without the Moon", best.moonless_minutes / 60, "h"),
        "Sun and Moon by ERFA epv00 and moon98 (Meeus 1998)",
        "published",
        "Whether a target stands in the dark hours, and what the Moon does to its sky, is in its lane.",
    )
    if not best.dark_minutes:
        sentence, level = "No darkness on any of these nights.", "stop"
        advice = "The season of a target says when it returns; “How” has nautical darkness for narrow bands."
    else:
        hours = f"{best.moonless_minutes / 60:.1f} h"
        sentence, level, advice = f"Most moonless darkness: {day_words(best.night)}, {hours}.", "go", ""
    figure = Quantity("Without the Moon", best.moonless_minutes / 60, "h", working="dark")
    return Verdict("Fortnight", cast(Level, level), sentence, "the Sun and the Moon", advice, (figure,), workings=(working,))
