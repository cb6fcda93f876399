"""Frames of a night: the folders they lie in, the runs found in them, each frame judged, and the person's last word."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, datetime
from typing import Annotated, Any, Literal, cast

from django.contrib.auth.models import AbstractBaseUser
from django.db.models import Exists, OuterRef
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from ninja import Query, Router, Schema, Status
from ninja.pagination import paginate
from pydantic import Field

from widedusk.apart import readers
from widedusk.apart.process import read_apart
from widedusk.api.choices import ChoicesShape, Context
from widedusk.api.door import RowsAsAnswers
from widedusk.api.failures import FailureOut
from widedusk.api.files import FileOut
from widedusk.api.frame_folders import keep_up
from widedusk.api.schemas import Id, Number, user_of
from widedusk.api.weather import choices_with_weather
from widedusk.api.worked import Worked
from widedusk.core.errors import Fault, InvalidInput
from widedusk.core.frames.facts import FrameFacts
from widedusk.core.judge.account import CauseFound, JudgedRun, PeriodicError, run_verdict
from widedusk.core.judge.export import TableForm, sidecars
from widedusk.core.judge.limits import Limits
from widedusk.core.judge.teach import Lesson, lessons
from widedusk.core.kit.parts import Origin
from widedusk.core.plan.afterwards import Beside, as_planned, beside
from widedusk.core.plan.outlook import outlook
from widedusk.core.pole.axis import AxisError
from widedusk.core.runs.facts import State
from widedusk.core.sky.time import datetime_from_mjd
from widedusk.core.verdict import Verdict
from widedusk.records.frames.folders import folders_of, frames_of
from widedusk.records.frames.frames import facts_of, rig_width_deg
from widedusk.records.frames.judged import (
    assign,
    axis_from,
    count_in,
    export_lines,
    export_stars,
    file_side_px,
    headlines_of,
    judge_runs,
    judged_of,
    said_of,
    say,
    shot_runs_of,
    tell_kept,
)
from widedusk.records.kit.services import keep_periodic_error, rig_of, rigs_of
from widedusk.records.nights.models import Run
from widedusk.records.pole.services import keep_alignment
from widedusk.records.targets.services import targets_of

router = Router(tags=["frames"])
Word = Literal["keep", "less", "cull"]
Said = Literal["keep", "cull", ""]
MOST_SAID = 5_000


class ShotRun(Schema):
    """A run of which frames are here. headline: what spoils most of it, or nothing. counted: frames that count for the target, once
    that was said. planned: frames of its plan. recognition: what its frames were recognised as; unless it is the plan, a target or
    the user's word, they count only once the user says what they show. seen_width_deg, rig_width_deg: the field along its longer
    side, as the frames show it and, for another lens, as the rig's would be."""

    id: int
    name: str
    target: int
    target_name: str
    rig_name: str
    night: date
    exposure_s: float | None
    iso: int | None
    f_number: float | None
    begins_at: datetime | None
    ends_at: datetime | None
    frames: int
    counted: int | None
    headline: str
    state: State
    planned: int | None
    recognition: Literal["", "planned", "target", "not solved", "other field", "other lens", "user"]
    seen_width_deg: float | None
    rig_width_deg: float | None


class RunsQuery(Schema):
    spot: int | None = None
    night: date | None = None
    choices: ChoicesShape = ChoicesShape()


def _summarize_runs(rows: Sequence[Run], limits: Limits) -> list[ShotRun]:
    return [
        ShotRun(
            id=row.pk,
            name=row.name,
            target=row.target_id,
            target_name=row.target.name,
            rig_name=row.rig.name if row.rig else "",
            night=row.night.date,
            exposure_s=row.result.exposure_s,
            iso=row.result.iso,
            f_number=row.result.f_number,
            begins_at=row.result.begins_at,
            ends_at=row.result.ends_at,
            frames=headline.frames,
            counted=row.result.kept,
            state=cast(State, row.state),
            planned=row.plan.frames if hasattr(row, "plan") else None,
            recognition=cast(Any, row.result.recognition),
            seen_width_deg=row.result.seen_width_deg,
            rig_width_deg=rig_width_deg(row.rig) if row.rig and row.result.recognition == "other lens" else None,
            headline=headline.cause,
        )
        for row, headline in zip(rows, headlines_of(rows, limits), strict=True)
    ]


@router.get("/runs", response={200: list[ShotRun], 422: FailureOut})
@paginate
def runs(request: HttpRequest, asked: Query[RunsQuery]) -> Sequence[ShotRun]:
    """Runs of which frames lie here, of a night at a spot where these are given, in order of time."""
    rows = shot_runs_of(user_of(request))
    if asked.spot is not None:
        rows = rows.filter(night__spot_id=asked.spot)
    if asked.night is not None:
        rows = rows.filter(night__date=asked.night)
    limits = Limits.by(asked.choices.core())
    return RowsAsAnswers(rows, lambda page: _summarize_runs(page, limits))


@dataclass(frozen=True)
class JudgedFrame:
    """One frame: what we say of it, and what the person says, which counts. weight: in the stack, if it is kept."""

    id: int
    name: str
    at: datetime | None
    word: Word
    said: Said
    weight: float
    reasons: list[str]
    cause: str


@dataclass(frozen=True)
class FrameColumns:
    """One figure a frame, as core/judge/account.py tells them; none where a frame does not tell."""

    minutes: list[float]
    width: list[float | None]
    elongation: list[float | None]
    clear: list[float | None]
    sky: list[float | None]
    east: list[float | None]
    north: list[float | None]
    trail: list[float | None]
    trail_deg: list[float | None]
    worth: list[float | None]


class JudgedRunOut(Schema):
    run: ShotRun
    verdict: Verdict
    causes: list[CauseFound]
    frames: list[JudgedFrame]
    columns: FrameColumns
    periodic_error: PeriodicError | None
    rig: int | None
    lessons: list[Lesson]
    elongation_limit: float
    width_limit_px: float
    good_width_px: float
    scale_arcsec_px: float | None


def _own_run(request: HttpRequest, record_id: int) -> Run:
    return get_object_or_404(shot_runs_of(user_of(request)), pk=record_id)


def _numbers(values: Any) -> list[float | None]:
    return [round(float(one), 4) if one == one and abs(one) != float("inf") else None for one in values]  # noqa: PLR0124 - NaN


def _taught(user: AbstractBaseUser, row: Run, judged: JudgedRun) -> list[Lesson]:
    """Against the rig as it stands now: what was learned goes into it. Frames of another lens teach nothing of this rig."""
    if row.result.recognition == "other lens":
        return []
    rig = rigs_of(user).filter(pk=row.rig_id or 0).first()
    place = row.night.spot.place if row.night.spot is not None else None
    sky = place.sky_mag if place is not None and place.deleted_at is None else None
    return list(lessons(judged, rig_of(rig), sky, file_side_px(row))) if rig is not None else []


def _judged(user: AbstractBaseUser, row: Run, limits: Limits) -> JudgedRunOut:
    lines, judged = judged_of(row, limits)
    said = said_of(row)
    columns = judged.columns
    return JudgedRunOut(
        run=_summarize_runs([row], limits)[0],
        verdict=run_verdict(judged, [said.get(one.id, "") for one in lines]),
        causes=list(judged.causes),
        frames=[
            JudgedFrame(
                id=line.id,
                name=line.name,
                at=datetime_from_mjd(line.began_mjd) if line.began_mjd is not None else None,
                word=word.word,
                said=cast(Said, said.get(line.id, "")),
                weight=word.weight,
                reasons=list(word.reasons),
                cause=word.cause,
            )
            for line, word in zip(lines, judged.words, strict=True)
        ],
        columns=FrameColumns(
            minutes=[round(float(one), 3) for one in columns.minutes],
            **{name: _numbers(getattr(columns, name)) for name in FrameColumns.__dataclass_fields__ if name != "minutes"},
        ),
        periodic_error=judged.worm,
        rig=row.rig_id,
        lessons=_taught(user, row, judged),
        elongation_limit=limits.elongation,
        width_limit_px=limits.width * judged.good_width_px,
        good_width_px=judged.good_width_px,
        scale_arcsec_px=judged.scale_arcsec_px,
    )


class JudgeQuery(Schema):
    choices: ChoicesShape = ChoicesShape()


@router.get("/runs/{int:record_id}", response={200: JudgedRunOut, 404: FailureOut, 422: FailureOut})
def judged_run(request: HttpRequest, record_id: int, asked: Query[JudgeQuery]) -> JudgedRunOut:
    """A run with every frame judged by the limits given."""
    return _judged(user_of(request), _own_run(request, record_id), Limits.by(asked.choices.core()))


class BesidePlan(Schema):
    """Figures of a run as its plan expects them, and as its frames have them."""

    figures: list[Beside]
    verdict: Verdict | None


@router.get("/runs/{int:record_id}/beside", response={200: BesidePlan, 404: FailureOut, 422: FailureOut})
def beside_its_plan(request: HttpRequest, record_id: int, asked: Query[JudgeQuery]) -> BesidePlan:
    """A run beside what Exposure says of its night, rig and target; no figures where the run has no rig or no spot."""
    row, choices = _own_run(request, record_id), asked.choices.core()
    lines, judged = judged_of(row, Limits.by(choices))
    if row.rig_id is None or row.night.spot_id is None or row.night.spot is None:
        return BesidePlan(figures=[], verdict=None)
    where = Context(rig=row.rig_id, spot=row.night.spot_id, night=row.night.date, target=row.target_id, framing=row.framing_id)
    worked = Worked(request, where, choices)
    weather = choices_with_weather(worked.choices, worked.spot_row, worked.night)
    seen = outlook(worked.rig, worked.spot, worked.night, worked.target, weather.choices, worked.axis)
    said = said_of(row)
    figures = beside(seen, judged, [said.get(one.id, "") for one in lines], worked.spot, weather.air)
    return BesidePlan(figures=list(figures), verdict=as_planned(figures, judged))


def _axis(row: Run, limits: Limits) -> tuple[AxisError | None, str]:
    """Where the axis stood by a run, and why that is not to be kept, else empty."""
    found, why_not = axis_from(row, limits)
    if found is not None and row.result.recognition == "other lens":
        why_not = "Not offered: these frames were taken through another lens, so perhaps on another tracker."
    return found, why_not


class RunAxis(Schema):
    """Where the axis stood by the frames of a run; none where they do not tell it. why_not: what else moved the picture, so that it
    is not to be kept; else empty."""

    error: AxisError | None
    total_arcmin: float | None
    why_not: str


@router.get("/runs/{int:record_id}/axis", response={200: RunAxis, 404: FailureOut, 422: FailureOut})
def axis(request: HttpRequest, record_id: int, asked: Query[JudgeQuery]) -> RunAxis:
    """The axis for free, from how the picture turned among the stars while the run went on."""
    row = _own_run(request, record_id)
    found, why_not = _axis(row, Limits.by(asked.choices.core()))  # of the page, for which the run is judged already
    return RunAxis(error=found, total_arcmin=found.total_arcmin if found else None, why_not=why_not)


class AlignmentKept(Schema):
    id: int


@router.post("/runs/{int:record_id}/axis", response={201: AlignmentKept, 404: FailureOut, 422: FailureOut})
def keep_axis(request: HttpRequest, record_id: int) -> Status[AlignmentKept]:
    """Keep that axis as an alignment of the night; it can be deleted like any other."""
    row = _own_run(request, record_id)
    found, why_not = _axis(row, Limits())
    if found is None or row.rig is None or row.night.spot is None:
        told = "These frames do not tell the axis: eight minutes without a jump are needed, at a known place."
        raise InvalidInput([Fault("run", row.name, told)])
    if why_not:
        raise InvalidInput([Fault("run", row.name, why_not)])
    kept = keep_alignment(user_of(request), row.rig, row.night.spot, row.night.date, "Run of pictures", found)
    return Status(201, AlignmentKept(id=kept.pk))


class PeriodicErrorIn(Schema):
    """Of the rig's tracker, to plan with from now on. origin: where it is from; none: learned."""

    rig: int
    half_amplitude_arcsec: Number
    period_s: Number
    origin: Origin | None = None


class PeriodicErrorBefore(Schema):
    """What stood there before, to go back to."""

    half_amplitude_arcsec: float
    period_s: float
    origin: Origin


@router.post("/learn", response={200: PeriodicErrorBefore, 404: FailureOut, 422: FailureOut})
def learn_periodic_error(request: HttpRequest, data: PeriodicErrorIn) -> PeriodicErrorBefore:
    """Write a measured periodic error into the tracker of a rig."""
    user = user_of(request)
    rig = get_object_or_404(rigs_of(user), pk=data.rig)
    half, period, origin = keep_periodic_error(user, rig, data.half_amplitude_arcsec, data.period_s, data.origin or "learned")
    return PeriodicErrorBefore(half_amplitude_arcsec=half, period_s=period, origin=origin)


class WordOn(Schema):
    frame: Id
    said: Said


class WordsIn(JudgeQuery):
    words: Annotated[list[WordOn], Field(max_length=MOST_SAID)]


class WordsOut(Schema):
    """What stood there before, to be given back for undo."""

    before: list[WordOn]


@router.post("/runs/{int:record_id}/words", response={200: WordsOut, 404: FailureOut, 422: FailureOut})
def words(request: HttpRequest, record_id: int, data: WordsIn) -> WordsOut:
    """The person's own word on some frames of a run; an empty one takes it back."""
    row = _own_run(request, record_id)
    before = say(user_of(request), row, {one.frame: one.said for one in data.words})
    if row.result.kept is not None:
        lines, judged = judged_of(row, Limits.by(data.choices.core()))
        tell_kept(row, judged, lines)
    return WordsOut(before=[WordOn(frame=frame, said=cast(Said, said)) for frame, said in before.items()])


class CountIn(JudgeQuery):
    """f_number, exposure_s: where the files do not say them."""

    f_number: Number | None = None
    exposure_s: Number | None = None


@router.post("/runs/{int:record_id}/count", response={200: ShotRun, 404: FailureOut, 422: FailureOut})
def count(request: HttpRequest, record_id: int, data: CountIn) -> ShotRun:
    """Let the frames that are kept count for the target, from now on."""
    row, limits = _own_run(request, record_id), Limits.by(data.choices.core())
    lines, judged = judged_of(row, limits)
    typed = {"f_number": data.f_number, "exposure_s": data.exposure_s}
    return _summarize_runs([count_in(row, judged, lines, typed)], limits)[0]


class RunShows(JudgeQuery):
    """What the frames of a run show, by the user's word."""

    target: Id


@router.post("/runs/{int:record_id}/shows", response={200: ShotRun, 404: FailureOut, 422: FailureOut})
def assign_target(request: HttpRequest, record_id: int, data: RunShows) -> ShotRun:
    """Say what a run shows that was not recognised."""
    row = _own_run(request, record_id)
    target = targets_of(user_of(request)).filter(pk=data.target).first()
    if target is None:
        raise InvalidInput([Fault("target", data.target, f"You have no target number {data.target}; choose one from the list.")])
    return _summarize_runs([assign(row, target)], Limits.by(data.choices.core()))[0]


@router.get("/runs/{int:record_id}/list", response={200: FileOut, 404: FailureOut, 422: FailureOut})
def listed(request: HttpRequest, record_id: int, asked: Query[JudgeQuery], form: TableForm = "csv") -> FileOut:
    """The frames of a run with words, weights and reasons: CSV, ECSV, or names alone of what is kept or culled."""
    row = _own_run(request, record_id)
    lines = export_lines(row, Limits.by(asked.choices.core()))
    text = read_apart(readers.frames_text, lines, form)
    ending, media = {"csv": ("csv", "text/csv"), "ecsv": ("ecsv", "text/plain")}.get(form, ("txt", "text/plain"))
    return FileOut(name=f"{row.target.name} {form}.{ending}", media=media, text=text)


ZIP = {"responses": {200: {"content": {"application/zip": {"schema": {"type": "string", "format": "binary"}}}}}}
FITS = {"responses": {200: {"content": {"application/fits": {"schema": {"type": "string", "format": "binary"}}}}}}
JPEG = {"responses": {200: {"content": {"image/jpeg": {"schema": {"type": "string", "format": "binary"}}}}}}


@router.get("/runs/{int:record_id}/sidecars.zip", response={200: None, 404: FailureOut, 422: FailureOut}, openapi_extra=ZIP)
def sidecars_of(request: HttpRequest, record_id: int, asked: Query[JudgeQuery]) -> HttpResponse:
    """XMP sidecars with rating and label, to lay beside copies of the files."""
    row = _own_run(request, record_id)
    content = sidecars(export_lines(row, Limits.by(asked.choices.core())))
    headers = {"Content-Disposition": 'attachment; filename="sidecars.zip"', "Cache-Control": "private, no-store"}
    return HttpResponse(content, content_type="application/zip", headers=headers)


@router.get("/runs/{int:record_id}/tables.fits", response={200: None, 404: FailureOut, 422: FailureOut}, openapi_extra=FITS)
def tables_of(request: HttpRequest, record_id: int, asked: Query[JudgeQuery]) -> HttpResponse:
    """A FITS file of two tables: the frames, by keywords of their headers, and the stars that were named in each."""
    row = _own_run(request, record_id)
    lines = export_lines(row, Limits.by(asked.choices.core()))
    content = read_apart(readers.frames_fits, lines, export_stars(row))
    headers = {"Content-Disposition": 'attachment; filename="frames.fits"', "Cache-Control": "private, no-store"}
    return HttpResponse(content, content_type="application/fits", headers=headers)


class FrameAlarm(Schema):
    """What the latest frames of a watched folder say and somebody beside the tripod can still mend. key: its run and cause."""

    key: str
    name: str
    now: str
    target_name: str


class LastFrames(Schema):
    """The last run of which frames are here, and where it was; nothing where there is none."""

    night: date | None = None
    spot: int | None = None
    target: int | None = None
    name: str = ""
    frames: int = 0


@router.get("/last", response=LastFrames)
def last_frames(request: HttpRequest) -> LastFrames:
    """Of whatever night, for a page of a night that has none yet."""
    run = shot_runs_of(user_of(request)).exclude(result__begins_at=None).last()
    if run is None:
        return LastFrames()
    return LastFrames(
        night=run.night.date, spot=run.night.spot_id, target=run.target_id, name=run.target.name, frames=run.taken.count()
    )


@router.get("/alarms", response=list[FrameAlarm])
@paginate
def alarms(request: HttpRequest, night: int) -> list[FrameAlarm]:
    """Of a night while it runs, by the usual limits; its watched folders are looked through for it."""
    user = user_of(request)
    for folder in folders_of(user).filter(night_id=night, watched=True, state="reading"):
        keep_up(folder)
    watched = frames_of(user).filter(folder__watched=True, run=OuterRef("pk"))
    rows = shot_runs_of(user).filter(Exists(watched), night_id=night)
    return [
        FrameAlarm(key=f"{row.pk}:{cause.key}", name=cause.name, now=cause.now, target_name=row.target.name)
        for row, judged in judge_runs(list(rows), Limits())
        for cause in judged.causes
        if cause.now
    ]


class MeasuredFrame(Schema):
    """One frame with everything that was measured of it."""

    id: int
    name: str
    run: int | None
    at: datetime | None
    kind: str
    width_px: int | None
    height_px: int | None
    exposure_s: float | None
    iso: int | None
    f_number: float | None
    focal_mm: float | None
    facts: FrameFacts | None


@router.get("/{int:record_id}", response={200: MeasuredFrame, 404: FailureOut})
def frame(request: HttpRequest, record_id: int) -> MeasuredFrame:
    """What was measured of one frame."""
    row = get_object_or_404(frames_of(user_of(request)), pk=record_id)
    head = row.header
    return MeasuredFrame(
        id=row.pk,
        name=row.name,
        run=row.run_id,
        at=row.began_at,
        kind=row.kind,
        facts=facts_of(row.facts) if row.facts else None,
        **{name: head.get(name) for name in ("width_px", "height_px", "exposure_s", "iso", "f_number", "focal_mm")},
    )


def _picture(request: HttpRequest, record_id: int, name: str) -> HttpResponse:
    rows = frames_of(user_of(request)).filter(**{f"{name}__isnull": False}).values_list(name, flat=True)
    content = get_object_or_404(rows, pk=record_id)
    return HttpResponse(bytes(content), content_type="image/jpeg", headers={"Cache-Control": "private, max-age=86400"})


@router.get("/{int:record_id}/crops.jpg", response={200: None, 404: FailureOut}, openapi_extra=JPEG)
def crops(request: HttpRequest, record_id: int) -> HttpResponse:
    """Centre and four corners of a frame side by side, pixel for pixel."""
    return _picture(request, record_id, "crops")


@router.get("/{int:record_id}/preview.jpg", response={200: None, 404: FailureOut}, openapi_extra=JPEG)
def whole_picture(request: HttpRequest, record_id: int) -> HttpResponse:
    """A small stretched view of a frame."""
    return _picture(request, record_id, "preview")
