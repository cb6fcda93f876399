"""The Bench: an assembly, kept or still in hand, worked out; two side by side."""

from dataclasses import replace
from datetime import date
from typing import Annotated

from django.contrib.auth.models import AbstractBaseUser
from django.http import HttpRequest
from ninja import Query, Router, Schema
from pydantic import Field

from widedusk.api.choices import ChoicesShape
from widedusk.api.failures import FailureOut
from widedusk.api.kit import RigIn, assembly_from
from widedusk.api.schemas import user_of
from widedusk.api.weather import choices_with_weather
from widedusk.core.choices import Choices
from widedusk.core.errors import Checks, Fault, InvalidInput
from widedusk.core.kit.assembly import Assembly
from widedusk.core.kit.parts import Filter, Lens
from widedusk.core.plan.bench import Drawing, Scene, work_out
from widedusk.core.plan.compare import Comparison, compare, with_lens
from widedusk.core.plan.power import PowerNight
from widedusk.core.pole.axis import Axis
from widedusk.core.verdict import Verdict
from widedusk.records.grounds.services import spot_of, spots_of
from widedusk.records.habits.services import units_of
from widedusk.records.kit.models import Part
from widedusk.records.kit.services import assembly_of, filters_of, part_of, rigs_of, seen_through
from widedusk.records.pole.services import latest_axis
from widedusk.records.targets.framings import aimed, framing_angle
from widedusk.records.targets.services import targets_of

router = Router(tags=["bench"])


class Place(Schema):
    """Where and when, as far as it is chosen."""

    spot: int | None = None
    night: date | None = None
    target: int | None = None
    framing: int | None = None


class BenchIn(Place):
    rig: RigIn
    choices: ChoicesShape = ChoicesShape()
    weight: Annotated[str, Field(max_length=120)] | None = None  # the counterweight that moves
    kept: int | None = None  # the rig that is in hand, as it was kept: its axis may have been measured


class BenchOut(Schema):
    verdicts: list[Verdict]
    drawing: Drawing
    power: PowerNight | None


def scene_of(user: AbstractBaseUser, asked: Place, choices: Choices) -> tuple[Scene | None, Choices]:
    """The scene, or None while place or night are not chosen, and the choices with its weather.

    Raises InvalidInput for what this person does not have.
    """
    if asked.spot is None or asked.night is None:
        return None, choices
    spot = spots_of(user).filter(pk=asked.spot).first()
    target = targets_of(user).filter(pk=asked.target).first() if asked.target is not None else None
    faults = []
    if spot is None:
        faults.append(Fault("spot", asked.spot, f"You have no spot number {asked.spot}; choose one from the list."))
    if asked.target is not None and target is None:
        faults.append(Fault("target", asked.target, f"You have no target number {asked.target}; choose one from the list."))
    if faults or spot is None:
        raise InvalidInput(faults)
    found = choices_with_weather(choices, spot, asked.night)
    aim = aimed(user, target, asked.framing) if target else None
    angle = framing_angle(user, target, asked.framing) if target else 0.0
    return Scene(spot_of(spot), asked.night, aim, found.air, angle_deg=angle), found.choices


def axis_at(user: AbstractBaseUser, asked: Place, rig: int | None) -> Axis | None:
    """The axis of a kept rig as it stood last at this spot and night."""
    if rig is None or asked.spot is None or asked.night is None:
        return None
    return latest_axis(user, rig, asked.spot, asked.night)


@router.post("", response={200: BenchOut, 422: FailureOut})
def bench(request: HttpRequest, asked: BenchIn) -> dict[str, object]:
    """Verdicts, drawing and power of a rig as it is in your hands; nothing is kept."""
    user = user_of(request)
    checks = Checks()
    assembly = checks.of(lambda: assembly_from(user, asked.rig), "rig.")
    told = checks.of(asked.choices.core)
    found = checks.of(lambda: scene_of(user, asked, told or Choices()))
    if assembly is None or told is None or found is None:
        raise InvalidInput(checks.faults)
    scene, choices = found
    if scene is not None:
        chosen = seen_through(assembly, filters_of(user) if choices.filter_name else {}, choices.filter_name)
        filters = tuple(chosen.all(Filter)) if choices.filter_name else None
        scene = replace(scene, axis=axis_at(user, asked, asked.kept), filters=filters)
    answer = work_out(assembly, scene, choices, units_of(user), asked.weight)
    return answer.__dict__


class CompareQuery(ChoicesShape, Place):
    left: int
    right: int
    lens: int | None = None  # on the right rig instead of its own


def _rig(user: AbstractBaseUser, field: str, number: int) -> Assembly:
    row = rigs_of(user).filter(pk=number).first()
    if row is None:
        raise InvalidInput([Fault(field, number, f"You have no rig number {number}; choose one from the list.")])
    return assembly_of(row)


@router.get("/compare", response={200: Comparison, 422: FailureOut})
def compare_two(request: HttpRequest, asked: Query[CompareQuery]) -> Comparison:
    """Two rigs, or one with another lens, on the same night."""
    user = user_of(request)
    scene, choices = scene_of(user, asked, asked.core())
    if scene is None:
        raise InvalidInput([Fault("spot", None, "Choose a place and a night first; the comparison needs both.")])
    left, right = _rig(user, "left", asked.left), _rig(user, "right", asked.right)
    if asked.lens is not None:
        row = Part.objects.of(user).filter(pk=asked.lens, kind="lens").first()
        lens = part_of(row) if row else None
        if not isinstance(lens, Lens):
            raise InvalidInput([Fault("lens", asked.lens, f"You have no lens number {asked.lens}; choose one from the list.")])
        right = with_lens(right, lens)
    owned = filters_of(user) if choices.filter_name else {}
    sides = [
        (seen_through(one, owned, choices.filter_name), replace(scene, axis=axis_at(user, asked, number)))
        for one, number in ((left, asked.left), (right, asked.right if asked.lens is None else None))
    ]
    return compare(sides[0], sides[1], choices, units_of(user))
