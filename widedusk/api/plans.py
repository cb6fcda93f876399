"""Planned runs."""

from datetime import date
from typing import Any

from django.contrib.auth.models import AbstractBaseUser
from django.db import transaction
from django.http import HttpRequest
from django.shortcuts import get_object_or_404
from ninja import Router, Schema, Status
from ninja.pagination import paginate

from widedusk.api.choices import ChoicesShape, Context
from widedusk.api.failures import FailureOut
from widedusk.api.removal import add_removal
from widedusk.api.schemas import Text, user_of
from widedusk.api.tonight import tonight_of
from widedusk.api.versions import ChangedOut, Version, to_change
from widedusk.api.weather import choices_with_weather
from widedusk.api.worked import IN_TURN, Worked
from widedusk.core.runs.facts import Value
from widedusk.records.nights.models import Run
from widedusk.records.nights.runs import choices_of, keep_plan, plans_of
from widedusk.records.owned import OwnedQuerySet

router = Router(tags=["plans"])


class PlanIn(Context):
    name: Text
    version: Version | None = None  # as it was opened; none: saved over whatever it is
    choices: ChoicesShape


class PlanOut(Schema):
    id: int
    version: int
    name: str
    rig: int
    spot: int
    night: date
    target: int
    framing: int | None = None
    rig_name: str
    spot_name: str
    target_name: str
    choices: ChoicesShape

    @staticmethod
    def resolve_rig(row: Run) -> int | None:
        return row.rig_id

    @staticmethod
    def resolve_spot(row: Run) -> int | None:
        return row.night.spot_id

    @staticmethod
    def resolve_night(row: Run) -> date:
        return row.night.date

    @staticmethod
    def resolve_target(row: Run) -> int:
        return row.target_id

    @staticmethod
    def resolve_framing(row: Run) -> int | None:
        return row.framing_id if row.framing and row.framing.deleted_at is None else None

    @staticmethod
    def resolve_rig_name(row: Run) -> str:
        return row.rig.name if row.rig else ""

    @staticmethod
    def resolve_spot_name(row: Run) -> str:
        return str(row.night.spot)

    @staticmethod
    def resolve_target_name(row: Run) -> str:
        return row.target.name

    @staticmethod
    def resolve_choices(row: Run) -> dict[str, Any]:
        return choices_of(row).__dict__


def _keep(request: HttpRequest, data: PlanIn, row: Run | None = None) -> Run:
    """Work the night out once before storing it, so that no plan is kept that could not be opened again."""
    worked = Worked(request, data, data.choices.core())
    weather = choices_with_weather(worked.choices, worked.spot_row, worked.night)
    with IN_TURN:
        night = tonight_of(worked, weather)
    expected: dict[str, Value] = {"frames": night.card.frames, "exposure_s": night.card.exposure_s}
    expected |= {"f_number": night.f_number, "iso": night.iso, "begins_at": night.begins_at, "ends_at": night.ends_at}
    return keep_plan(worked.user, data.name, worked.rows, worked.night, worked.choices, row, data.framing, expected)


@router.get("", response=list[PlanOut], exclude_defaults=True)
@paginate
def plans(request: HttpRequest) -> OwnedQuerySet[Run]:
    """Your plans, the latest night first."""
    return plans_of(user_of(request))


@router.get("/{int:record_id}", response={200: PlanOut, 404: FailureOut}, exclude_defaults=True)
def plan(request: HttpRequest, record_id: int) -> Run:
    """One plan."""
    return get_object_or_404(plans_of(user_of(request)), pk=record_id)


@router.post("", response={201: PlanOut, 422: FailureOut})
def add_plan(request: HttpRequest, data: PlanIn) -> Status[Run]:
    """Save a plan."""
    return Status(201, _keep(request, data))


@router.put("/{int:record_id}", response={200: PlanOut, 422: FailureOut, 404: FailureOut, 409: ChangedOut})
@transaction.atomic
def change_plan(request: HttpRequest, record_id: int, data: PlanIn) -> Run:
    """Save a plan over itself."""
    return _keep(request, data, to_change(plans_of(user_of(request)), record_id, data.version, PlanOut.from_orm))


def _not_begun(user: AbstractBaseUser) -> OwnedQuerySet[Run]:
    """What was begun is dropped, if at all, and never deleted."""
    return plans_of(user).filter(state="planned")


add_removal(router, "plan", Run, _not_begun, PlanOut, state="planned")
