"""Trips: a named run of nights with places, rigs and targets."""

from datetime import date, time, timedelta
from typing import Annotated

from django.db import transaction
from django.http import HttpRequest
from django.shortcuts import get_object_or_404
from ninja import Query, Router, Schema, Status
from ninja.pagination import paginate
from pydantic import Field

from widedusk.api.choices import ChoicesShape
from widedusk.api.failures import FailureOut
from widedusk.api.removal import add_removal
from widedusk.api.schemas import Clock, Number, Text, user_of
from widedusk.api.versions import ChangedOut, Version, to_change
from widedusk.api.worked import through_of
from widedusk.core.plan.trip import TripOverview, overview
from widedusk.jobs.queue import send_for_forecast
from widedusk.records.grounds.services import spot_of
from widedusk.records.nights.models import Trip
from widedusk.records.nights.nights import MOST_LANES
from widedusk.records.nights.trips import MOST_NIGHTS, TripInput, keep_trip, trips_of
from widedusk.records.owned import OwnedQuerySet
from widedusk.records.targets.services import target_of
from widedusk.records.weather.services import outlook

router = Router(tags=["trips"])


class TripIn(Schema):
    name: Text
    first_night: date
    spots: Annotated[list[int], Field(max_length=MOST_NIGHTS)]  # one a night
    rigs: Annotated[list[int], Field(max_length=6)] = Field(default_factory=list)
    targets: Annotated[list[int], Field(max_length=MOST_LANES)] = Field(default_factory=list)
    wake_time: Clock = time(7, 0)
    drive_h: Number = 0.0
    version: Version | None = None  # as it was opened; none: saved over whatever it is


class TripOut(Schema):
    id: int
    version: int
    name: str
    first_night: date
    spots: list[int]
    rigs: list[int]
    targets: list[int]
    wake_time: Clock
    drive_h: float

    @staticmethod
    def resolve_spots(row: Trip) -> list[int]:
        return [night.spot_id for night in row.nights.all() if night.spot_id is not None]

    @staticmethod
    def resolve_rigs(row: Trip) -> list[int]:
        return [rig.pk for rig in row.rigs.all() if rig.deleted_at is None]

    @staticmethod
    def resolve_targets(row: Trip) -> list[int]:
        return [target.pk for target in row.targets.all() if target.deleted_at is None]


class OverviewQuery(ChoicesShape):
    rig: int | None = None  # what the targets are taken with


def _given(data: TripIn) -> TripInput:
    return TripInput(**data.dict(exclude={"version"}))


@router.get("", response=list[TripOut])
@paginate
def trips(request: HttpRequest) -> OwnedQuerySet[Trip]:
    """Your trips, the latest first."""
    return trips_of(user_of(request))


@router.post("", response={201: TripOut, 422: FailureOut})
def add_trip(request: HttpRequest, data: TripIn) -> Status[Trip]:
    """Plan a run of nights."""
    return Status(201, keep_trip(user_of(request), _given(data)))


@router.put("/{int:record_id}", response={200: TripOut, 422: FailureOut, 404: FailureOut, 409: ChangedOut})
@transaction.atomic
def change_trip(request: HttpRequest, record_id: int, data: TripIn) -> Trip:
    """Change a trip."""
    row = to_change(trips_of(user_of(request)), record_id, data.version, TripOut.from_orm)
    return keep_trip(user_of(request), _given(data), row)


@router.get("/{int:record_id}/overview", response={200: TripOverview, 422: FailureOut, 404: FailureOut})
def trip_overview(request: HttpRequest, record_id: int, asked: Query[OverviewQuery]) -> TripOverview:
    """Every night of a trip: darkness, Moon, time of each target; the sum; the drive home."""
    row = get_object_or_404(trips_of(user_of(request)), pk=record_id)
    spots = [night.spot for night in row.nights.all() if night.spot is not None]
    stops = [spot_of(one) for one in spots]
    evenings = [row.first_night + timedelta(days=number) for number in range(len(spots))]
    forecasts = [outlook(one.place, evening, send_for_forecast, 0.0).forecast for one, evening in zip(spots, evenings, strict=True)]
    targets = [target_of(one) for one in row.targets.all() if one.deleted_at is None]
    choices = asked.core()
    through = through_of(user_of(request), asked.rig, choices)
    return overview(stops, row.first_night, targets, choices, row.wake_time, row.drive_h, through, forecasts)


add_removal(router, "trip", Trip, trips_of, TripOut)
