"""Trips: a named run of nights with places, rigs and targets."""

from datetime import date, time
from typing import Annotated

from django.http import HttpRequest
from django.shortcuts import get_object_or_404
from ninja import Query, Router, Schema, Status
from ninja.pagination import paginate
from pydantic import Field

from widedusk.api.choices import ChoicesShape
from widedusk.api.failures import FailureOut
from widedusk.api.removal import add_removal
from widedusk.api.schemas import Clock, Number, Text, user_of
from widedusk.core.night.trip import TripOverview, overview
from widedusk.records.grounds.services import spot_of
from widedusk.records.owned import OwnedQuerySet
from widedusk.records.targets.services import target_of
from widedusk.records.trips.models import Trip
from widedusk.records.trips.services import MOST_LANES, MOST_NIGHTS, TripInput, keep_trip, trips_of

router = Router(tags=["trips"])


class TripIn(Schema):
    name: Text
    first_night: date
    spots: Annotated[list[int], Field(max_length=MOST_NIGHTS)]  # one a night
    rigs: Annotated[list[int], Field(max_length=6)] = Field(default_factory=list)
    targets: Annotated[list[int], Field(max_length=MOST_LANES)] = Field(default_factory=list)
    wake_time: Clock = time(7, 0)
    drive_h: Number = 0.0


class TripOut(Schema):
    id: int
    name: str
    first_night: date
    spots: list[int]
    rigs: list[int]
    targets: list[int]
    wake_time: Clock
    drive_h: float

    @staticmethod
    def resolve_spots(row: Trip) -> list[int]:
        return [night.spot_id for night in row.nights.all()]

    @staticmethod
    def resolve_rigs(row: Trip) -> list[int]:
        return [rig.pk for rig in row.rigs.all() if rig.deleted_at is None]

    @staticmethod
    def resolve_targets(row: Trip) -> list[int]:
        return [target.pk for target in row.targets.all() if target.deleted_at is None]


def _given(data: TripIn) -> TripInput:
    return TripInput(**data.dict())


@router.get("", response=list[TripOut])
@paginate
def trips(request: HttpRequest) -> OwnedQuerySet[Trip]:
    """Your trips, the latest first."""
    return trips_of(user_of(request))


@router.post("", response={201: TripOut, 422: FailureOut})
def add_trip(request: HttpRequest, data: TripIn) -> Status[Trip]:
    """Plan a run of nights."""
    return Status(201, keep_trip(user_of(request), _given(data)))


@router.put("/{int:record_id}", response={200: TripOut, 422: FailureOut, 404: FailureOut})
def change_trip(request: HttpRequest, record_id: int, data: TripIn) -> Trip:
    """Change a trip."""
    row = get_object_or_404(trips_of(user_of(request)), pk=record_id)
    return keep_trip(user_of(request), _given(data), row)


@router.get("/{int:record_id}/overview", response={200: TripOverview, 422: FailureOut, 404: FailureOut})
def trip_overview(request: HttpRequest, record_id: int, asked: Query[ChoicesShape]) -> TripOverview:
    """Every night of a trip: darkness, Moon, time of each target; the sum; the drive home."""
    row = get_object_or_404(trips_of(user_of(request)), pk=record_id)
    stops = [spot_of(night.spot) for night in row.nights.all()]
    targets = [target_of(one) for one in row.targets.all() if one.deleted_at is None]
    return overview(stops, row.first_night, targets, asked.core(), row.wake_time, row.drive_h)


add_removal(router, "trip", Trip, trips_of, TripOut)
