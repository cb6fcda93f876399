"""A framing in its night: panels' windows, the ways to it, the next nudge, what stands over the chart; and its panels as files."""

from dataclasses import replace
from datetime import date, datetime
from typing import Annotated

import numpy as np
from django.http import HttpRequest
from ninja import File, Query, Router, Schema, Status, UploadedFile
from pydantic import Field

from widedusk.apart import readers
from widedusk.apart.process import read_apart
from widedusk.api.choices import ChoicesShape, Context
from widedusk.api.failures import FailureOut
from widedusk.api.files import FileOut, content_of
from widedusk.api.framing import (
    FrameOut,
    FramingOut,
    FramingShape,
    PanelsIn,
    assembly_asked,
    laid_as_asked,
    shown_frame,
    target_asked,
)
from widedusk.api.nights import own_spot
from widedusk.api.schemas import Number, user_of
from widedusk.api.worked import Worked
from widedusk.core.choices import WayKey
from widedusk.core.errors import Fault, InvalidInput
from widedusk.core.exposure.response import Through
from widedusk.core.files import PanelFormat
from widedusk.core.frames.pointing import Pointing
from widedusk.core.framing.above import Above, above
from widedusk.core.framing.frame import Frame, sides_deg
from widedusk.core.framing.nudge import Nudge, looks_at, nudge, nudge_verdict
from widedusk.core.framing.pair import pair, pair_verdict
from widedusk.core.framing.ways import Search, Way, way_taken, ways
from widedusk.core.night.windows import clock_mjd
from widedusk.core.plan.outlook import looked_at, night_of
from widedusk.core.plan.panel_nights import PanelNight, panel_nights, panels_verdict
from widedusk.core.sky.time import datetime_from_mjd, day_words
from widedusk.core.verdict import Verdict
from widedusk.records.grounds.services import spot_of
from widedusk.records.pictures.measurements import measurements_of, middle_mjd
from widedusk.records.pictures.models import Measurement
from widedusk.records.targets.framings import Arrived, arrived_of, framings_of, free_name, keep_framing, note_arrived
from widedusk.records.targets.models import Framing

router = Router(tags=["framing"])
_ENDING: dict[PanelFormat, str] = {"csv": "csv", "ecsv": "ecsv", "outlines": "txt"}
_MEDIA: dict[PanelFormat, str] = {"csv": "text/csv", "ecsv": "text/csv", "outlines": "text/plain"}
STILL_FRAMES = 0.1  # a framing moved by less than this since is the same one


class PanelsOfTheNightIn(PanelsIn):
    """Panels with where and when. choices: what is asked of the night."""

    context: Context
    choices: ChoicesShape = ChoicesShape()


class PanelsOfTheNightOut(Schema):
    verdict: Verdict
    panels: list[PanelNight]


@router.post("/nights", response={200: PanelsOfTheNightOut, 422: FailureOut})
def panels_of_the_night(request: HttpRequest, asked: PanelsOfTheNightIn) -> PanelsOfTheNightOut:
    """When each panel can be taken this night, how high it stands and how dark its sky is."""
    worked = Worked(request, asked.context, asked.choices.core())
    framing = asked.core()
    kept = framing.kept(laid_as_asked(framing, worked.rig, False))
    through = Through(worked.rig.camera, tuple(worked.rig.filters))
    found = panel_nights(kept, worked.spot, worked.night, worked.target, worked.choices, through)
    return PanelsOfTheNightOut(verdict=panels_verdict(found, worked.choices.panel_school), panels=list(found))


class AboveQuery(Schema):
    spot: int
    night: date
    at: Annotated[str, Field(max_length=5)] = ""  # local clock, like 23:30; empty: midnight by the Sun


class DirectionOut(Schema):
    ra_deg: float
    dec_deg: float


class AboveOut(Schema):
    """Over the chart at a moment, ICRS degrees; horizon: ra and dec of the profile as one turns from north through east."""

    clock: str
    moment: datetime
    zenith: DirectionOut
    horizon: list[list[float]]
    moon: DirectionOut
    moon_lit_percent: float
    moon_up: bool


@router.get("/above", response={200: AboveOut, 422: FailureOut})
def over_the_chart(request: HttpRequest, asked: Query[AboveQuery]) -> AboveOut:
    """Zenith, horizon and Moon at a moment of a night."""
    spot = spot_of(own_spot(user_of(request), asked.spot))
    mjd = clock_mjd(night_of(spot, asked.night), asked.at)
    found: Above = above(spot, mjd)
    return AboveOut(
        clock=spot.clock(mjd),
        moment=datetime_from_mjd(mjd),
        zenith=DirectionOut(ra_deg=found.zenith[0], dec_deg=found.zenith[1]),
        horizon=np.round(found.horizon, 2).tolist(),
        moon=DirectionOut(ra_deg=found.moon[0], dec_deg=found.moon[1]),
        moon_lit_percent=found.moon_lit * 100,
        moon_up=found.moon_up,
    )


class WaysIn(FramingShape):
    """A framing, kept or not, with where and when. at: local clock; empty: when the window opens."""

    context: Context
    choices: ChoicesShape = ChoicesShape()
    at: Annotated[str, Field(max_length=5)] = ""


class WaypointOut(Schema):
    ra_deg: float
    dec_deg: float
    name: str


class WayOut(Schema):
    key: WayKey
    name: str
    steps: list[str]
    error_deg: float | None
    error_frames: float | None
    path: list[WaypointOut]
    verdict: Verdict


class WaysOut(Schema):
    """The four ways at a moment, and which of them this person takes."""

    clock: str
    chosen: WayKey
    ways: list[WayOut]


def _way(one: Way, search: Search) -> WayOut:
    frames = None if one.error_deg is None else search.frames(one.error_deg)
    return WayOut(
        key=one.key,
        name=one.name,
        steps=list(one.steps),
        error_deg=one.error_deg,
        error_frames=frames,
        path=[WaypointOut(**point.__dict__) for point in one.path],
        verdict=one.verdict,
    )


@router.post("/ways", response={200: WaysOut, 422: FailureOut})
def ways_there(request: HttpRequest, asked: WaysIn) -> WaysOut:
    """Four ways to the middle of a framing, each worked out whole."""
    worked = Worked(request, asked.context, asked.choices.core())
    frame = asked.core().frame(*sides_deg(worked.rig))
    aim = replace(worked.target, ra_deg=frame.ra_deg, dec_deg=frame.dec_deg)
    night, path = looked_at(worked.spot, worked.night, aim, worked.choices)
    opens = float(night.mjd[path.best_run[0]]) if path.best_run else None
    mjd = clock_mjd(night, asked.at, opens)
    rig = worked.rig
    search = Search(frame, worked.spot, mjd, worked.night, rig.lens.focal_mm, rig.support, worked.choices.finder)
    found = [_way(one, search) for one in ways(search, worked.choices.comes_along)]
    return WaysOut(clock=worked.spot.clock(mjd), chosen=way_taken(worked.choices), ways=found)


class NudgeIn(FramingShape):
    """A framing, kept (id) or not, and the number of a measurement that told where the camera looks."""

    rig: int
    measurement: int
    id: int | None = None


class NudgeOut(Schema):
    """here: what the picture holds. again: the night whose very frame is wanted; none where any of its kind will do."""

    verdict: Verdict
    here: FrameOut
    there: bool
    again: date | None
    west_min: float
    north_deg: float
    turn_deg: float
    right_frames: float | None
    down_frames: float | None


def _solved(request: HttpRequest, number: int) -> tuple[Measurement, Pointing]:
    row = measurements_of(user_of(request)).filter(pk=number).first()
    found = ((row.result or {}).get("pictures") or [None])[0] if row else None
    if row is None or row.state != "done" or found is None:
        told = f"No picture of yours was recognised under number {number}; wait for it, or bring another."
        raise InvalidInput([Fault("measurement", number, told)])
    return row, Pointing.kept(found["pointing"])


def _of_this_lens(told: Pointing, wanted: Frame) -> None:
    """Raise InvalidInput for a picture of another lens."""
    longer = max(told.width_deg, told.height_deg) / max(wanted.width_deg, wanted.height_deg)
    if not 1 / 1.3 < longer < 1.3:
        what = f"{told.width_deg:.1f}° × {told.height_deg:.1f}°"
        told_words = f"The picture holds {what}, this rig {wanted.width_deg:.1f}° × {wanted.height_deg:.1f}°: another lens or zoom?"
        raise InvalidInput([Fault("measurement", what, f"{told_words} Choose the rig it was taken with.")])


@router.post("/nudge", response={200: NudgeOut, 422: FailureOut})
def next_nudge(request: HttpRequest, asked: NudgeIn) -> NudgeOut:
    """From where a picture looks to the framing: what to turn, by how much, and whether it is there."""
    assembly = assembly_asked(request, asked.rig)
    rig = assembly.rig()
    row, told = _solved(request, asked.measurement)
    wanted = asked.core().frame(*sides_deg(rig))
    _of_this_lens(told, wanted)
    before = _before(request, asked, row.night)
    if before is not None:
        wanted = Frame(before.ra_deg, before.dec_deg, before.angle_deg, wanted.width_deg, wanted.height_deg)
    focal_px = rig.lens.focal_mm * 1000.0 / rig.camera.pitch_um  # of the sensor, however small the file is
    mjd = middle_mjd(row.asked["pictures"][0])
    move: Nudge = nudge(looks_at(told), wanted, mjd, told.mirrored, focal_px if before else None)
    return NudgeOut(
        verdict=nudge_verdict(move, asked.name, assembly.support, day_words(before.night) if before else ""),
        here=shown_frame(looks_at(told)),
        again=before.night if before else None,
        **{name: getattr(move, name) for name in ("there", "west_min", "north_deg", "turn_deg", "right_frames", "down_frames")},
    )


def _before(request: HttpRequest, asked: NudgeIn, night: date) -> Arrived | None:
    """Where this rig stood in an earlier night, as long as the framing has not been moved away from there."""
    if asked.id is None:
        return None
    kept = framings_of(user_of(request)).filter(pk=asked.id).first()
    found = arrived_of(kept, asked.rig) if kept else None
    if found is None or found.night >= night:
        return None
    there = Frame(found.ra_deg, found.dec_deg, found.angle_deg, 1.0, 1.0)
    moved = nudge(there, Frame(asked.ra_deg, asked.dec_deg, asked.angle_deg % 360.0, 1.0, 1.0))
    width, height = sides_deg(assembly_asked(request, asked.rig).rig())
    return found if moved.apart_deg <= STILL_FRAMES * min(width, height) else None


class ArrivedIn(Schema):
    framing: int
    rig: int
    measurement: int


class ArrivedOut(Schema):
    night: date
    ra_deg: float
    dec_deg: float
    angle_deg: float


@router.post("/arrived", response={200: ArrivedOut, 422: FailureOut})
def remember_where_it_stood(request: HttpRequest, asked: ArrivedIn) -> Arrived:
    """Remember where a rig stood on a framing, so that another night comes back to the very frame."""
    row, told = _solved(request, asked.measurement)
    assembly_asked(request, asked.rig)
    kept = framings_of(user_of(request)).filter(pk=asked.framing).first()
    if kept is None:
        raise InvalidInput([Fault("framing", asked.framing, f"You have no framing number {asked.framing}; keep it first.")])
    found = Arrived(row.night, told.ra_deg, told.dec_deg, told.angle_deg % 360.0)
    note_arrived(kept, asked.rig, found)
    return found


class PairIn(Schema):
    """A second rig beside the first: where it looks in the first one's picture and how it is turned."""

    rig: int
    other: int
    ra_deg: Number
    dec_deg: Number
    angle_deg: Number = 0.0
    right_deg: Number = 0.0
    up_deg: Number = 0.0
    turn_deg: Number = 0.0


class PairOut(Schema):
    second: FrameOut
    of_first_percent: float
    of_second_percent: float
    both_deg2: float
    either_deg2: float
    verdict: Verdict


@router.post("/pair", response={200: PairOut, 422: FailureOut})
def two_cameras(request: HttpRequest, asked: PairIn) -> PairOut:
    """What two cameras on one mount see together."""
    first = Frame(asked.ra_deg, asked.dec_deg, asked.angle_deg, *sides_deg(assembly_asked(request, asked.rig).rig()))
    sides = sides_deg(assembly_asked(request, asked.other).rig())
    found = pair(first, sides, asked.right_deg, asked.up_deg, asked.turn_deg)
    return PairOut(
        second=shown_frame(found.second),
        of_first_percent=found.of_first * 100,
        of_second_percent=found.of_second * 100,
        both_deg2=found.both_deg2,
        either_deg2=found.either_deg2,
        verdict=pair_verdict(found),
    )


@router.post("/file/{form}", response={200: FileOut, 422: FailureOut})
def panels_file(request: HttpRequest, form: PanelFormat, asked: PanelsIn) -> FileOut:
    """The panels of a framing as CSV, ECSV, or outlines as text."""
    framing = asked.core()
    laid = laid_as_asked(framing, assembly_asked(request, asked.rig).rig(), False)
    return FileOut(name=f"panels.{_ENDING[form]}", media=_MEDIA[form], text=read_apart(readers.panels_text, framing, laid, form))


@router.post("/file", response={201: FramingOut, 422: FailureOut})
def take_panels_file(request: HttpRequest, target: int, file: File[UploadedFile]) -> Status[Framing]:
    """Keep the framing of a CSV or ECSV file of its panels for one of your targets."""
    found = read_apart(readers.panels, content_of(file))
    user = user_of(request)
    found = replace(found, name=free_name(user, found.name))
    return Status(201, keep_framing(user, target_asked(request, target), found))
