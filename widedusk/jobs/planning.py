"""Plan the nights of a trip, or what if a night goes another way."""

from dataclasses import replace
from datetime import date
from functools import partial
from typing import Any

from django.conf import settings
from pydantic import TypeAdapter

from widedusk.core.plan.schedule.trip import TripPlan, composed_trip, planned_trip
from widedusk.core.plan.schedule.what_if import Otherwise, Replan, WhatIf, replans, what_ifs
from widedusk.jobs.queue import send_for_forecast
from widedusk.records.nights.composing import NightAsked, asked_night, kept_asked, runs_held, shot_of, stops_of_trip
from widedusk.records.nights.models import Planning
from widedusk.records.work import Cancelled, beat, claim, finish, to_its_end

OURS = "The planning itself failed, which is our fault and is written down in the log. Ask once more."
TRIP_SEARCHES, IF_SEARCHES = 2.0, 0.5  # how long a trip, and each way that a night may go, is looked at against a night
REPLAN_SEARCHES = 0.02  # of each ten minutes, of which a night has fifty, twice
TRIP_PLAN, WHAT_IFS, REPLANS = TypeAdapter(TripPlan), TypeAdapter(tuple[WhatIf, ...]), TypeAdapter(tuple[Replan, ...])


def _tell(row: Planning, share: float, doing: str) -> None:
    if beat(row, share=share, doing=doing[:120]):
        raise Cancelled


def _trip(row: Planning) -> Any:
    if row.trip is None:
        raise Cancelled
    lost = [date.fromisoformat(one) for one in row.asked.get("lost", [])]
    _, wished, spots, stops = stops_of_trip(row.owner, row.trip, NightAsked.of(row.asked), lost, send_for_forecast)
    shot = shot_of(row.owner, wished, stops[0].stands[0])
    tell = partial(_tell, row)
    trip = composed_trip(stops, [one.wish for one in wished], shot, tell)
    plan = planned_trip(trip, [str(one) for one in spots], tell, TRIP_SEARCHES * settings.WIDE_DUSK_SEARCH_S)
    return TRIP_PLAN.dump_python(plan, mode="json")


def _what_if(row: Planning) -> Any:
    night = row.night
    if night is None or night.spot is None:
        raise Cancelled
    asked = kept_asked(row.owner, night)
    found = asked_night(row.owner, night.spot, night.date, asked, send_for_forecast)
    runs = runs_held(row.owner, night, asked)
    stop, kept = replace(found.stop, held=[held for run, held in runs if run.plan.pinned]), [held for _, held in runs]
    otherwise, seconds = Otherwise(**row.asked), IF_SEARCHES * settings.WIDE_DUSK_SEARCH_S
    ifs = what_ifs(stop, found.wishes, found.shot, kept, otherwise, partial(_tell, row), seconds)
    return WHAT_IFS.dump_python(ifs, mode="json")


def _replan(row: Planning) -> Any:
    night = row.night
    if night is None or night.spot is None:
        raise Cancelled
    asked = kept_asked(row.owner, night)
    found = asked_night(row.owner, night.spot, night.date, asked, send_for_forecast)
    kept = [held for _, held in runs_held(row.owner, night, asked)]
    seconds = REPLAN_SEARCHES * settings.WIDE_DUSK_SEARCH_S
    return REPLANS.dump_python(replans(found.stop, found.wishes, found.shot, kept, partial(_tell, row), seconds), mode="json")


def _plan(row: Planning) -> None:
    result = {"trip": _trip, "what if": _what_if, "replan": _replan}[row.task](row)
    finish(row, "done", share=1.0, result=result)


def run(planning: int) -> None:
    """The whole work, by the one run that claims it; it can be begun again from the start at any time."""
    row = claim(Planning, planning)
    if row is not None:
        to_its_end(row, partial(_plan, row), OURS)
