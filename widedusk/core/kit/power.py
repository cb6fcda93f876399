"""Power over the night: which supply feeds what, how long it lasts in the cold, and what each port carries.

battery ── load                 usable Wh = rated Wh × share by chemistry × factor by temperature
   └─ hub ── load, load         it runs out at the first minute t with  Σ V I duty × t ≥ usable Wh(T(t))
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from itertools import pairwise

import numpy as np

from widedusk.core.kit.assembly import Assembly
from widedusk.core.kit.dew import Air
from widedusk.core.kit.parts import Battery, Camera, Chemistry, Heater, Hub, Tracker
from widedusk.core.sky.time import Floats
from widedusk.core.verdict import Level, Limit, Quantity, Verdict, Working, duration_words, joined

# All from memory; makers' sheets differ by a tenth.
USABLE_SHARE: dict[Chemistry, float] = {"lithium": 0.85, "lead-acid": 0.5, "alkaline": 0.8}
COLD_C = (-20.0, -10.0, 0.0, 20.0)
COLD_FACTOR: dict[Chemistry, tuple[float, ...]] = {
    "lithium": (0.5, 0.7, 0.9, 1.0),
    "lead-acid": (0.5, 0.65, 0.8, 1.0),
    "alkaline": (0.15, 0.35, 0.6, 1.0),
}
NEAR_LIMIT = 0.9  # a port this close to its limit is a worry: common practice
ASSUMED_C = 5.0  # air of a night nobody has typed the weather for: a cold one, to be on the safe side
AIRLINE_WH, AIRLINE_NEVER_WH = 100.0, 160.0  # lithium; ICAO and IATA passenger provisions


def air_for(air: Air | None, mjd: Floats) -> Floats:
    """What batteries are reckoned to stand in: the night's air, or a cold night's where nobody told any."""
    return air.at_c(mjd) if air else np.full(mjd.shape, ASSUMED_C)


@dataclass(frozen=True)
class Feed:
    """One load on a supply."""

    name: str
    watts: float  # averaged over its duty
    amps: float  # while it is on
    hub: str | None


@dataclass(frozen=True)
class Use:
    """Minutes of the plan in which one battery is in use."""

    battery: str
    first: int
    last: int


@dataclass(frozen=True)
class Swap:
    """One battery put in the place of another."""

    minute: int
    empty: str
    fresh: str

    @property
    def words(self) -> str:
        return f"{self.empty} for {self.fresh}"


@dataclass(frozen=True)
class Lane:
    """One supply through the night; spares follow it."""

    battery: str
    feeds: tuple[Feed, ...]
    uses: tuple[Use, ...]
    lasts_min: int  # until nothing is left, at most the length of the plan
    spare_min: int | None  # what is left over after the plan, where that can be told

    @property
    def watts(self) -> float:
        return sum(feed.watts for feed in self.feeds)

    @property
    def swaps(self) -> tuple[Swap, ...]:
        return tuple(Swap(after.first, before.battery, after.battery) for before, after in pairwise(self.uses))


@dataclass(frozen=True)
class Port:
    """A shared outlet against its limit, amperes."""

    name: str
    what: str
    amps: float
    limit: float


def usable_wh(battery: Battery, air_c: Floats | float) -> Floats:
    """Energy a full battery gives at a temperature."""
    factor = np.interp(air_c, COLD_C, COLD_FACTOR[battery.chemistry])
    return np.asarray(battery.watt_hours * USABLE_SHARE[battery.chemistry] * factor)


def lasts_min(battery: Battery, watts: float, air_c: Floats) -> int | None:
    """Minute at which a full battery is empty under a load, given the air minute by minute; None: not within them."""
    drawn = watts * np.arange(len(air_c)) / 60.0
    empty = np.flatnonzero((drawn > 0) & (drawn >= usable_wh(battery, air_c)))
    return int(empty[0]) if len(empty) else None


def feeds_of(assembly: Assembly) -> dict[str, list[Feed]]:
    """Loads by the battery that finally feeds them."""
    found: dict[str, list[Feed]] = {one.name: [] for one in assembly.placed if isinstance(one.part, Battery)}
    for one in assembly.placed:
        draw = one.part.draw()
        supply = assembly.named(one.fed_by) if one.fed_by else None
        if draw is None or supply is None:
            continue
        hub = supply.name if isinstance(supply.part, Hub) else None
        battery = supply.fed_by if hub else supply.name
        if battery in found:
            found[battery].append(Feed(one.name, draw.watts, draw.amps, hub))
    return found


def lanes(assembly: Assembly, air_c: Floats) -> tuple[Lane, ...]:
    """Every battery in use, minute by minute of the plan; spares of the same voltage go where the need comes first."""
    length = len(air_c) - 1
    feeds = feeds_of(assembly)
    batteries = {one.name: one for one in assembly.all(Battery)}
    spares = [battery for name, battery in batteries.items() if not feeds[name]]
    found = []
    for name, loads in feeds.items():
        if not loads:
            continue
        watts = sum(feed.watts for feed in loads)
        end = lasts_min(batteries[name], watts, air_c)
        left = None
        if end is None and watts:
            left = round((float(usable_wh(batteries[name], float(air_c[-1]))) / watts) * 60.0) - length
        last = length if end is None else end
        found.append(Lane(name, tuple(loads), (Use(name, 0, last),), last, left))
    for place in sorted(range(len(found)), key=lambda place: found[place].lasts_min):
        lane = found[place]
        while lane.lasts_min < length:
            fitting = next((one for one in spares if one.volts == batteries[lane.battery].volts), None)
            if fitting is None:
                break
            spares.remove(fitting)
            run = lasts_min(fitting, lane.watts, air_c[lane.lasts_min :])
            last = length if run is None else lane.lasts_min + run
            lane = replace(lane, uses=(*lane.uses, Use(fitting.name, lane.lasts_min, last)), lasts_min=last)
        found[place] = lane
    return tuple(found)


def tripped(assembly: Assembly) -> set[str]:
    """Names of batteries and hubs of which an outlet would carry more than it may: they shut down."""
    return {port.name for port in ports(assembly) if port.amps > port.limit}


def ports(assembly: Assembly) -> tuple[Port, ...]:
    """Every outlet whose limit is told, with what it carries while all is on."""
    batteries = {one.name: one for one in assembly.all(Battery)}
    hubs = {one.name: one for one in assembly.all(Hub)}
    found = []
    for battery, loads in feeds_of(assembly).items():
        limit = batteries[battery].max_amps
        if limit and loads:
            draws = [one.part.draw() for one in assembly.placed if one.name in {feed.name for feed in loads}]
            watts = sum(draw.volts * draw.amps for draw in draws if draw)
            found.append(Port(battery, "all it feeds", watts / batteries[battery].volts, limit))
        for hub in {feed.hub for feed in loads if feed.hub}:
            part, on_it = hubs[hub], [feed for feed in loads if feed.hub == hub]
            if part.total_amps:
                found.append(Port(hub, "all ports together", sum(feed.amps for feed in on_it), part.total_amps))
            if part.port_amps:
                found += [Port(hub, feed.name, feed.amps, part.port_amps) for feed in on_it]
    return tuple(found)


def _workings(assembly: Assembly, found: Sequence[Lane], outlets: Sequence[Port], air_c: Floats) -> tuple[Working, ...]:
    made = []
    coldest = float(np.min(air_c))
    for lane in found:
        battery = next(one for one in assembly.all(Battery) if one.name == lane.battery)
        made.append(
            Working(
                f"lane {lane.battery}",
                lane.battery,
                "t = Wh × share × cold / Σ V I duty",
                (
                    Quantity("Rated energy", battery.watt_hours, "Wh"),
                    Quantity(f"Usable share, {battery.chemistry}", USABLE_SHARE[battery.chemistry] * 100, "%", decimals=0),
                    Quantity(
                        f"Factor at {coldest:.0f} °C",
                        float(np.interp(coldest, COLD_C, COLD_FACTOR[battery.chemistry])),
                        "",
                        decimals=2,
                    ),
                    Quantity("Usable when coldest", float(usable_wh(battery, coldest)), "Wh"),
                    *(Quantity(feed.name, feed.watts, "W", decimals=2) for feed in lane.feeds),
                ),
                Quantity("Lasts", text=duration_words((lane.lasts_min + max(lane.spare_min or 0, 0)) * 60)),
                "Shares and cold factors are round figures",
                "from memory",
                "Worked out minute by minute with the air's temperature. Losses in converters are not counted: allow a tenth."
                + (" Spares are counted in." if len(lane.uses) > 1 else ""),
            )
        )
    if outlets:
        made.append(
            Working(
                "ports",
                "Current through shared outlets",
                "I = Σ Iᵢ while all is on",
                tuple(Quantity(f"{port.name}, {port.what}", text=f"{port.amps:.2f} of {port.limit:g} A") for port in outlets),
                Quantity("Fullest", 100 * max(port.amps / port.limit for port in outlets), "% of its limit", decimals=0),
                "Currents add at a node (Kirchhoff)",
                "definition",
            )
        )
    return tuple(made)


def _shared_heater(assembly: Assembly, found: Sequence[Lane]) -> str:
    kinds = {one.name: type(one.part) for one in assembly.placed}
    for lane in found:
        here = {kinds[feed.name] for feed in lane.feeds}
        if Heater in here and here & {Camera, Tracker}:
            return f"The heater shares {lane.battery} with camera or tracker: a supply of its own is safer."
    return ""


def air_travel(assembly: Assembly) -> str:
    """What to look up before flying; empty when no lithium pack is large."""
    large = [one for one in assembly.all(Battery) if one.chemistry == "lithium" and one.watt_hours > AIRLINE_WH]
    if not large:
        return ""
    never = [one.name for one in large if one.watt_hours > AIRLINE_NEVER_WH]
    if never:
        return f"By air: {joined(never)} exceeds 160 Wh and will not be taken; check the airline's current text."
    return f"By air: {joined([one.name for one in large])} exceeds 100 Wh and needs the airline's approval; check its current text."


def _swap_words(swaps: Sequence[Swap], clock: Callable[[int], Quantity]) -> str:
    return "Swap " + joined([f"{swap.words} by {clock(swap.minute).text}" for swap in swaps])


def power_verdict(assembly: Assembly, air_c: Floats, assumed: bool, clock: Callable[[int], Quantity]) -> Verdict:
    """Does everything run to the end of the plan? air_c holds one value a minute; `clock` turns a minute into a moment."""
    found, outlets = lanes(assembly, air_c), ports(assembly)
    length = len(air_c) - 1
    dead = sorted((lane for lane in found if lane.lasts_min < length), key=lambda lane: lane.lasts_min)
    swaps = sorted((swap for lane in found for swap in lane.swaps), key=lambda swap: swap.minute)
    over = [port for port in outlets if port.amps > port.limit]
    near = [port for port in outlets if NEAR_LIMIT * port.limit <= port.amps <= port.limit]
    fullest = max(outlets, key=lambda port: port.amps / port.limit, default=None)
    shared = _shared_heater(assembly, found)
    level: Level = "go"
    notes = []
    if not found:
        level, sentence, decides = "care", "No battery feeds anything yet.", "no supply"
        notes.append("Add a battery and choose it in the row of each load.")
    elif over:
        level, decides = "stop", f"{over[0].limit:g} A at {over[0].name}"
        sentence = f"{over[0].name} would carry {over[0].amps:.1f} A of {over[0].limit:g} A and shut down."
        notes.append("Move a load to another supply.")
    elif dead:
        last = dead[0].uses[-1].battery
        level, decides = "stop", f"the energy in {joined([use.battery for use in dead[0].uses])}"
        short = duration_words((length - dead[0].lasts_min) * 60)
        sentence = f"{last} is empty at {clock(dead[0].lasts_min).text}, {short} before the end."
        if dead[0].swaps:
            sentence = f"{_swap_words(dead[0].swaps, clock)}; {sentence}"
        notes.append("Pack a spare of the same voltage, or a larger one.")
    elif swaps:
        level, decides = "care", f"the energy in {swaps[0].empty}"
        sentence = f"{_swap_words(swaps, clock)}; then all runs to the end."
    elif near:
        level, decides = "care", f"{near[0].limit:g} A at {near[0].name}"
        sentence = f"{near[0].name} carries {near[0].amps:.1f} A of {near[0].limit:g} A: a cold start may trip it."
    else:
        least = min(found, key=lambda lane: lane.spare_min if lane.spare_min is not None else 10**6)
        decides = f"{least.battery}, the first that would be empty"
        more = f"; {least.battery} would last {duration_words((least.spare_min or 0) * 60)} longer" if least.spare_min else ""
        sentence = f"Everything runs to the end{more}."
    if shared:
        level = "care" if level == "go" else level
        notes.append(shared)
    if assumed:
        notes.append(f"Worked out for {float(air_c[0]):.0f} °C until you type the weather.")
    return Verdict(
        "Power",
        level,
        sentence,
        decides,
        " ".join([*notes, air_travel(assembly)]).strip(),
        tuple(
            Quantity(
                lane.battery,
                text=f"{lane.watts:.1f} W, {clock(lane.lasts_min).text if lane.lasts_min < length else 'to the end'}",
                working=f"lane {lane.battery}",
            )
            for lane in found
        )
        + tuple(replace(clock(swap.minute), name=f"Swap {swap.words}") for swap in swaps)
        + (
            (Quantity(f"{fullest.name}, {fullest.what}", 100 * fullest.amps / fullest.limit, "%", decimals=0, working="ports"),)
            if fullest
            else ()
        ),
        tuple(
            Limit(f"{port.name}, {port.what}", "at most", Quantity("Current", port.limit, "A"), port in over) for port in outlets
        ),
        _workings(assembly, found, outlets, air_c),
        "Never charge below freezing or use a damaged pack; spare lithium cells fly in hand luggage, within the airline's limits.",
    )
