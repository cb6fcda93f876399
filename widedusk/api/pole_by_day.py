"""Aligning by day: compass, scale, Sun, Moon and shadow."""

from datetime import datetime
from typing import Annotated, Literal

from django.http import HttpRequest
from ninja import Query, Router, Schema
from pydantic import Field

from widedusk.api.choices import ChoicesShape, Context
from widedusk.api.failures import FailureOut
from widedusk.api.pole import Needed
from widedusk.api.schemas import Number, Text
from widedusk.core.choices import Choices
from widedusk.core.errors import Fault, InvalidInput
from widedusk.core.grounds.coordinates import read_coordinates
from widedusk.core.pole.rough import (
    Bearings,
    BodyLine,
    Noon,
    bearings,
    body_lines,
    check_readings,
    compass_check,
    inclinometer_deg,
    landmark_bearing_deg,
    noon_shadow,
    rough_verdict,
    scale_words,
)
from widedusk.core.pole.sight import pole_hidden
from widedusk.core.scene import Spot
from widedusk.core.sky.time import mjd_from_datetime
from widedusk.core.verdict import Verdict
from widedusk.records.clock import now

router = Router(tags=["pole"])


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
    pole_hidden: str  # why nothing can be sighted at the pole; empty where it can
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


@router.get("", response={200: RoughOut, 422: FailureOut})
def rough(request: HttpRequest, asked: Query[RoughQuery]) -> RoughOut:
    """Everything for the alignment by day: bearings, scale, Sun, Moon and shadow, the cross-check, and how far it serves."""
    worked = Needed(request, asked, asked.core())
    spot, tracker = worked.spot, worked.rig.tracker
    day = datetime.combine(asked.night, datetime.min.time())
    moment = local_moment(spot, day, asked.at)
    tick = asked.tick_deg if asked.tick_deg is not None or tracker is None else tracker.latitude_tick_deg
    check_readings(first_deg=asked.first_deg, second_deg=asked.second_deg, near_deg=asked.near_deg, away_deg=asked.away_deg)
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
        pole_hidden=pole_hidden(spot),
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
