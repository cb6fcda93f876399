"""Every night that holds a run: those to come, the next first, then those past, the latest first."""

from datetime import date, timedelta
from typing import Annotated, Any

from django.http import HttpRequest
from ninja import Query, Router, Schema
from pydantic import Field

from widedusk.api.failures import FailureOut
from widedusk.api.plans import PlanOut
from widedusk.api.schemas import Offset, user_of
from widedusk.records.clock import now
from widedusk.records.nights.models import Night, Run
from widedusk.records.nights.nights import nights_with_runs
from widedusk.records.nights.runs import COUNTED

router = Router(tags=["nights"])
NOON = timedelta(hours=12)


class WholeLine(Schema):
    """What is planned of a night as a whole. frames: as they were expected when it was kept; rig, target: where its page begins."""

    runs: int
    frames: int
    rigs: list[str]
    targets: list[str]
    rig: int
    target: int


class NotedLine(Schema):
    """What was kept of a night."""

    frames: int
    hours: float
    targets: list[str]


class NightLine(Schema):
    """spot: none where nobody said where, or where it was deleted since."""

    night: date
    spot: int | None
    spot_name: str
    coming: bool
    whole: WholeLine | None
    plans: list[PlanOut]
    noted: NotedLine | None


class NightLines(Schema):
    items: list[NightLine]
    count: int


class PageQuery(Schema):
    limit: Annotated[int, Field(ge=1, le=100)] = 20
    offset: Offset = 0


def _names(rows: list[Run], what: str) -> list[str]:
    return list(dict.fromkeys(getattr(one, what).name for one in rows if getattr(one, what) is not None))


def _whole(row: Night, runs: list[Run]) -> WholeLine | None:
    if not row.whole:
        return None
    rigs = [one.rig_id for one in runs if one.rig_id] or row.whole.get("rigs", [])
    targets = [one.target_id for one in runs] or [one["target"] for one in row.whole.get("wishes", [])]
    return WholeLine(
        runs=len(runs),
        frames=sum(one.expected.get("frames", 0) for one in runs),
        rigs=_names(runs, "rig"),
        targets=_names(runs, "target"),
        rig=next(iter(rigs), 0),
        target=next(iter(targets), 0),
    )


def _noted(runs: list[Run]) -> NotedLine | None:
    if not runs:
        return None
    hours = sum((one.frames or 0) * (one.exposure_s or 0.0) for one in runs) / 3600.0
    return NotedLine(frames=sum(one.frames or 0 for one in runs), hours=hours, targets=_names(runs, "target"))


def _line(row: Night, today: date) -> dict[str, Any]:
    """With rows of plans, which are read as they are everywhere."""
    runs: list[Run] = row.every_run  # type: ignore[attr-defined]
    spot = row.spot if row.spot and row.spot.deleted_at is None and row.spot.place.deleted_at is None else None
    planned = [one for one in runs if one.state == "planned"]
    return {
        "night": row.date,
        "spot": spot.pk if spot else None,
        "spot_name": str(row.spot) if row.spot else "",
        "coming": row.date >= today,
        "whole": _whole(row, [one for one in planned if one.scheduled]),
        "plans": [one for one in planned if not one.scheduled],
        "noted": _noted([one for one in runs if one.state in COUNTED]),
    }


@router.get("/list", response={200: NightLines, 422: FailureOut}, exclude_defaults=True)
def nights_listed(request: HttpRequest, asked: Query[PageQuery]) -> dict[str, Any]:
    """Your nights, a page at a time."""
    today = (now() - NOON).date()
    found = nights_with_runs(user_of(request))
    coming, past = found.filter(date__gte=today).order_by("date", "id"), found.filter(date__lt=today).order_by("-date", "id")
    first, ahead = asked.offset, coming.count()
    rows = list(coming[first : first + asked.limit])
    if len(rows) < asked.limit:
        begin = max(first - ahead, 0)
        rows += past[begin : begin + asked.limit - len(rows)]
    return {"items": [_line(row, today) for row in rows], "count": ahead + past.count()}
