"""Is the axis good enough, and which screw?"""

from datetime import datetime
from typing import Annotated, Literal

import numpy as np
from django.http import HttpRequest
from ninja import Query, Router, Schema
from pydantic import Field

from widedusk.api.choices import ChoicesShape, Context
from widedusk.api.failures import FailureOut
from widedusk.api.schemas import Moment, Number, Text, user_of
from widedusk.api.worked import Worked
from widedusk.core.choices import Choices
from widedusk.core.errors import Fault, InvalidInput
from widedusk.core.grounds.coordinates import read_coordinates
from widedusk.core.kit.optics import image_scale_arcsec_px
from widedusk.core.kit.parts import Rig
from widedusk.core.night.outlook import Outlook, outlook
from widedusk.core.pole.axis import AxisError, aim
from widedusk.core.pole.dial import PoleKind
from widedusk.core.pole.drift_method import Entry, WatchPlace, axis_error, watch_places, watched
from widedusk.core.pole.keeping import keeping_verdict, recheck_times
from widedusk.core.pole.need import Need, need, target_drift
from widedusk.core.pole.rough import (
    Bearings,
    BodyLine,
    Noon,
    bearings,
    body_lines,
    compass_check,
    inclinometer_deg,
    landmark_bearing_deg,
    noon_shadow,
    rough_verdict,
    scale_words,
)
from widedusk.core.pole.scope import Scope, scope
from widedusk.core.pole.screws import ScrewMove, axis_verdict, screw_moves
from widedusk.core.pole.verdict import pole_hidden
from widedusk.core.scene import Spot
from widedusk.core.sky.time import datetime_from_mjd, mjd_from_datetime
from widedusk.core.verdict import Verdict
from widedusk.records.clock import now
from widedusk.records.grounds.services import spot_of, spots_of
from widedusk.records.kit.services import rig_of, whole_rig_of
from widedusk.records.pole.services import alignments_of, axis_of, keep_alignment

router = Router(tags=["pole"])
DRIFT_SOURCE = "Drift is ds/dt + ω M × s, s as the air lifts it (Bennett 1982); weighted least squares over the stars watched"


class PoleQuery(ChoicesShape, Context):
    pass


class Needed(Worked):
    """What was asked for, with the night looked through as Exposure does, and the accuracy its sub needs."""

    def __init__(self, request: HttpRequest, asked: Context, choices: Choices) -> None:
        super().__init__(request, asked, choices)
        self.seen: Outlook = outlook(self.rig, self.spot, self.night, self.target, choices, self.axis)
        self.need: Need = need(self.seen.subject, self.seen.tolerance, self.seen.advice.exposure_s, self.spot)


class AxisOut(Schema):
    """An axis error as drawn and judged."""

    error: AxisError
    total_arcmin: float
    tolerance_arcmin: float
    verdict: Verdict
    moves: list[ScrewMove]
    south: bool


def axis_out(rig: Rig, spot: Spot, pole: PoleKind, tolerance_arcmin: float, error: AxisError, how: str, source: str) -> AxisOut:
    """The verdict on an axis error and what to turn on this tracker."""
    height = float(np.degrees(aim(spot.observer, pole)[0]))
    south = spot.observer.south
    moves = screw_moves(error, south, height, rig.tracker.altitude_turn_deg, rig.tracker.azimuth_turn_deg)
    return AxisOut(
        error=error,
        total_arcmin=error.total_arcmin,
        tolerance_arcmin=tolerance_arcmin,
        verdict=axis_verdict(error, moves, tolerance_arcmin, how, source),
        moves=list(moves),
        south=south,
    )


class NeedOut(Schema):
    need: Need
    at_target: Verdict
    measured: AxisError | None
    south: bool


@router.get("/need", response={200: NeedOut, 422: FailureOut})
def how_good(request: HttpRequest, asked: Query[PoleQuery]) -> NeedOut:
    """The tolerance, the ways of aligning that reach it, and what an error does at this target."""
    worked = Needed(request, asked, asked.core())
    seen = worked.seen
    drift = target_drift(seen.subject, seen.tolerance, seen.advice.exposure_s, seen.advice.tracked)
    measured = worked.axis if isinstance(worked.axis, AxisError) else None
    return NeedOut(need=worked.need, at_target=drift, measured=measured, south=worked.spot.observer.south)


class RoughQuery(ChoicesShape, Context):
    tick_deg: Number | None = None  # of the tracker's latitude scale; none: as noted for the tracker
    label_deg: Number = 15.0
    first_deg: Number | None = None  # two compasses along the same line
    second_deg: Number | None = None
    near_deg: Number | None = None  # one of them beside the tracker and away from it
    away_deg: Number | None = None
    body: Literal["sun", "moon"] = "sun"
    at: Annotated[str, Field(max_length=5)] | None = None  # local HH:MM; none: now
    landmark: Annotated[str, Field(max_length=120)] = ""
    azimuth_way: Text = "one compass"
    altitude_way: Text = "latitude scale"


class RoughOut(Schema):
    bearings: Bearings
    scale: str  # empty where the tracker's ticks are not known
    inclinometer_deg: float
    check: Verdict | None
    lines: list[BodyLine]
    noon: Noon
    landmark_deg: float | None
    landmark_magnetic_deg: float | None
    serves: Verdict


def local_moment(spot: Spot, night_evening: datetime, text: str | None) -> float:
    """MJD of a local HH:MM on the day or the night of an evening, or of now. Raises InvalidInput."""
    if not text:
        return mjd_from_datetime(now())
    minutes = Choices(setup_time=text).setup_minutes() or 0
    day = night_evening.replace(hour=minutes // 60, minute=minutes % 60, second=0, microsecond=0, tzinfo=spot.zone)
    return mjd_from_datetime(day)


@router.get("/rough", response={200: RoughOut, 422: FailureOut})
def rough(request: HttpRequest, asked: Query[RoughQuery]) -> RoughOut:
    """Everything for the alignment by day: bearings, scale, Sun, Moon and shadow, the cross-check, and how far it serves."""
    worked = Needed(request, asked, asked.core())
    spot, tracker = worked.spot, worked.rig.tracker
    day = datetime.combine(asked.night, datetime.min.time())
    moment = local_moment(spot, day, asked.at)
    tick = asked.tick_deg if asked.tick_deg is not None else tracker.latitude_tick_deg
    faults: list[Fault] = []
    check = None
    if asked.first_deg is not None and asked.second_deg is not None:
        check = compass_check(asked.first_deg, asked.second_deg, asked.near_deg, asked.away_deg)
    elif asked.first_deg is not None or asked.second_deg is not None:
        missing = "second_deg" if asked.second_deg is None else "first_deg"
        faults.append(Fault(missing, None, "Read a second compass along the same line: one alone cannot be checked."))
    if faults:
        raise InvalidInput(faults)
    direction = bearings(spot, now())
    landmark = None
    if asked.landmark.strip():
        try:
            there = read_coordinates(asked.landmark)
        except InvalidInput as refused:
            raise InvalidInput([Fault("landmark", asked.landmark, one.message) for one in refused.faults]) from refused
        landmark = landmark_bearing_deg(spot, there.latitude_deg, there.longitude_deg)
    return RoughOut(
        bearings=direction,
        scale=scale_words(inclinometer_deg(spot, worked.choices.pole), tick, asked.label_deg) if tick else "",
        inclinometer_deg=inclinometer_deg(spot, worked.choices.pole),
        check=check,
        lines=list(body_lines(spot, asked.body, moment)),
        noon=noon_shadow(spot, moment),
        landmark_deg=landmark,
        landmark_magnetic_deg=None if landmark is None else (landmark - direction.declination_deg) % 360.0,
        serves=rough_verdict(spot, asked.azimuth_way, asked.altitude_way, worked.seen.subject, worked.seen.tolerance),
    )


class ScopeQuery(Schema):
    rig: int
    spot: int
    night: str = ""
    pole: Literal["refracted", "true"] = "refracted"
    view: Literal["upright", "inverted", "none"] | None = None  # none given: as the tracker's scope shows it
    at: Moment | None = None  # none: now


class ScopeOut(Schema):
    scope: Scope
    reticle: str
    pole_hidden: str
    now: datetime


@router.get("/scope", response={200: ScopeOut, 422: FailureOut})
def polar_scope(request: HttpRequest, asked: Query[ScopeQuery]) -> ScopeOut:
    """What the eye should see in the polar scope, now or at a moment, and for the hours after worked."""
    user = user_of(request)
    spot_row = spots_of(user).filter(pk=asked.spot).first()
    rig_row = whole_rig_of(user, asked.rig)
    if spot_row is None or rig_row is None:
        name, value = ("spot", asked.spot) if spot_row is None else ("rig", asked.rig)
        raise InvalidInput([Fault(name, value, f"You have no {name} number {value}; choose one from the list.")])
    tracker = rig_of(rig_row).tracker
    spot = spot_of(spot_row)
    view = asked.view or tracker.scope_view
    return ScopeOut(
        scope=scope(spot, mjd_from_datetime(asked.at or now()), view, asked.pole),
        reticle=tracker.reticle,
        pole_hidden=pole_hidden(spot),
        now=now(),
    )


class EntryIn(Schema):
    altitude_deg: Number
    azimuth_deg: Number
    amount: Number
    unit: Literal["px", "arcsec"] = "px"
    towards: Literal["north", "south"]
    minutes: Number


class DriftIn(Schema):
    context: Context
    choices: ChoicesShape = ChoicesShape()
    stars: Annotated[list[EntryIn], Field(max_length=12)]
    keep: bool = False  # write it into the record
    touched: Annotated[str, Field(max_length=300)] = ""


class DriftOut(Schema):
    places: list[WatchPlace]
    axis: AxisOut | None
    kept: bool


@router.post("/drift", response={200: DriftOut, 422: FailureOut})
def drift(request: HttpRequest, data: DriftIn) -> DriftOut:
    """Where to watch stars; and, once two are noted, the axis error they tell."""
    worked = Needed(request, data.context, data.choices.core())
    scale = float(image_scale_arcsec_px(worked.rig.camera.pitch_um, worked.rig.lens.focal_mm))
    places = watch_places(worked.spot.latitude_deg, worked.need.tolerance_arcmin, scale)
    if not data.stars:
        return DriftOut(places=list(places), axis=None, kept=False)
    stars = watched([Entry(**one.dict()) for one in data.stars], scale)
    error = axis_error(worked.spot.observer, worked.choices.pole, stars)
    if data.keep:
        keep_alignment(worked.user, worked.rig_row, worked.spot_row, worked.night, "Drift", error, data.touched)
    how = f"by the drift of {len(data.stars)} stars"
    tolerance = worked.need.tolerance_arcmin
    found = axis_out(worked.rig, worked.spot, worked.choices.pole, tolerance, error, how, DRIFT_SOURCE)
    return DriftOut(places=list(places), axis=found, kept=data.keep)


class KeepingOut(Schema):
    verdict: Verdict
    times: list[datetime]


@router.get("/keeping", response={200: KeepingOut, 422: FailureOut})
def keeping(request: HttpRequest, asked: Query[PoleQuery]) -> KeepingOut:
    """Whether the last alignment serves, and when to look again."""
    worked = Needed(request, asked, asked.core())
    rows = alignments_of(worked.user).filter(rig=worked.rig_row, spot=worked.spot_row, night=worked.night)[:2]
    begins, card = worked.seen.begins_mjd, worked.seen.card
    opens = None if begins is None else datetime_from_mjd(begins)
    times = recheck_times(opens, card.frames, card.exposure_s, worked.choices.gap_s, worked.choices) if opens else []
    clocks = [worked.spot.clock(mjd_from_datetime(one)) for one in times]
    axes = [axis_of(row) for row in rows]
    return KeepingOut(verdict=keeping_verdict(axes, worked.need.tolerance_arcmin, times, clocks, worked.choices), times=times)
