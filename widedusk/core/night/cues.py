"""What happens in a night at which moment."""

from dataclasses import dataclass
from datetime import datetime

import numpy as np

from widedusk.core.choices import DARK_SUN_DEG, Choices
from widedusk.core.night.windows import Night, strip_span
from widedusk.core.sky.horizon import SUN_RISE_ALTITUDE, crossings
from widedusk.core.sky.time import datetime_from_mjd

Mark = tuple[str, str, float | None]  # key, name, MJD


@dataclass(frozen=True)
class Cue:
    """Something that happens at a moment."""

    key: str
    name: str
    moment: datetime
    clock: str


def marks(night: Night, choices: Choices, setup: float, tracks: bool) -> list[Mark]:
    """Set-up, Sun and Moon."""
    found: list[Mark] = [("setup", "Set up and align" if tracks else "Set up", setup)]
    down, up = night.sunset_and_sunrise()
    dark, dawn = night.sun_crossing(np.radians(DARK_SUN_DEG[choices.darkness]))
    found += [("sunset", "Sunset", down), ("dark", "Dark", dark), ("dawn", "Dawn begins", dawn), ("sunrise", "Sunrise", up)]
    # Upper limb on the refracted horizon: 34' of refraction and about 15.5' of radius.
    rises, sets = crossings(night.mjd, night.moon_altitude, SUN_RISE_ALTITUDE)
    return found + [("moonrise", "Moonrise", moment) for moment in rises] + [("moonset", "Moonset", moment) for moment in sets]


def in_order(night: Night, found: list[Mark]) -> tuple[Cue, ...]:
    """Those that fall into the strip of the night."""
    first, last = strip_span(night)
    shown = sorted(
        (moment, key, name) for key, name, moment in found if moment is not None and night.mjd[first] <= moment <= night.mjd[last]
    )
    return tuple(Cue(key, name, datetime_from_mjd(moment), night.spot.clock(moment)) for moment, key, name in shown)
