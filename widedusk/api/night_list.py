"""Every night that holds a run, with planned against done: those to come, the next first, then those past, the latest first."""

from collections.abc import Sequence
from datetime import date, timedelta
from typing import Annotated

from django.http import HttpRequest
from ninja import Query, Router, Schema
from pydantic import Field

from widedusk.api.failures import FailureOut
from widedusk.api.schemas import Offset, user_of
from widedusk.records.clock import now
from widedusk.records.nights.models import Night, Run
from widedusk.records.nights.nights import nights_with_runs
from widedusk.records.nights.runs import COUNTED, counted_frames, followed

router = Router(tags=["nights"])
NOON = timedelta(hours=12)
SECONDS_PER_HOUR = 3600.0


class NightLine(Schema):
    """A night. spot: none where nobody said where, or where it was deleted since. runs: without those that were dropped. frames:
    taken; kept: of those that are judged, by files or by hand; hours: that count for the targets. rig, target: with which its pages
    open."""

    night: date
    spot: int | None
    spot_name: str
    coming: bool
    rigs: list[str]
    targets: list[str]
    rig: int | None
    target: int | None
    runs: int
    done: int
    dropped: int
    frames_planned: int
    hours_planned: float
    frames: int
    kept: int
    hours: float


class NightLines(Schema):
    items: list[NightLine]
    count: int


class PageQuery(Schema):
    limit: Annotated[int, Field(ge=1, le=100)] = 20
    offset: Offset = 0


def _names(runs: Sequence[Run], what: str) -> list[str]:
    return list(dict.fromkeys(getattr(run, what).name for run in runs if getattr(run, what) is not None))


def night_line(row: Night, every_run: Sequence[Run], today: date) -> NightLine:
    """every_run: with their plans and results."""
    spot = row.spot if row.spot and row.spot.deleted_at is None and row.spot.place.deleted_at is None else None
    runs = [run for run in every_run if run.state != "dropped"]
    plans = [run.plan for run in followed(runs)]
    shot = [run for run in runs if hasattr(run, "result")]
    return NightLine(
        night=row.date,
        spot=spot.pk if spot else None,
        spot_name=str(row.spot) if row.spot else "",
        coming=row.date >= today,
        rigs=_names(runs, "rig"),
        targets=_names(runs, "target"),
        rig=next((run.rig_id for run in runs if run.rig_id), None),
        target=next((run.target_id for run in runs), None),
        runs=len(runs),
        done=sum(run.state in {"done", "noted"} for run in runs),
        dropped=len(every_run) - len(runs),
        frames_planned=sum(plan.frames or 0 for plan in plans),
        hours_planned=sum((plan.frames or 0) * (plan.exposure_s or 0.0) for plan in plans) / SECONDS_PER_HOUR,
        frames=sum(run.result.frames or run.result.kept or 0 for run in shot),
        kept=sum(run.result.kept or 0 for run in shot),
        hours=sum(counted_frames(run) * (run.result.exposure_s or 0.0) for run in shot if run.state in COUNTED) / SECONDS_PER_HOUR,
    )


@router.get("", response={200: NightLines, 422: FailureOut})
def list_nights(request: HttpRequest, asked: Query[PageQuery]) -> NightLines:
    """Your nights, a page at a time."""
    today = (now() - NOON).date()
    nights = nights_with_runs(user_of(request))
    coming, past = nights.filter(date__gte=today).order_by("date", "id"), nights.filter(date__lt=today).order_by("-date", "id")
    first, ahead = asked.offset, coming.count()
    rows = list(coming[first : first + asked.limit])
    if len(rows) < asked.limit:
        begin = max(first - ahead, 0)
        rows += past[begin : begin + asked.limit - len(rows)]
    items = [night_line(row, row.every_run, today) for row in rows]  # type: ignore[attr-defined]
    return NightLines(items=items, count=ahead + past.count())
