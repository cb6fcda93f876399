"""What a night does to the power and the glass of a rig, from set-up to the end of the plan."""

from dataclasses import dataclass
from datetime import datetime, timedelta
from itertools import pairwise

import numpy as np

from widedusk.core.choices import DARK_SUN_DEG, Choices
from widedusk.core.kit.assembly import Assembly
from widedusk.core.kit.dew import Air
from widedusk.core.kit.dew_verdict import dew_verdict
from widedusk.core.kit.parts import Heater
from widedusk.core.kit.power import Use, air_for, feeds_of, lanes, power_verdict
from widedusk.core.night.cues import Mark
from widedusk.core.night.windows import Night, setup_minute
from widedusk.core.plan.outlook import Outlook
from widedusk.core.sky.time import MINUTE, Floats, datetime_from_mjd, mjd_from_datetime
from widedusk.core.verdict import Quantity, Verdict

DAY_MIN = 1440


@dataclass(frozen=True)
class Hours:
    """The night as the bench needs it, MJD: from set-up to the end of the plan."""

    begin: float
    end: float
    planned: bool  # the end is that of the card, not the dawn

    @property
    def minutes(self) -> Floats:
        count = max(round((self.end - self.begin) / MINUTE), 1)
        return self.begin + np.arange(count + 1.0) * MINUTE


@dataclass(frozen=True)
class PowerLane:
    battery: str
    loads: tuple[str, ...]
    watts: float
    uses: tuple[Use, ...]
    lasts_min: int
    runs_out: str  # local clock; empty when it lasts


@dataclass(frozen=True)
class PowerNight:
    """Supplies minute by minute from set-up to the end of the plan."""

    begin: datetime
    time_zone: str
    minutes: int
    planned: bool
    air_c: tuple[float, ...]  # a value every quarter of an hour
    lanes: tuple[PowerLane, ...]
    unfed: tuple[str, ...]


def swap_marks(shown: PowerNight) -> list[Mark]:
    """Each swap of a battery as a mark of the night, by its cells."""
    found = [
        (shown.begin + timedelta(minutes=after.first), f"Swap {before.battery} for {after.battery}")
        for lane in shown.lanes
        for before, after in pairwise(lane.uses)
    ]
    return [(f"battery{number}", name, mjd_from_datetime(at)) for number, (at, name) in enumerate(sorted(found), 1)]


def programme_ends(seen: Outlook) -> float | None:
    """When the last dark frame of the whole programme is taken, power or not; None when there is no frame."""
    if seen.begins_mjd is None or not seen.wished.frames:
        return None
    return seen.begins_mjd + (seen.wished.total_s + seen.wished.calibration_s) / 86_400.0


def _hours(night: Night, choices: Choices, ends: float | None) -> Hours:
    """From set-up to the end of the programme, else to dawn."""
    down, up = night.sunset_and_sunrise()
    sunset = down if down is not None else float(night.mjd[DAY_MIN // 4])
    sunrise = up if up is not None and up > sunset else sunset + 0.5
    begin, end, planned = setup_minute(night, choices), ends, True
    if end is None or end <= begin:
        _, dawn = night.sun_crossing(np.radians(DARK_SUN_DEG[choices.darkness]))
        end, planned = dawn if dawn is not None and dawn > begin else sunrise, False
    return Hours(begin, max(end, begin + 10 * MINUTE), planned)


def _power(assembly: Assembly, night: Night, known: Air | None, hours: Hours) -> tuple[Verdict, PowerNight]:
    minutes = hours.minutes
    air = air_for(known, minutes)

    def clock(minute: int) -> Quantity:
        return night.spot.moment("At", float(minutes[0]) + minute * MINUTE)

    found = lanes(assembly, air)
    length = len(minutes) - 1
    fed = {feed.name for feeds in feeds_of(assembly).values() for feed in feeds}
    shown = PowerNight(
        datetime_from_mjd(float(minutes[0])),
        night.spot.time_zone,
        length,
        hours.planned,
        tuple(round(float(value), 1) for value in air[::15]),
        tuple(
            PowerLane(
                lane.battery,
                tuple(f"{feed.name}, {feed.watts:.1f} W" for feed in lane.feeds),
                lane.watts,
                lane.uses,
                lane.lasts_min,
                clock(lane.lasts_min).text if lane.lasts_min < length else "",
            )
            for lane in found
        ),
        tuple(one.name for one in assembly.placed if one.part.draw() and one.name not in fed),
    )
    return power_verdict(assembly, air, known is None, clock), shown


def power_and_dew(
    assembly: Assembly, night: Night, air: Air | None, choices: Choices, ends: float | None
) -> tuple[Verdict, Verdict, PowerNight]:
    """Whether everything runs to the end of the plan (ends, MJD; None: to dawn), whether the glass stays clear, and the lanes."""
    told, shown = _power(assembly, night, air, _hours(night, choices, ends))
    lens = assembly.lens

    def clock(mjd: float) -> Quantity:
        return night.spot.moment("Fogs from", mjd)

    return told, dew_verdict(air, lens.front_mm if lens else None, assembly.all(Heater), choices.dew_school, clock), shown
