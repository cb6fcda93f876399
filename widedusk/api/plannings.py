"""Planning that takes longer than a page may wait: the nights of a trip, and what if a night goes another way."""

from datetime import date, datetime
from typing import Annotated, Literal, TypeVar

from django.contrib.auth.models import AbstractBaseUser
from django.http import HttpRequest
from django.shortcuts import get_object_or_404
from ninja import Query, Router, Schema
from pydantic import Field, TypeAdapter, ValidationError

from widedusk.api.failures import FailureOut, FaultOut
from widedusk.api.nights import own_spot
from widedusk.api.schemas import Number, user_of
from widedusk.api.whole import AskedShape, Clocked, NightQuery
from widedusk.core.errors import Fault, InvalidInput
from widedusk.core.plan.schedule.compose import refuse_wrong
from widedusk.core.plan.schedule.trip import TripPlan
from widedusk.core.plan.schedule.what_if import Otherwise, Replan, WhatIf, refuse
from widedusk.core.tracking.wind import WindLevel
from widedusk.jobs.queue import put_in_line, send_for_forecast
from widedusk.records.nights.composing import planned_runs, stops_of_trip
from widedusk.records.nights.models import Night, Planning, RunPlan, Trip
from widedusk.records.nights.nights import night_of
from widedusk.records.nights.plannings import begin_planning, planning_of
from widedusk.records.nights.trips import MOST_NIGHTS, trips_of
from widedusk.records.nights.whole import keep_trip_plan
from widedusk.records.work import cancel, is_silent

router = Router(tags=["nights"])
trip_router = Router(tags=["trips"])
T = TypeVar("T")
TRIP_PLAN, WHAT_IFS, REPLANS = TypeAdapter(TripPlan), TypeAdapter(list[WhatIf]), TypeAdapter(list[Replan])


class WorkOut(Schema):
    """How far long work is. silent: nobody has been heard working on it for a while."""

    state: Literal["waiting", "running", "done", "failed", "cancelled"]
    silent: bool
    share: float
    doing: str
    faults: list[FaultOut]
    asked_at: datetime


def _work(row: Planning) -> WorkOut:
    return WorkOut(
        state=row.state,  # type: ignore[arg-type]
        silent=is_silent(row),
        share=row.share,
        doing=row.doing,
        faults=row.faults,
        asked_at=row.created_at,
    )


class TripAskedShape(AskedShape):
    """lost: evenings on which nothing can be taken, so that their share goes to the others."""

    lost: Annotated[list[date], Field(max_length=MOST_NIGHTS)] = Field(default_factory=list)


class TripPlanOut(Schema):
    """What was last asked of a trip; nothing where nobody asked. plan: once it is done."""

    work: WorkOut | None
    asked: TripAskedShape | None
    plan: TripPlan | None


class KeptNightsOut(Schema):
    nights: int


def _result(row: Planning, shape: "TypeAdapter[T]") -> T | None:
    """What came out; nothing where it was told in the words of an earlier version, and has to be asked anew."""
    if row.state != "done":
        return None
    try:
        return shape.validate_python(row.result)
    except ValidationError:
        return None


def _trip(request: HttpRequest, number: int) -> Trip:
    return get_object_or_404(trips_of(user_of(request)), pk=number)


def _trip_out(row: Planning | None) -> TripPlanOut:
    if row is None:
        return TripPlanOut(work=None, asked=None, plan=None)
    asked, plan = TripAskedShape(**row.asked), _result(row, TRIP_PLAN)
    return TripPlanOut(work=_work(row) if plan or row.state != "done" else None, asked=asked, plan=plan)


@trip_router.get("/{int:record_id}/plan", response={200: TripPlanOut, 404: FailureOut})
def trip_plan(request: HttpRequest, record_id: int) -> TripPlanOut:
    """How far the planning of a trip is, or what came out."""
    return _trip_out(planning_of(user_of(request), _trip(request, record_id), "trip"))


@trip_router.post("/{int:record_id}/plan", response={200: TripPlanOut, 404: FailureOut, 422: FailureOut})
def plan_trip(request: HttpRequest, record_id: int, asked: TripAskedShape) -> TripPlanOut:
    """Plan all nights of a trip that are still to come, as one; a worker does it."""
    user, trip = user_of(request), _trip(request, record_id)
    _, wished, _, stops = stops_of_trip(user, trip, asked.core(), asked.lost, send_for_forecast)
    refuse_wrong(stops[0].stands, [one.wish for one in wished])
    row = begin_planning(user, trip, "trip", asked.model_dump(mode="json", exclude_defaults=True))
    put_in_line(row)
    return _trip_out(row)


@trip_router.post("/{int:record_id}/plan/cancel", response={200: TripPlanOut, 404: FailureOut})
def cancel_trip_plan(request: HttpRequest, record_id: int) -> TripPlanOut:
    """Stop it: at once while it waits, else at the worker's next step."""
    row = planning_of(user_of(request), _trip(request, record_id), "trip")
    if row is not None and row.state in {"waiting", "running"}:
        cancel(row)
    return _trip_out(row)


@trip_router.post("/{int:record_id}/plan/keep", response={200: KeptNightsOut, 404: FailureOut, 422: FailureOut})
def keep_trip(request: HttpRequest, record_id: int) -> KeptNightsOut:
    """Keep what was planned as the plan of each night; what was planned for lost nights is taken back."""
    user, trip = user_of(request), _trip(request, record_id)
    row = planning_of(user, trip, "trip")
    plan = _result(row, TRIP_PLAN) if row is not None else None
    if row is None or plan is None:
        raise InvalidInput([Fault("trip", trip.name, "Nothing is planned for this trip yet; plan its nights first.")])
    return KeptNightsOut(nights=keep_trip_plan(user, trip, row.asked, plan, send_for_forecast))


class OtherwiseShape(Schema):
    """Which ways the night may go."""

    late_h: Number = 1.0
    cloud_until: Clocked = "00:00"
    wind: WindLevel = "fresh"
    home_h: Number = 1.0


class WhatIfIn(OtherwiseShape):
    spot: int
    night: date


class WhatIfsOut(Schema):
    """outdated: whether the night was changed since."""

    work: WorkOut | None
    asked: OtherwiseShape | None
    outdated: bool
    what_ifs: list[WhatIf]


def what_ifs_of(user: AbstractBaseUser, night: Night) -> tuple[list[WhatIf], bool]:
    """What was worked out for a kept night going another way, and whether more is on its way: where nobody asked, or the night was
    changed since, it is asked for now, as the house would."""
    if not night.whole or not planned_runs(user, night).exists():
        return [], False
    row = planning_of(user, night, "what if")
    if row is None or _outdated(night, row):
        row = begin_planning(user, night, "what if", OtherwiseShape().dict())
        put_in_line(row)
    return _result(row, WHAT_IFS) or [], row.state in {"waiting", "running"} and not is_silent(row)


def replans_of(user: AbstractBaseUser, night: Night) -> tuple[list[Replan], bool]:
    """What is best of a kept night from every ten minutes on, and whether it is still being worked out; asked for as above."""
    if not night.whole or not planned_runs(user, night).exists():
        return [], False
    row = planning_of(user, night, "replan")
    if row is None or _outdated(night, row):
        row = begin_planning(user, night, "replan", {})
        put_in_line(row)
    return _result(row, REPLANS) or [], row.state in {"waiting", "running"} and not is_silent(row)


def _outdated(night: Night, row: Planning) -> bool:
    return RunPlan.objects.filter(run__night=night, run__origin="schedule", changed_at__gt=row.created_at).exists()


def _kept(request: HttpRequest, asked: NightQuery) -> Night:
    user = user_of(request)
    found = night_of(user, own_spot(user, asked.spot), asked.night)
    if found is None or not found.whole:
        raise InvalidInput([Fault("night", str(asked.night), "No plan is kept for this night; keep one first.")])
    return found


def _what_ifs_out(night: Night, row: Planning | None) -> WhatIfsOut:
    if row is None:
        return WhatIfsOut(work=None, asked=None, outdated=False, what_ifs=[])
    found = _result(row, WHAT_IFS)
    return WhatIfsOut(
        work=_work(row) if found is not None or row.state != "done" else None,
        asked=OtherwiseShape(**row.asked),
        outdated=_outdated(night, row),
        what_ifs=found or [],
    )


@router.get("/what-ifs", response={200: WhatIfsOut, 422: FailureOut})
def kept_what_ifs(request: HttpRequest, asked: Query[NightQuery]) -> WhatIfsOut:
    """What ifs of a kept night, or how far they are."""
    night = _kept(request, asked)
    return _what_ifs_out(night, planning_of(user_of(request), night, "what if"))


@router.post("/what-ifs", response={200: WhatIfsOut, 422: FailureOut})
def ask_what_ifs(request: HttpRequest, asked: WhatIfIn) -> WhatIfsOut:
    """Work out what is best when a kept night goes another way; a worker does it, and it stays with the night."""
    otherwise = asked.dict(exclude={"spot", "night"})
    refuse(Otherwise(**otherwise))
    night = _kept(request, NightQuery(spot=asked.spot, night=asked.night))
    row = begin_planning(user_of(request), night, "what if", otherwise)
    put_in_line(row)
    return _what_ifs_out(night, row)


@router.post("/what-ifs/cancel", response={200: WhatIfsOut, 422: FailureOut})
def cancel_what_ifs(request: HttpRequest, asked: NightQuery) -> WhatIfsOut:
    """Stop it: at once while it waits, else at the worker's next step."""
    night = _kept(request, asked)
    row = planning_of(user_of(request), night, "what if")
    if row is not None and row.state in {"waiting", "running"}:
        cancel(row)
    return _what_ifs_out(night, row)
