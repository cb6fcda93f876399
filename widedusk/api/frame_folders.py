"""Folders of frames: which there are, what is taken into a night, and how far each is."""

from collections.abc import Callable
from datetime import date
from functools import cache
from typing import Annotated, Any, Literal, cast

from django.http import HttpRequest
from django.shortcuts import get_object_or_404
from ninja import File, Router, Schema, Status, UploadedFile
from ninja.pagination import paginate
from pydantic import Field

from widedusk.api.choices import Context
from widedusk.api.failures import FailureOut
from widedusk.api.removal import add_removal
from widedusk.api.schemas import Number, user_of
from widedusk.jobs.queue import have_looked, put_frames_in_line
from widedusk.records.frames.folders import (
    Clock,
    Standing,
    Whereabouts,
    bring_folder,
    folder_for_files,
    folders_of,
    folders_there,
    place_of,
    standings,
    stop_measuring,
    take_frame,
    wants_a_look,
)
from widedusk.records.frames.frames import move_to_evening, other_evening_of, put_clock_right, settle
from widedusk.records.frames.machines import check_elsewhere, folders_elsewhere, machine_is_heard
from widedusk.records.frames.models import Folder
from widedusk.records.nights.nights import the_night
from widedusk.records.nights.runs import rig_spot_and_target
from widedusk.records.work import worker_is_heard

router = Router(tags=["frames"])


class FolderThereOut(Schema):
    """machine: that it lies on; empty: the server's own."""

    path: str
    files: int
    machine: str


@router.get("/there", response=list[FolderThereOut])
@paginate
def there(request: HttpRequest) -> list[Any]:
    """Folders of pictures that this server may read, and those that other machines lend while a worker of theirs is heard."""
    every = [*(("", one) for one in folders_there()), *folders_elsewhere()]
    return [FolderThereOut(path=one.path, files=one.files, machine=machine) for machine, one in every]


class FolderIn(Schema):
    """path: below the allowed folder, empty for all of it. machine: that it lies on, empty for the server's own. clock_offset_min:
    zone of the camera's clock; none: as the files say."""

    context: Context
    path: Annotated[str, Field(max_length=400)]
    machine: Annotated[str, Field(max_length=40)] = ""
    watched: bool = False
    clock_offset_min: Annotated[int, Field(ge=-900, le=900)] | None = None
    clock_fast_s: Annotated[Number, Field(ge=-86400, le=86400)] = 0.0


class FilesIn(Schema):
    """Of a night whose files come in the browser."""

    context: Context
    clock_offset_min: Annotated[int, Field(ge=-900, le=900)] | None = None
    clock_fast_s: Annotated[Number, Field(ge=-86400, le=86400)] = 0.0


class FrameBrought(Schema):
    """new: it is to be measured; else the same file was here already."""

    id: int
    name: str
    new: bool


class FrameCounts(Schema):
    waiting: int
    running: int
    done: int
    failed: int
    lights: int
    darks: int
    flats: int
    bias: int


class UnreadFrame(Schema):
    name: str
    why: str


class FolderOut(Schema):
    """A folder of a night and how far it is. silent: frames wait, and nobody is there to measure them. left_s: an estimate.
    unread: the first twenty that could not be read."""

    id: int
    name: str
    path: str
    machine: str  # that it lies on; empty: the server's own
    night: date
    rig: int
    watched: bool
    brought: bool  # its files came in the browser
    state: Literal["reading", "paused", "stopped"]
    clock_offset_min: int | None  # zone of the camera's clock; none: as the files say
    clock_fast_s: float
    counts: FrameCounts
    silent: bool
    left_s: float | None
    troubles: list[str]
    other_night: date | None  # the evening of its frames by their clock, where it is not this one
    unread: list[UnreadFrame]


def who_is_heard(machine: str) -> bool:
    """Whether anybody measures what lies on a machine; no name: the server's."""
    return machine_is_heard(machine) if machine else worker_is_heard()


def _is_silent(row: Folder, waits: int, heard: Callable[[str], bool]) -> bool:
    far = bool(row.machine) and (row.watched or row.looked_at is None)  # nobody but a worker over there can even look
    return row.state == "reading" and (waits > 0 or far) and not heard(row.machine)


def _folder(row: Folder, standing: Standing | None = None, heard: Callable[[str], bool] = who_is_heard) -> FolderOut:
    stands = standing or standings([row])[row.pk]
    told = stands.counts
    waits = told["waiting"] + told["running"]
    return FolderOut(
        id=row.pk,
        name=row.name,
        path=row.path,
        machine=row.machine,
        night=row.night.date,
        rig=row.rig_id,
        watched=row.watched,
        brought=row.brought,
        state=cast(Any, row.state),
        clock_offset_min=row.clock_offset_min,
        clock_fast_s=row.clock_fast_s,
        counts=FrameCounts(
            **{name: told[name] for name in ("waiting", "running", "done", "failed", "bias")},
            lights=told["light"],
            darks=told["dark"],
            flats=told["flat"],
        ),
        silent=_is_silent(row, waits, heard),
        left_s=waits * stands.pace_s if waits and stands.pace_s is not None else None,
        troubles=row.troubles,
        other_night=other_evening_of(row, stands.began),
        unread=[UnreadFrame(name=name, why=why) for name, why in stands.unread],
    )


def keep_up(row: Folder, standing: Standing | None = None) -> None:
    """What an open page or a phone in the field does for a folder: look for new files, find the runs of what was measured."""
    if wants_a_look(row):
        have_looked(row)
    last = (standing or standings([row])[row.pk]).measured
    if last is not None and (row.settled_at is None or row.settled_at < last):
        settle(row)


@router.post("", response={201: FolderOut, 422: FailureOut})
def bring(request: HttpRequest, data: FolderIn) -> Status[FolderOut]:
    """Take a folder into the night; its files are read where they lie, and never touched."""
    user = user_of(request)
    rig, spot, target = rig_spot_and_target(user, data.context.rig, data.context.spot, data.context.target)
    night = the_night(user, spot, data.context.night)
    clock = Clock(data.clock_offset_min, data.clock_fast_s)
    if data.machine:
        check_elsewhere(data.machine, data.path)
    else:
        place_of(data.path)
    row = bring_folder(user, night, rig, target, Whereabouts(data.path, data.machine), data.watched, clock)
    have_looked(row)
    return Status(201, _folder(row))


@router.post("/brought", response={201: FolderOut, 422: FailureOut})
def begin_bringing(request: HttpRequest, data: FilesIn) -> Status[FolderOut]:
    """Where files that come in the browser go: one folder for each night and rig."""
    user = user_of(request)
    rig, spot, target = rig_spot_and_target(user, data.context.rig, data.context.spot, data.context.target)
    night = the_night(user, spot, data.context.night)
    return Status(201, _folder(folder_for_files(user, night, rig, target, Clock(data.clock_offset_min, data.clock_fast_s))))


@router.post("/{int:record_id}/files", response={201: FrameBrought, 404: FailureOut, 422: FailureOut})
def bring_file(request: HttpRequest, record_id: int, file: File[UploadedFile]) -> Status[FrameBrought]:
    """Bring one file; it is measured as soon as a worker is free, and let go then. The same file again changes nothing."""
    folder = get_object_or_404(folders_of(user_of(request)).filter(brought=True), pk=record_id)
    row, new = take_frame(folder, file.name or "picture", file.chunks())
    if new:
        put_frames_in_line([row])
    return Status(201, FrameBrought(id=row.pk, name=row.name, new=new))


def _own(request: HttpRequest, record_id: int) -> Folder:
    return get_object_or_404(folders_of(user_of(request)), pk=record_id)


@router.get("", response=list[FolderOut])
@paginate
def folders(request: HttpRequest, spot: int | None = None, night: date | None = None) -> list[FolderOut]:
    """The last fifty folders of a night at a spot, the latest first. What lies new in a watched one is taken up."""
    rows = folders_of(user_of(request))
    if spot is not None:
        rows = rows.filter(night__spot_id=spot)
    if night is not None:
        rows = rows.filter(night__date=night)
    found = list(rows[:50])
    stand = standings(found)  # before their runs are found: what is told as measured is in its run
    for row in found:
        keep_up(row, stand[row.pk])
    heard = cache(who_is_heard)  # asked once for all of them
    return [_folder(row, stand[row.pk], heard) for row in found]


class FolderState(Schema):
    """watched: look for new files again and again; state: reading goes on, paused lets what is not measured wait, stopped lets it
    go."""

    watched: bool | None = None
    state: Literal["reading", "paused", "stopped"] | None = None


@router.post("/{int:record_id}/state", response={200: FolderOut, 404: FailureOut, 422: FailureOut})
def change_state(request: HttpRequest, record_id: int, data: FolderState) -> FolderOut:
    """Pause, go on or stop, watch or no longer; a folder that goes on is looked through anew."""
    row = _own(request, record_id)
    if data.watched is not None:
        row.watched = data.watched
    if data.state is not None:
        row.state = data.state
    row.save(update_fields=("watched", "state", "updated_at"))
    if row.state == "stopped":
        stop_measuring(row)
    elif row.state == "reading":
        put_frames_in_line(row.frames.filter(state="waiting", job=None))
        have_looked(row)
    keep_up(row)
    return _folder(row)


class ClockIn(Schema):
    """Of the camera: its zone in minutes east of UTC, none as the files say; how far it is ahead."""

    offset_min: Annotated[int, Field(ge=-900, le=900)] | None = None
    fast_s: Annotated[Number, Field(ge=-86400, le=86400)] = 0.0


@router.post("/{int:record_id}/clock", response={200: FolderOut, 404: FailureOut, 422: FailureOut})
def change_clock(request: HttpRequest, record_id: int, data: ClockIn) -> FolderOut:
    """Put the camera's clock right: every frame of the folder is given its moment anew, and its runs are found anew."""
    row = _own(request, record_id)
    put_clock_right(row, Clock(data.offset_min, data.fast_s))
    keep_up(row)
    return _folder(row)


class OtherNightIn(Schema):
    night: date


@router.post("/{int:record_id}/night", response={200: FolderOut, 404: FailureOut, 422: FailureOut})
def change_night(request: HttpRequest, record_id: int, data: OtherNightIn) -> FolderOut:
    """Put a folder into another night at the same spot, with its frames and what was found in it."""
    row = _own(request, record_id)
    move_to_evening(row, data.night)
    return _folder(_own(request, record_id))


add_removal(router, "folder", Folder, folders_of, FolderOut, _folder)
