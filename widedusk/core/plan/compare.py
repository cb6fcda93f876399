"""Two rigs, or one rig with two lenses, on the same night: what changes."""

from collections.abc import Callable
from dataclasses import dataclass, replace

from widedusk.core.choices import Choices
from widedusk.core.errors import InvalidInput
from widedusk.core.exposure.setting import optics_of
from widedusk.core.kit.assembly import Assembly
from widedusk.core.kit.balance import balance_verdict
from widedusk.core.kit.parts import Lens
from widedusk.core.kit.payload import payload_verdict
from widedusk.core.kit.units import METRIC, Units
from widedusk.core.plan.bench import Scene
from widedusk.core.plan.tonight import tonight
from widedusk.core.verdict import Quantity, Verdict

# (topic of the verdict, name of its figure): what a person compares.
ROWS = (
    ("Payload", "Carried"),
    ("Payload", "Load"),
    ("Balance", "Weight belongs at"),
    ("Optics", "Scale"),
    ("Optics", "Field"),
    ("Optics", "Aperture"),
    ("Optics", "Against wide open"),
    ("Pole", "Tolerance"),
    ("Exposure", "Sub"),
    ("Exposure", "Keep rate"),
    ("Exposure", "Signal to noise"),
    ("Card", "Kept"),
)


@dataclass(frozen=True)
class Row:
    """One figure of both, with where its working is."""

    topic: str
    name: str
    left: Quantity | None
    right: Quantity | None
    change: str  # from left to right; empty where neither is a number


@dataclass(frozen=True)
class Side:
    title: str
    verdicts: tuple[Verdict, ...]


@dataclass(frozen=True)
class Comparison:
    left: Side
    right: Side
    rows: tuple[Row, ...]


def with_lens(assembly: Assembly, lens: Lens) -> Assembly:
    """The same rig with another lens in the old one's place; a zoom stands at its short end."""
    placed = tuple(replace(one, part=lens) if isinstance(one.part, Lens) else one for one in assembly.placed)
    return replace(assembly, name=f"{assembly.name} with {lens.name}", placed=placed, focal_mm=None)


def _side(assembly: Assembly, scene: Scene, choices: Choices, units: Units, place: str) -> Side:
    try:
        rig = assembly.rig()
    except InvalidInput as caught:
        raise InvalidInput([replace(fault, field=place) for fault in caught.faults]) from caught
    optics = optics_of(rig, choices)
    latitude = scene.spot.latitude_deg
    balanced = balance_verdict(assembly, latitude, choices.lifting, choices.lifting_g_cm, choices.dec_school, units)
    if scene.target is None:
        alone = payload_verdict(rig, choices.payload_school, choices.payload_percent, units)
        return Side(assembly.name, (alone, optics, balanced))
    at = (scene.spot, scene.evening, scene.target)
    known = {"axis": scene.axis, "air": scene.air, "assembly": assembly, "angle_deg": scene.angle_deg}
    night = tonight(rig, *at, choices, units, **known).verdicts  # type: ignore[arg-type]
    return Side(assembly.name, (optics, balanced, *night))


def _figure(side: Side, topic: str, name: str) -> Quantity | None:
    found = (one for verdict in side.verdicts if verdict.topic == topic for one in verdict.figures if one.name == name)
    return next(found, None)


def _change(left: Quantity | None, right: Quantity | None, words: Callable[[float], str]) -> str:
    if left is not None and right is not None and left.text and left.text == right.text:
        return "the same"
    if left is None or right is None or left.value is None or right.value is None:
        return ""
    difference = right.value - left.value
    if round(difference, left.decimals) == 0:
        return "the same"
    return f"{'+' if difference > 0 else '−'}{words(abs(difference))}"


def compare(left: tuple[Assembly, Scene], right: tuple[Assembly, Scene], choices: Choices, units: Units = METRIC) -> Comparison:
    """Both worked out with the same choices, each with its own axis. Raises InvalidInput with field "left" or "right" for an
    unfinished rig."""
    sides = (_side(*left, choices, units, "left"), _side(*right, choices, units, "right"))
    rows = []
    for topic, name in ROWS:
        first, second = (_figure(side, topic, name) for side in sides)
        if first is None and second is None:
            continue
        example = first or second

        def words(difference: float, like: Quantity | None = example) -> str:
            if like is None:
                return ""
            if like.unit == "g":
                return units.mass_words(difference)
            if like.unit == "mm" and like.text:
                return units.length_words(difference)
            return f"{difference:.{like.decimals}f}{'' if like.unit[:1] in '′″°' else ' '}{like.unit}".strip()

        rows.append(Row(topic, name, first, second, _change(first, second, words)))
    return Comparison(sides[0], sides[1], tuple(rows))
