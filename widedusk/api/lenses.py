"""My lens: how pictures at several stops judge it, what each stop costs, and from which on it is good."""

from datetime import datetime

from django.http import HttpRequest
from django.shortcuts import get_object_or_404
from ninja import Query, Router, Schema
from ninja.pagination import paginate

from widedusk.api.choices import ChoicesShape, Context
from widedusk.api.failures import FailureOut
from widedusk.api.schemas import Number, user_of
from widedusk.api.weather import choices_with_weather
from widedusk.api.worked import Worked
from widedusk.core.errors import Fault, InvalidInput
from widedusk.core.exposure.alternatives import Price
from widedusk.core.judge.limits import Limits
from widedusk.core.judge.my_lens import AtStop, JudgedLens, judge_lens, pictures_of
from widedusk.core.kit.parts import Origin
from widedusk.core.plan.exposing import hours_at
from widedusk.core.verdict import Verdict
from widedusk.records.kit.services import keep_good_stops, rigs_of
from widedusk.records.pictures.measurements import measurements_of
from widedusk.records.pictures.models import Measurement

router = Router(tags=["lenses"])
MOST_LISTED = 100


class LensSeen(Schema):
    """Pictures of one lens, measured together. stops: f-numbers from the widest."""

    id: int
    lens: str
    focal_mm: float
    at: datetime
    stops: list[float]


class LensQuery(ChoicesShape, Context):
    pass


class StopCost(Schema):
    """What a stop asks for under tonight's plan: its own best sub, and hours to the signal to noise that is wanted."""

    exposure_s: float
    price: Price


class GoodStops(Schema):
    """From which stops on a lens is good, as its part on the Bench says. narrow: none where nothing is said of narrowband."""

    broad: float
    narrow: float | None
    origin: Origin


class LensOut(Schema):
    """in_use: what plans use now; costs: beside the stops, none where the chosen rig carries another lens."""

    seen: LensSeen
    stops: list[AtStop]
    broad: float | None
    narrow: float | None
    verdict: Verdict
    costs: list[StopCost]
    in_use: GoodStops | None


def _seen(row: Measurement) -> LensSeen:
    result = row.result or {}
    stops = sorted(one["f_number"] for one in result["stops"])
    return LensSeen(id=row.pk, lens=result["lens"], focal_mm=result["focal_mm"], at=row.created_at, stops=stops)


def _judged(row: Measurement, limits: Limits) -> JudgedLens:
    return judge_lens(pictures_of(row.result or {}), limits)


@router.get("", response=list[LensSeen])
@paginate
def lenses(request: HttpRequest) -> list[LensSeen]:
    """Lenses that were measured, the latest first."""
    rows = measurements_of(user_of(request)).filter(task="lens", state="done")
    return [_seen(row) for row in rows[:MOST_LISTED]]


@router.get("/{int:record_id}", response={200: LensOut, 404: FailureOut, 422: FailureOut})
def lens(request: HttpRequest, record_id: int, asked: Query[LensQuery]) -> LensOut:
    """One measured lens against the limits of now, each stop with what it costs tonight."""
    row = get_object_or_404(measurements_of(user_of(request)), pk=record_id, task="lens")
    if row.state != "done":
        raise InvalidInput([Fault("pictures", record_id, "These pictures are not measured yet; wait, or bring them again.")])
    worked = Worked(request, asked, asked.core())
    found, seen = _judged(row, Limits.by(worked.choices)), _seen(row)
    costs, in_use = [], None
    if worked.rig.lens.name == seen.lens and worked.rig.lens.focal_mm == seen.focal_mm:
        choices = choices_with_weather(worked.choices, worked.spot_row, worked.night).choices
        at = (worked.rig, worked.spot, worked.night, worked.target, choices, worked.axis)
        costs = [StopCost(exposure_s=sub_s, price=price) for sub_s, price in hours_at([one.f_number for one in found.stops], *at)]
        mounted = worked.rig.lens
        in_use = GoodStops(broad=mounted.f_best, narrow=mounted.f_best_narrow, origin=mounted.origin("f_best"))
    return LensOut(
        seen=seen,
        stops=list(found.stops),
        broad=found.broad,
        narrow=found.narrow,
        verdict=found.verdict,
        costs=costs,
        in_use=in_use,
    )


class GoodStopsIn(Schema):
    """Of the rig's lens, to plan with from now on. origin: where it is from; none: learned."""

    rig: int
    broad: Number
    narrow: Number | None = None
    origin: Origin | None = None


@router.post("/good-stops", response={200: GoodStops, 404: FailureOut, 422: FailureOut})
def keep_stops(request: HttpRequest, data: GoodStopsIn) -> GoodStops:
    """Write from which stops on the lens of a rig is good; what stood there before comes back, for undo."""
    user = user_of(request)
    rig = get_object_or_404(rigs_of(user), pk=data.rig)
    broad, narrow, origin = keep_good_stops(user, rig, data.broad, data.narrow, data.origin or "learned")
    return GoodStops(broad=broad, narrow=narrow, origin=origin)
