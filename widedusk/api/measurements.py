"""What pictures tell: the axis, where the camera looks, the camera itself. Long work, asked after by its number."""

from collections.abc import Callable
from datetime import date, datetime, timedelta
from functools import cache
from typing import Annotated, Any, Literal, cast

from django.http import HttpRequest
from django.shortcuts import get_object_or_404
from ninja import Router, Schema, Status
from ninja.pagination import paginate
from pydantic import Field

from widedusk.api.choices import ChoicesShape, Context
from widedusk.api.failures import FailureOut, FaultOut
from widedusk.api.pictures import MOST_NAMES
from widedusk.api.pole import AxisOut, Needed, axis_out
from widedusk.api.schemas import Number, user_of
from widedusk.core.errors import Fault, InvalidInput
from widedusk.core.frames.photon_transfer import Transfer
from widedusk.core.frames.pointing import Pointing
from widedusk.core.framing.nudge import Nudge, nudge_to, pointing_verdict
from widedusk.core.judge.my_lens import StoppedBy
from widedusk.core.pole.axis import AxisError
from widedusk.core.pole.slip import NO_DOUBT, slip_doubt
from widedusk.core.verdict import Verdict
from widedusk.jobs.queue import put_in_line
from widedusk.records.clock import now, true_now
from widedusk.records.grounds.services import spot_of
from widedusk.records.kit.services import rig_of
from widedusk.records.pictures.measurements import Asked, PictureAsked, begin_measurement, measurements_of, middle_mjd
from widedusk.records.pictures.models import Measurement
from widedusk.records.work import cancel as cancel_work
from widedusk.records.work import is_silent, worker_is_heard

router = Router(tags=["pictures"])
PHOTO_SOURCE = "Common axis of two camera attitudes: D = R2ᵀ R1; stars of Gaia DR3 and Hipparcos, refraction Bennett 1982"
OLD_CLOCK_MIN = 10.0
FIRST_YEAR, LAST_YEAR = 1970, 2200
Task = Literal["axis", "series", "pointing", "trial", "camera", "lens"]
State = Literal["waiting", "running", "done", "failed", "cancelled"]


class ShotIn(Schema):
    """One picture of a measurement. taken: the camera's clock when the exposure began, read with clock_offset_min."""

    picture: int
    taken: datetime | None = None
    exposure_s: Number | None = None
    focal_mm: Number | None = None
    f_number: Number | None = None  # of a picture of the lens
    stopped_by: StoppedBy | None = None


class MeasurementIn(Schema):
    context: Context
    choices: ChoicesShape = ChoicesShape()
    task: Task
    pictures: Annotated[list[ShotIn], Field(max_length=MOST_NAMES)]
    clock_offset_min: Annotated[int, Field(ge=-900, le=900)] = 0  # zone of the camera's clock, east positive
    clock_fast_s: Annotated[Number, Field(ge=-86400, le=86400)] | None = None  # how much it is ahead; None: nobody compared it
    temperature_c: Number = 10.0
    keep_files: bool = False
    iso: int | None = None  # of a test picture or of frames of the camera, where the files do not say it
    f_number: Number | None = None


class PictureFound(Schema):
    picture: int
    name: str
    pointing: Pointing
    fwhm_px: float
    axis_ratio: float
    right_frames: float | None  # where in the picture the target lies, from its middle; none: behind the camera
    down_frames: float | None


class MeasurementOut(Schema):
    """Long work as the page sees it. silent: nobody has been heard working on it for a while."""

    id: int
    task: Task
    state: State
    silent: bool
    share: float
    doing: str
    left_s: float | None  # an estimate from what is done
    created_at: datetime
    night: date
    spot: int
    faults: list[FaultOut]
    pictures: list[PictureFound]
    axis: AxisOut | None
    pointing: Verdict | None
    notes: list[str]
    turn_deg: float | None
    stars: int | None
    transfer: Transfer | None  # what was measured of the camera
    iso: int | None


def _judged(row: Measurement, result: dict[str, Any]) -> AxisOut:
    """The axis against what was needed when it was measured; screws as the tracker is known now."""
    if row.task == "series":
        how = f"by {len(result['pictures'])} pictures over {result['minutes']:.0f} min"
    else:
        how = f"by {len(result['pictures'])} photographs, {result['turn_deg']:.0f}° apart, {result['stars']} stars"
    error, asked = AxisError(**result["error"]), row.asked
    rig = rig_of(row.rig)
    doubt = NO_DOUBT
    if row.task == "axis" and len(result["pictures"]) == 2:
        doubt = slip_doubt(rig, error, asked.get("expected_arcmin"))
    return axis_out(rig, spot_of(row.spot), asked["pole"], asked["tolerance_arcmin"], error, how, PHOTO_SOURCE, doubt)


def _move(row: Measurement, place: int, found: Pointing) -> Nudge:
    """From where one of its pictures looks to what was aimed at."""
    ra, dec = row.asked.get("aim") or (row.target.ra_deg, row.target.dec_deg)
    return nudge_to(found, ra, dec, middle_mjd(row.asked["pictures"][place]))


def _picture(row: Measurement, place: int, told: dict[str, Any]) -> PictureFound:
    found = Pointing.kept(told["pointing"])
    move = _move(row, place, found)
    return PictureFound(
        picture=told["picture"],
        name=told["name"],
        pointing=found,
        fwhm_px=told["fwhm_px"],
        axis_ratio=told["axis_ratio"],
        right_frames=move.right_frames,
        down_frames=move.down_frames,
    )


def _pointed(row: Measurement, found: Pointing) -> Verdict:
    return pointing_verdict(found, row.target.name, _move(row, 0, found))


def _out(row: Measurement, heard: Callable[[], bool] = worker_is_heard) -> MeasurementOut:
    result = row.result or {}
    found = [_picture(row, place, one) for place, one in enumerate(result.get("pictures", []))]
    return MeasurementOut(
        id=row.pk,
        task=cast(Task, row.task),
        state=cast(State, row.state),
        silent=is_silent(row, heard),
        share=row.share,
        doing=row.doing,
        left_s=row.left_s,
        created_at=row.created_at,
        night=row.night,
        spot=row.spot_id,
        faults=row.faults,
        pictures=found,
        axis=_judged(row, result) if "error" in result else None,
        pointing=_pointed(row, found[0].pointing) if row.task == "pointing" and found else None,
        notes=[*result.get("notes", []), *_clock_note(row)],
        turn_deg=result.get("turn_deg"),
        stars=result.get("stars"),
        transfer=Transfer(**result["transfer"]) if "transfer" in result else None,
        iso=result.get("iso"),
    )


def _clock_note(row: Measurement) -> list[str]:
    """Pictures minutes away from now mean a clock that is off, when they are fresh; old ones mean nothing."""
    times = [datetime.fromisoformat(one["taken"]) for one in row.asked["pictures"] if one.get("taken")]
    if not times or row.task not in {"axis", "series"}:
        return []
    ago_min = (now() - (true_now() - row.created_at) - max(times)).total_seconds() / 60.0
    whole_hours = abs(ago_min / 60.0 - round(ago_min / 60.0)) * 60.0
    if abs(ago_min) > OLD_CLOCK_MIN and round(ago_min / 60.0) != 0 and whole_hours < OLD_CLOCK_MIN / 2 and abs(ago_min) < 15 * 60:
        return [
            f"By its clock the last picture is {ago_min / 60:.0f} hours old. If it is fresh, the camera's time zone is off: "
            "the distance from the pole stays right, its direction does not."
        ]
    return []


def _own(request: HttpRequest, record_id: int) -> Measurement:
    return get_object_or_404(measurements_of(user_of(request)), pk=record_id)


@router.post("", response={201: MeasurementOut, 422: FailureOut})
def measure(request: HttpRequest, data: MeasurementIn) -> Status[MeasurementOut]:
    """Begin to measure pictures; the work is done by the worker and asked after by its number."""
    worked = Needed(request, data.context, data.choices.core())
    shift = timedelta(minutes=data.clock_offset_min, seconds=data.clock_fast_s or 0.0)
    zone = now().tzinfo
    wrong = [
        Fault(f"pictures.{place}.taken", one.taken.isoformat(), "No camera's clock says that; write it like 8 Dec 2026 21:04:30.")
        for place, one in enumerate(data.pictures)
        if one.taken and not FIRST_YEAR <= one.taken.year <= LAST_YEAR
    ]
    if wrong:
        raise InvalidInput(wrong)
    shots = [
        PictureAsked(
            one.picture,
            one.taken.replace(tzinfo=zone) - shift if one.taken else None,
            one.exposure_s,
            one.focal_mm,
            one.f_number,
            one.stopped_by or "",
        )
        for one in data.pictures
    ]
    asked = Asked(
        data.task,
        shots,
        worked.choices.pole,
        data.temperature_c,
        worked.need.tolerance_arcmin,
        data.keep_files,
        data.clock_fast_s is not None,
        worked.choices.alignment_arcmin,
        data.iso,
        data.f_number,
        (worked.target.ra_deg, worked.target.dec_deg),
    )
    row = begin_measurement(worked.user, worked.rig_row, worked.spot_row, worked.target_row, data.context.night, asked)
    put_in_line(row)
    return Status(201, _out(row))


@router.get("", response=list[MeasurementOut])
@paginate
def measurements(
    request: HttpRequest,
    rig: int | None = None,
    spot: int | None = None,
    night: date | None = None,
    about: Literal["pole", "pointing", "trial", "camera", "lens"] | None = None,
) -> list[MeasurementOut]:
    """The last twenty measurements, the latest first; of one rig, spot, night or kind of question where given."""
    given = {"rig_id": rig, "spot_id": spot, "night": night}
    rows = measurements_of(user_of(request)).filter(**{name: value for name, value in given.items() if value})
    if about is not None:
        rows = rows.filter(task__in=("axis", "series", "pointing") if about == "pole" else (about,))
    heard = cache(worker_is_heard)  # asked once, however many wait
    return [_out(row, heard) for row in rows[:20]]


@router.get("/{int:record_id}", response={200: MeasurementOut, 404: FailureOut})
def measurement(request: HttpRequest, record_id: int) -> MeasurementOut:
    """How far it is, or what came out."""
    return _out(_own(request, record_id))


@router.post("/{int:record_id}/cancel", response={200: MeasurementOut, 404: FailureOut})
def cancel(request: HttpRequest, record_id: int) -> MeasurementOut:
    """Stop it: at once while it waits, else at the worker's next step."""
    row = _own(request, record_id)
    cancel_work(row)
    return _out(row)


@router.post("/{int:record_id}/again", response={200: MeasurementOut, 404: FailureOut, 422: FailureOut})
def again(request: HttpRequest, record_id: int) -> MeasurementOut:
    """Begin it anew from its pictures, after it failed, was cancelled, or its worker fell silent."""
    row = _own(request, record_id)
    if row.state in {"failed", "cancelled"} or is_silent(row):
        row.state, row.share, row.doing, row.faults, row.lost = "waiting", 0.0, "", [], 0
        row.cancel_wanted, row.beat_at, row.claim, row.finished_at = False, None, None, None
        row.save()
        put_in_line(row)
    return _out(row)
