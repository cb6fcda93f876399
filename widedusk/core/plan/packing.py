"""What to pack: the rigs' parts, what the place and the weather ask for, and whatever stayed at home before."""

import math
from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from widedusk.core.choices import Choices
from widedusk.core.kit.assembly import Assembly
from widedusk.core.kit.dew import Air, below_air_c
from widedusk.core.kit.parts import Battery, Heater, Lens, Other, Part, StepDownRing
from widedusk.core.kit.units import METRIC, Units
from widedusk.core.verdict import Limit, Quantity, Verdict, Working

COLD_C, HOT_C, WINDY_M_S = 5.0, 25.0, 5.0  # from here on one packs for it: common practice
GROUPS = ("Forgotten before", "Rigs", "Power", "For the lens", "For the weather", "Every time")


@dataclass(frozen=True)
class Item:
    """One line to tick. `key` stays the same from list to list, so that ticks and memories find it."""

    key: str
    name: str
    group: str
    why: str
    mass_g: float | None = None  # none: not weighed
    mass: str = ""
    used_by: tuple[str, ...] = ()
    clash: bool = False  # two rigs that run at once want the same part
    forgotten: int = 0  # how many trips went without it


@dataclass(frozen=True)
class Packing:
    items: tuple[Item, ...]
    mass_g: float
    mass: str
    carries: int
    carry_limit: str
    too_heavy: tuple[str, ...]  # heavier than one carry by themselves
    unweighed: int
    clashes: tuple[str, ...]
    verdict: Verdict


def key_of(name: str) -> str:
    return name.strip().lower()


def _group(part: Part) -> str:
    return "Power" if isinstance(part, (Battery, Heater)) or part.KIND == "hub" else "Rigs"


def _parts(rigs: Sequence[Assembly]) -> list[Item]:
    users: dict[str, list[str]] = {}
    parts: dict[str, Part] = {}
    for rig in rigs:
        for one in rig.placed:
            users.setdefault(one.name, []).append(rig.name)
            parts[one.name] = one.part
    found = []
    for name, part in parts.items():
        clash = len(users[name]) > 1
        why = f"in {' and '.join(users[name])}: one part, two rigs" if clash else f"in {users[name][0]}"
        found.append(Item(key_of(name), name, _group(part), why, part.mass_g, used_by=tuple(users[name]), clash=clash))
    return found


def _for_lenses(rigs: Sequence[Assembly], choices: Choices) -> list[Item]:
    found = []
    for rig in rigs:
        lens = rig.first(Lens)
        if lens is None:
            continue
        found.append(
            Item(f"hood for {key_of(lens.name)}", f"Hood for {lens.name}", "For the lens", "keeps dew and stray light off")
        )
        if choices.aperture_school == "ring" and not rig.all(StepDownRing):
            used = lens.at(rig.focal_mm)
            why = f"your school; {used.focal_mm / used.f_best:.0f} mm clear makes f/{used.f_best:.3g}"
            found.append(Item(f"ring for {key_of(lens.name)}", f"Step-down ring for {lens.name}", "For the lens", why))
    return found


def _for_weather(rigs: Sequence[Assembly], choices: Choices, air: Air | None) -> list[Item]:
    group = "For the weather"
    weather = choices.weather()
    heater = any(rig.all(Heater) for rig in rigs)
    if air is None or air.point_c is None:
        damp, why = True, "no weather known: to be on the safe side"
    else:
        damp, why = air.fogs_mjd(below_air_c(choices.dew_school)) is not None, "dew is expected"
    found = []
    if damp and choices.dew_school == "warmers":
        found.append(Item("hand warmers", "Hand warmers and a strap", group, why))
    if damp and choices.dew_school == "heater" and not heater:
        found.append(Item("dew heater", "Dew heater and its supply", group, f"{why}, and no rig has one"))
    if weather and weather.low_c < COLD_C:
        cold = f"down to {weather.low_c:.0f} °C"
        found += [
            Item("spare cells", "Spare cells, kept warm in a pocket", group, f"{cold}: cells give less"),
            Item("warm layers", "Hat, gloves, warm layers, hot drink", group, f"{cold}: put them on before you are cold"),
        ]
    if weather and weather.evening_c > HOT_C:
        found.append(Item("water", "Water, more than you think", group, f"{weather.evening_c:.0f} °C in the evening"))
    if weather and weather.wind_m_s > WINDY_M_S:
        found.append(Item("ballast", "Bag of stones or sand for the tripod", group, f"wind of {weather.wind_m_s:.0f} m/s"))
    return found


EVERY_TIME = (
    ("red light", "Red light", "night vision, yours and others'"),
    ("tape", "Tape that leaves no residue", "holds the focus"),
    ("cap", "Cap for dark frames", "darks"),
    ("compass", "Compass or inclinometer", "rough alignment"),
    ("cables", "Cables, and one spare of each", "what drags or breaks"),
    ("memory card", "Empty memory card", "the night's frames"),
    ("food", "Food and drink", "you stay till dawn"),
    ("phone", "Charged phone and a whistle; tell someone where you are", "safety"),
    ("permit", "Permit or leave to be there", "local rules"),
)


def _always(own: Sequence[Part]) -> list[Item]:
    found = [Item(key, name, "Every time", why) for key, name, why in EVERY_TIME]
    found += [
        Item(key_of(part.name), part.name, "Every time", "you take it every time", part.mass_g)
        for part in own
        if isinstance(part, Other) and part.always
    ]
    return found


def _verdict(items: Sequence[Item], total: float, carries: int, limit: float, care: bool, units: Units) -> Verdict:
    """How heavy it is, and how often one walks."""
    mass = units.mass_of("Weighed in all", total, "m", "mass")
    walks = Quantity("Walks", carries, "", "n", 0, working="walks")
    return Verdict(
        "Packing",
        "care" if care else "go",
        f"{units.mass_words(total)} in {carries} {'walk' if carries == 1 else 'walks'} of {units.mass_words(limit)}.",
        "what you carry at a time",
        "",
        (mass, walks),
        (Limit("One walk", "at most", units.mass_of("Mass", limit), True),),
        (
            Working(
                "mass",
                "Mass of all that was weighed",
                "m = Σ mᵢ",
                tuple(units.mass_of(item.name, item.mass_g) for item in items if item.mass_g is not None),
                units.mass_of("Weighed in all", total, "m"),
                "Sum of the list",
                "definition",
                f"{sum(item.mass_g is None for item in items)} things on the list are not weighed and not in the sum.",
            ),
            Working(
                "walks",
                "Walks from the car",
                "n = m / limit, rounded up",
                (units.mass_of("Weighed in all", total, "m", "mass"), units.mass_of("You carry at a time", limit)),
                Quantity("Walks", carries, "", "n", 0),
                "Your own limit; lumps that do not share out evenly may cost one more",
                "definition",
            ),
        ),
    )


def packing(
    rigs: Sequence[Assembly],
    own: Sequence[Part],
    choices: Choices,
    air: Air | None,
    forgotten: Mapping[str, str],
    times: Counter[str],
    carry_limit_g: float,
    units: Units = METRIC,
) -> Packing:
    """The list for these rigs. `own` is the whole inventory; `forgotten` names by key what earlier trips went without,
    `times` how often. What was forgotten comes first, whether this plan asks for it or not."""
    listed: dict[str, Item] = {}
    for item in _parts(rigs) + _for_lenses(rigs, choices) + _for_weather(rigs, choices, air) + _always(own):
        listed.setdefault(item.key, item)
    masses = {key_of(part.name): part.mass_g for part in own}
    for key, name in forgotten.items():
        before = listed.get(key) or Item(key, name, "", "not in this plan, but it stayed at home before", masses.get(key))
        count = times[key]
        why = f"forgotten {'once' if count == 1 else f'{count} times'}; {before.why}"
        listed[key] = replace(before, group="Forgotten before", why=why, forgotten=count)
    items = tuple(
        replace(item, mass=units.mass_words(item.mass_g) if item.mass_g is not None else "")
        for item in sorted(listed.values(), key=lambda item: (GROUPS.index(item.group), -item.forgotten))
    )
    total = sum(item.mass_g or 0.0 for item in items)
    carries = max(math.ceil(total / carry_limit_g), 1)
    too_heavy = tuple(item.name for item in items if (item.mass_g or 0.0) > carry_limit_g)
    clashes = tuple(f"{item.name}: {' and '.join(item.used_by)}" for item in items if item.clash)
    return Packing(
        items,
        total,
        units.mass_words(total),
        carries,
        units.mass_words(carry_limit_g),
        too_heavy,
        sum(item.mass_g is None for item in items),
        clashes,
        _verdict(items, total, carries, carry_limit_g, bool(too_heavy or clashes), units),
    )
