"""Saved plans."""

from datetime import date
from typing import Any

from django.http import HttpRequest
from django.shortcuts import get_object_or_404
from ninja import Router, Schema, Status
from ninja.pagination import paginate

from widedusk.api.choices import ChoicesShape, Context
from widedusk.api.failures import FailureOut
from widedusk.api.removal import add_removal
from widedusk.api.schemas import Text, user_of
from widedusk.api.worked import Worked
from widedusk.core.night.tonight import tonight
from widedusk.records.owned import OwnedQuerySet
from widedusk.records.plans.models import Plan
from widedusk.records.plans.services import choices_of, keep_plan, plans_of

router = Router(tags=["plans"])


class PlanIn(Context):
    name: Text
    choices: ChoicesShape


class PlanOut(Schema):
    id: int
    name: str
    rig: int
    spot: int
    night: date
    target: int
    rig_name: str
    spot_name: str
    target_name: str
    choices: ChoicesShape

    @staticmethod
    def resolve_rig(row: Plan) -> int:
        return row.rig_id

    @staticmethod
    def resolve_spot(row: Plan) -> int:
        return row.spot_id

    @staticmethod
    def resolve_target(row: Plan) -> int:
        return row.target_id

    @staticmethod
    def resolve_rig_name(row: Plan) -> str:
        return row.rig.name

    @staticmethod
    def resolve_spot_name(row: Plan) -> str:
        return str(row.spot)

    @staticmethod
    def resolve_target_name(row: Plan) -> str:
        return row.target.name

    @staticmethod
    def resolve_choices(row: Plan) -> dict[str, Any]:
        return choices_of(row).__dict__


def _keep(request: HttpRequest, data: PlanIn, row: Plan | None = None) -> Plan:
    """Work the night out once before storing it, so that no plan is kept that could not be opened again."""
    worked = Worked(request, data, data.choices.core())
    tonight(worked.rig, worked.spot, worked.night, worked.target, worked.choices)
    return keep_plan(worked.user, data.name, worked.rows, worked.night, worked.choices, row)


@router.get("", response=list[PlanOut], exclude_defaults=True)
@paginate
def plans(request: HttpRequest) -> OwnedQuerySet[Plan]:
    """Your plans, the latest night first."""
    return plans_of(user_of(request))


@router.get("/{int:record_id}", response={200: PlanOut, 404: FailureOut}, exclude_defaults=True)
def plan(request: HttpRequest, record_id: int) -> Plan:
    """One plan."""
    return get_object_or_404(plans_of(user_of(request)), pk=record_id)


@router.post("", response={201: PlanOut, 422: FailureOut})
def add_plan(request: HttpRequest, data: PlanIn) -> Status[Plan]:
    """Save a plan."""
    return Status(201, _keep(request, data))


@router.put("/{int:record_id}", response={200: PlanOut, 422: FailureOut, 404: FailureOut})
def change_plan(request: HttpRequest, record_id: int, data: PlanIn) -> Plan:
    """Save a plan over itself."""
    return _keep(request, data, get_object_or_404(plans_of(user_of(request)), pk=record_id))


add_removal(router, "plan", Plan, plans_of, PlanOut)
