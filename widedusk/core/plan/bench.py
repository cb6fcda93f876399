"""The whole bench: an assembly in, its verdicts, the drawing of its moments and the power of the night out."""

from dataclasses import dataclass, replace
from datetime import date
from functools import lru_cache

import numpy as np

from widedusk.core.choices import Choices
from widedusk.core.errors import Fault, InvalidInput
from widedusk.core.exposure.setting import optics_of
from widedusk.core.kit.assembly import Assembly, Placed
from widedusk.core.kit.back_focus import back_focus_verdict
from widedusk.core.kit.balance import Balance, balance, balance_verdict, lifting_words, residual_g_mm
from widedusk.core.kit.complete import complete_verdict
from widedusk.core.kit.dew import Air
from widedusk.core.kit.mounting import mounting_verdict
from widedusk.core.kit.parts import Filter, Shaft, Tracker
from widedusk.core.kit.payload import payload_verdict
from widedusk.core.kit.units import METRIC, Units
from widedusk.core.night.weather import air_of
from widedusk.core.plan.outlook import night_of, outlook
from widedusk.core.plan.power import PowerNight, power_and_dew, programme_ends
from widedusk.core.pole.axis import Axis
from widedusk.core.scene import Spot, Target
from widedusk.core.verdict import Verdict


@dataclass(frozen=True)
class Scene:
    """Where and when the rig is to work. The end of the plan needs a target too."""

    spot: Spot
    evening: date
    target: Target | None
    air: Air | None = None  # from set-up to sunrise
    axis: Axis | None = None  # of this rig, as it stood last in this night
    filters: tuple[Filter, ...] | None = None  # chosen for the night; None: as the rig stands
    angle_deg: float = 0.0  # of the frame's upper edge


@dataclass(frozen=True)
class Piece:
    """One part in the drawing; arms in mm, positive on the camera side."""

    name: str
    kind: str
    mass_g: float
    mass: str
    arm_mm: float
    arm: str
    arm_text: str  # with its sign, as it stands in a field
    along_text: str
    along_mm: float
    moment_g_mm: float
    moment: str
    length_mm: float  # of a shaft along the arm; 0 for what is drawn by its mass


@dataclass(frozen=True)
class Drawing:
    """The side view: parts on the arm that crosses the polar axis at right angles."""

    latitude_deg: float
    pieces: tuple[Piece, ...]
    tracker: str
    centre_mm: float
    centre: str
    weight: str | None  # the part that moves
    solved_mm: float | None
    solved: str
    fits: bool
    far_mm: float | None  # ends of the stretch on which the weight can sit
    near_mm: float | None
    torque: str
    heavy_side: str
    lifting: str


@dataclass(frozen=True)
class Bench:
    verdicts: tuple[Verdict, ...]
    drawing: Drawing
    power: PowerNight | None  # none without a place and a night


def _piece(one: Placed, units: Units) -> Piece:
    return Piece(
        one.name,
        one.part.KIND,
        one.mass_g,
        units.mass_words(one.mass_g),
        one.arm_mm,
        units.length_words(abs(one.arm_mm)),
        units.field_text(round(one.arm_mm, 1), "length"),
        units.field_text(round(one.along_mm, 1), "length"),
        one.along_mm,
        one.moment_g_mm,
        units.moment_words(abs(one.moment_g_mm)),
        one.part.length_mm if isinstance(one.part, Shaft) else 0.0,
    )


def _drawing(assembly: Assembly, found: Balance, latitude_deg: float, choices: Choices, units: Units) -> Drawing:
    tracker = assembly.first(Tracker)
    return Drawing(
        latitude_deg,
        tuple(_piece(one, units) for one in assembly.on_tracker),
        tracker.name if tracker else "",
        found.centre_mm,
        units.length_words(abs(found.centre_mm)),
        found.weight.name if found.weight else None,
        found.solved_mm,
        units.length_words(abs(found.solved_mm)) if found.solved_mm is not None else "",
        found.fits,
        found.reach.far_mm if found.reach else None,
        found.reach.near_mm if found.reach else None,
        units.moment_words(abs(found.off_g_mm)),
        "camera side" if found.off_g_mm > 0 else "weight side",
        lifting_words(choices.lifting, latitude_deg),
    )


def _without(topic: str, fault: Fault) -> Verdict:
    return Verdict(topic, "care", fault.message, "an unfinished rig")


def _rig_verdicts(assembly: Assembly, choices: Choices, units: Units) -> tuple[Verdict, Verdict]:
    """Payload and optics, which need a whole rig."""
    try:
        rig = assembly.rig()
    except InvalidInput as caught:
        return _without("Payload", caught.faults[0]), _without("Optics", caught.faults[0])
    payload = payload_verdict(rig, choices.payload_school, choices.payload_percent, units)
    return payload, optics_of(rig, choices)


def _ends(assembly: Assembly, scene: Scene, choices: Choices) -> float | None:
    """When the last dark frame is taken; None when there is no programme."""
    if scene.target is None:
        return None
    try:
        seen = assembly if scene.filters is None else assembly.seen_through(scene.filters[0] if scene.filters else None)
        rig = seen.rig()
    except InvalidInput:
        return None
    return programme_ends(outlook(rig, scene.spot, scene.evening, scene.target, choices, scene.axis))


@lru_cache(maxsize=64)
def _through_the_night(assembly: Assembly, scene: Scene, choices: Choices) -> tuple[Verdict, Verdict, PowerNight]:
    """What a night does to a rig: power, dew, and the lanes of its batteries; kept for the last few asked."""
    night = night_of(scene.spot, scene.evening)
    return power_and_dew(assembly, night, scene.air or air_of(night, None, choices), choices, _ends(assembly, scene, choices))


def work_out(assembly: Assembly, scene: Scene | None, choices: Choices, units: Units = METRIC, weight: str | None = None) -> Bench:
    """Every verdict on an assembly. `weight` names the counterweight that is to move; without a scene, latitude 45° is drawn.

    Raises InvalidInput for choices that cannot be right.
    """
    latitude = scene.spot.latitude_deg if scene else 45.0
    payload, optics = _rig_verdicts(assembly, choices, units)
    balanced = balance_verdict(assembly, latitude, choices.lifting, choices.lifting_g_cm, choices.dec_school, units, weight)
    verdicts = [payload, balanced, mounting_verdict(assembly, choices.support_school, units), optics, back_focus_verdict(assembly)]
    power = None
    if scene is not None:
        # Only on which side a part sits bears on this: a step of a drag finds it as the step before left it.
        sides = tuple(replace(one, arm_mm=float(np.sign(one.arm_mm)), along_mm=0.0) for one in assembly.placed)
        still = replace(assembly, placed=sides)
        told, dew, power = _through_the_night(still, scene, choices)
        verdicts += [told, dew]
    verdicts.append(complete_verdict(assembly, latitude))
    found_balance = balance(assembly, residual_g_mm(choices.lifting, choices.lifting_g_cm), weight)
    return Bench(tuple(verdicts), _drawing(assembly, found_balance, latitude, choices, units), power)
