"""Units, carry limit and schools of one person."""

from typing import Annotated, Literal

from django.http import HttpRequest
from ninja import Router, Schema
from pydantic import Field

from widedusk.api.choices import ChoicesShape
from widedusk.api.failures import FailureOut
from widedusk.api.schemas import Number, user_of
from widedusk.core.errors import Fault, InvalidInput
from widedusk.core.kit.units import Units
from widedusk.records.habits.models import Habits
from widedusk.records.habits.services import choices_of, habits_of, keep_schools, keep_units, units_of

router = Router(tags=["habits"])


class UnitsIn(Schema):
    mass_unit: Literal["g", "kg", "lb"]
    length_unit: Literal["mm", "in"]
    carry_limit: Number | Annotated[str, Field(max_length=40)]  # text in the person's unit, or grams


class HabitsOut(Schema):
    mass_unit: Literal["g", "kg", "lb"]
    length_unit: Literal["mm", "in"]
    carry_limit: str  # as it stands in a form
    carry_limit_g: float
    choices: ChoicesShape


def _out(row: Habits, units: Units) -> HabitsOut:
    return HabitsOut(
        mass_unit=units.mass,
        length_unit=units.length,
        carry_limit_g=row.carry_limit_g,
        carry_limit=units.field_text(row.carry_limit_g, "mass"),
        choices=ChoicesShape(**choices_of(row).__dict__),
    )


@router.get("", response=HabitsOut, exclude_defaults=True)
def habits(request: HttpRequest) -> HabitsOut:
    """How you work, as remembered."""
    user = user_of(request)
    return _out(habits_of(user), units_of(user))


@router.put("/units", response={200: HabitsOut, 422: FailureOut}, exclude_defaults=True)
def change_units(request: HttpRequest, data: UnitsIn) -> HabitsOut:
    """What you read masses and lengths in, and how much you carry at a time."""
    user = user_of(request)
    units = Units(data.mass_unit, data.length_unit)
    try:
        limit = units.read(data.carry_limit, "mass") if isinstance(data.carry_limit, str) else data.carry_limit
    except ValueError:
        wrong = "This is no mass; write it like 12 kg or 26 lb."
        raise InvalidInput([Fault("carry_limit", data.carry_limit, wrong)]) from None
    return _out(keep_units(user, units, limit), units)


@router.put("/schools", response={200: HabitsOut, 422: FailureOut}, exclude_defaults=True)
def remember(request: HttpRequest, data: ChoicesShape) -> HabitsOut:
    """Remember the schools you follow; what belongs to one night is left out."""
    user = user_of(request)
    return _out(keep_schools(user, data.core()), units_of(user))
