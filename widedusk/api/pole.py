"""Is the axis good enough, which screw, and when to look again?"""

from datetime import datetime

import numpy as np
from django.http import HttpRequest
from ninja import Query, Router, Schema

from widedusk.api.choices import ChoicesShape, Context
from widedusk.api.failures import FailureOut
from widedusk.api.weather import choices_with_weather
from widedusk.api.worked import Worked
from widedusk.core.choices import Choices, PoleKind
from widedusk.core.kit.parts import Rig
from widedusk.core.plan.outlook import Outlook, Supply, outlook
from widedusk.core.pole.axis import AxisError, aim
from widedusk.core.pole.keeping import keeping_verdict, recheck_times
from widedusk.core.pole.need import Need, need, target_drift
from widedusk.core.pole.screws import ScrewMove, axis_verdict, screw_moves
from widedusk.core.pole.slip import NO_DOUBT, SlipDoubt
from widedusk.core.scene import Spot
from widedusk.core.sky.time import datetime_from_mjd, mjd_from_datetime
from widedusk.core.verdict import Verdict
from widedusk.records.pole.services import alignments_of, axis_of

router = Router(tags=["pole"])


class PoleQuery(ChoicesShape, Context):
    pass


class Needed(Worked):
    """What was asked for, with the night looked through as Exposure does, and the accuracy its sub needs."""

    def __init__(self, request: HttpRequest, asked: Context, choices: Choices) -> None:
        super().__init__(request, asked, choices)
        found = choices_with_weather(self.choices, self.spot_row, self.night)
        supply = Supply(self.assembly, found.air)
        self.seen: Outlook = outlook(self.rig, self.spot, self.night, self.target, self.choices, self.axis, supply)
        self.need: Need = need(self.seen.subject, self.seen.tolerance, self.seen.advice.exposure_s, self.spot)


class AxisOut(Schema):
    """An axis error as drawn and judged."""

    error: AxisError
    total_arcmin: float
    tolerance_arcmin: float
    verdict: Verdict
    moves: list[ScrewMove]
    south: bool


def axis_out(
    rig: Rig,
    spot: Spot,
    pole: PoleKind,
    tolerance_arcmin: float,
    error: AxisError,
    how: str,
    source: str,
    slip: SlipDoubt = NO_DOUBT,
) -> AxisOut:
    """The verdict on an axis error and what to turn on this tracker. slip: what the camera may have done unseen."""
    height = float(np.degrees(aim(spot.observer, pole)[0]))
    south = spot.observer.south
    turns = (rig.tracker.altitude_turn_deg, rig.tracker.azimuth_turn_deg) if rig.tracker else (None, None)
    moves = screw_moves(error, south, height, *turns)
    return AxisOut(
        error=error,
        total_arcmin=error.total_arcmin,
        tolerance_arcmin=tolerance_arcmin,
        verdict=axis_verdict(error, moves, tolerance_arcmin, how, source, slip),
        moves=list(moves),
        south=south,
    )


class NeedOut(Schema):
    tracks: bool  # else there is no axis to align
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
    tracks = seen.subject.choices.tracking != "untracked"
    return NeedOut(tracks=tracks, need=worked.need, at_target=drift, measured=measured, south=worked.spot.observer.south)


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
