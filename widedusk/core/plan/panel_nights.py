"""Panels through a night: when each can be taken, how high it stands and how dark its sky is; and how many nights they take."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import date
from math import ceil

import numpy as np

from widedusk.core.choices import Choices, PanelSchool
from widedusk.core.exposure.response import Through
from widedusk.core.framing.panels import Panel
from widedusk.core.night.windows import mean_sky_mag, track
from widedusk.core.plan.outlook import night_of
from widedusk.core.scene import Spot, Target
from widedusk.core.verdict import Level, Quantity, Verdict, Working, duration_words


@dataclass(frozen=True)
class PanelNight:
    """The longest window of one panel; clocks are empty where there is none. sky_mag: mean over it, V mag/arcsec²."""

    row: int
    column: int
    opens: str
    closes: str
    window_s: float
    highest_deg: float
    sky_mag: float | None


def panel_nights(
    panels: Sequence[Panel], spot: Spot, evening: date, target: Target, choices: Choices, through: Through | None = None
) -> tuple[PanelNight, ...]:
    """Each panel as a target of its own, in their order. Raises InvalidInput for years out of reach."""
    night = night_of(spot, evening)
    found = []
    for one in panels:
        path = track(night, replace(target, ra_deg=one.frame.ra_deg, dec_deg=one.frame.dec_deg), choices, through)
        run = path.best_run
        opens, closes = (spot.clock(float(night.mjd[minute])) for minute in run) if run else ("", "")
        length = (run[1] - run[0]) * 60.0 if run else 0.0
        high = float(np.degrees(path.altitude.max()))
        found.append(PanelNight(one.row, one.column, opens, closes, length, high, mean_sky_mag(path, run) if run else None))
    return tuple(found)


def _window_words(one: PanelNight) -> str:
    if one.window_s <= 0:
        return "none this night"
    return f"{one.opens} to {one.closes}, sky {one.sky_mag:.2f} mag/arcsec²"


def panels_verdict(nights: Sequence[PanelNight], school: PanelSchool) -> Verdict:
    """How the panels share the nights."""
    count = len(nights)
    seen = [one for one in nights if one.window_s > 0]
    shortest = min((one.window_s for one in nights), default=0.0)
    longest = max((one.window_s for one in nights), default=0.0)
    level: Level = "go" if len(seen) == count else "care" if seen else "stop"
    if not seen:
        sentence = "No panel can be taken this night."
    elif school == "all":
        each = shortest / count if len(seen) == count else sum(one.window_s for one in seen) / len(seen) / len(seen)
        sentence = f"Every panel every night: {duration_words(each)} for each of {len(seen)} this night."
    else:
        sentence = (
            f"A panel a night: {count} nights, {duration_words(shortest or min(one.window_s for one in seen))} or more for each."
        )
    lost = [f"{one.row + 1}·{one.column + 1}" for one in nights if one.window_s <= 0]
    working = Working(
        "share",
        "How the panels share the night",
        "t = T / n, T the shortest window of any" if school == "all" else "t = T, a night each",
        (
            Quantity("Panels", count, "", "n", 0),
            Quantity("Shortest window", text=duration_words(shortest)),
            Quantity("Longest window", text=duration_words(longest)),
        ),
        Quantity("Nights for ten panels a night", ceil(count / 10), decimals=0),
        "Windows as on Tonight, for the middle of each panel",
        "definition",
        "Pauses between panels are not counted: each costs a move and a test picture, 5 to 10 minutes by hand.",
    )
    windows = Working(
        "windows",
        "The window of each panel",
        "longest stretch that is dark, high enough, clear of the profile, and in which the Moon adds no more than is allowed",
        tuple(
            Quantity(f"Panel {one.row + 1}·{one.column + 1}, highest {one.highest_deg:.0f}°", text=_window_words(one))
            for one in nights
        ),
        Quantity("Shortest", text=duration_words(shortest)),
        "As on Tonight, for the middle of each panel; sky by Krisciunas & Schaefer 1991, PASP 103, 1033",
        "published",
    )
    return Verdict(
        "Panels",
        level,
        sentence,
        "the panel that is up for the shortest time",
        f"Not this night: {', '.join(lost)}." if lost and seen else "",
        (
            Quantity("Panels", count, decimals=0, working="share"),
            Quantity("Shortest window", text=duration_words(shortest), working="windows"),
        ),
        workings=(working, windows),
    )
