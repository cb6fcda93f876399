"""Runs: what is planned, under way, done or dropped, and who says what of it."""

from collections.abc import Sequence
from datetime import date, datetime
from typing import Any, Literal, cast

from django.http import HttpRequest
from django.shortcuts import get_object_or_404
from ninja import Query, Router, Schema
from ninja.pagination import paginate

from widedusk.api.door import RowsAsAnswers
from widedusk.api.failures import FailureOut
from widedusk.api.schemas import user_of
from widedusk.core.plan.outlook import pauses_of
from widedusk.core.runs.facts import FIGURES, SOURCES, Figure, RunRecord, Source, State
from widedusk.records.nights.facts import facts_from, record_of_run, save_facts
from widedusk.records.nights.models import Run
from widedusk.records.nights.runs import choices_of, runs_of

router = Router(tags=["runs"])


class StatementOut(Schema):
    """What one source says of one figure. stands: whether it is believed; one of moment, number and words is set."""

    figure: Figure
    source: Source
    stands: bool
    moment: datetime | None = None
    number: float | None = None
    words: str | None = None


class RunOut(Schema):
    """A run from plan to picture. frames, kept, begins_at, ends_at: what was shot, none where nobody said; planned_*: of its plan.
    statements: everything that was said, the most believed first."""

    id: int
    name: str
    state: State
    origin: Literal["plan", "schedule", "files", "noted"]
    night: date
    spot: int | None
    spot_name: str
    time_zone: str  # of the place
    target: int
    target_name: str
    framing: int | None
    panel: str  # as “2·1”, row and column; empty where there are none
    rig: int | None
    rig_name: str
    in_plan: bool
    planned_frames: int | None
    planned_exposure_s: float | None
    planned_from: datetime | None
    planned_to: datetime | None
    planned_interval_gap_s: float | None  # for timers whose interval is the pause after an exposure, and those from start to start
    planned_interval_start_s: float | None
    begins_at: datetime | None
    ends_at: datetime | None
    frames: int | None
    kept: int | None
    exposure_s: float | None
    f_number: float | None
    iso: int | None
    sky_mag: float | None
    filter_name: str
    recognition: str
    statements: list[StatementOut]


def _statements(record: RunRecord) -> list[StatementOut]:
    said = {(fact.figure, fact.source): fact.value for fact in record.facts if fact.value is not None}
    found = []
    for figure in FIGURES:
        standing = next((source for source in SOURCES if (figure, source) in said), None)
        for source in SOURCES:
            value = said.get((figure, source))
            if value is None:
                continue
            kind = "moment" if isinstance(value, datetime) else "words" if isinstance(value, str) else "number"
            told: dict[str, Any] = {kind: value}
            found.append(StatementOut(figure=figure, source=source, stands=source == standing, **told))
    return found


def run_out(row: Run) -> RunOut:
    """row: with plan, result and facts."""
    plan, result = (getattr(row, name, None) for name in ("plan", "result"))
    sub = plan.exposure_s if plan else None
    pause = pauses_of(choices_of(row)).after(sub) if sub is not None else None
    shot = ("begins_at", "ends_at", "frames", "kept", "exposure_s", "f_number", "iso", "sky_mag")
    return RunOut(
        id=row.pk,
        name=row.name,
        state=cast(State, row.state),
        origin=cast(Any, row.origin),
        night=row.night.date,
        spot=row.night.spot_id,
        spot_name=str(row.night.spot) if row.night.spot else "",
        time_zone=row.night.spot.place.time_zone if row.night.spot else "UTC",
        target=row.target_id,
        target_name=row.target.name,
        framing=row.framing_id,
        panel=f"{row.panel[0] + 1}·{row.panel[1] + 1}" if row.panel else "",
        rig=row.rig_id,
        rig_name=row.rig.name if row.rig else "",
        in_plan=plan is not None and plan.planned,
        planned_frames=plan.frames if plan else None,
        planned_exposure_s=sub,
        planned_from=(plan.first_frame_at or plan.change_at or plan.begins_at) if plan else None,
        planned_to=(plan.last_frame_ends_at or plan.ends_at) if plan else None,
        planned_interval_gap_s=pause,
        planned_interval_start_s=sub + pause if sub is not None and pause is not None else None,
        filter_name=result.filter_name if result else "",
        recognition=result.recognition if result else "",
        statements=_statements(record_of_run(row)),
        **{name: getattr(result, name) if result else None for name in shot},
    )


class RunsQuery(Schema):
    state: State | None = None
    night: date | None = None
    spot: int | None = None
    target: int | None = None


@router.get("", response={200: list[RunOut], 422: FailureOut})
@paginate
def list_runs(request: HttpRequest, asked: Query[RunsQuery]) -> Sequence[RunOut]:
    """Your runs in order of night and time, of a state, night, spot or target where these are given."""
    rows = runs_of(user_of(request))
    wanted = {"state": asked.state, "night__date": asked.night, "night__spot": asked.spot, "target": asked.target}
    rows = rows.filter(**{name: value for name, value in wanted.items() if value is not None})
    return RowsAsAnswers(rows, lambda page: [run_out(row) for row in page])


@router.get("/{int:record_id}", response={200: RunOut, 404: FailureOut})
def run(request: HttpRequest, record_id: int) -> RunOut:
    """One run."""
    return run_out(get_object_or_404(runs_of(user_of(request)), pk=record_id))


@router.post("/{int:record_id}/drop", response={200: RunOut, 404: FailureOut})
def drop_run(request: HttpRequest, record_id: int) -> RunOut:
    """Give a run up by hand: it stays in the history and counts nowhere, whatever was shot."""
    row = get_object_or_404(runs_of(user_of(request)), pk=record_id)
    save_facts(row, facts_from("user", {"skipped": True}))
    return run_out(runs_of(user_of(request)).get(pk=row.pk))


@router.post("/{int:record_id}/undrop", response={200: RunOut, 404: FailureOut})
def undrop_run(request: HttpRequest, record_id: int) -> RunOut:
    """Take that back: the run is what plan, phone and files say of it."""
    row = get_object_or_404(runs_of(user_of(request)), pk=record_id)
    save_facts(row, facts_from("user", {"skipped": None}))
    return run_out(runs_of(user_of(request)).get(pk=row.pk))
