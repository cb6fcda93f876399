"""Places and their spots."""

from typing import Annotated
from zoneinfo import available_timezones

from django.http import HttpRequest
from django.shortcuts import get_object_or_404
from ninja import Router, Schema, Status
from ninja.pagination import paginate
from pydantic import Field

from widedusk.api.failures import FailureOut
from widedusk.api.removal import add_removal
from widedusk.api.schemas import Number, Text, user_of
from widedusk.records.grounds.models import Place, Spot
from widedusk.records.grounds.services import PlaceInput, SpotInput, keep_place, places_of
from widedusk.records.owned import OwnedQuerySet

router = Router(tags=["places"])


class PointShape(Schema):
    azimuth_deg: Number
    altitude_deg: Number


class SpotIn(Schema):
    id: int | None = None
    name: Text
    horizon: Annotated[list[PointShape], Field(max_length=720)] = Field(default_factory=list)


class SpotOut(Schema):
    id: int
    name: str
    horizon: list[PointShape]

    @staticmethod
    def resolve_horizon(row: Spot) -> list[dict[str, float]]:
        return [{"azimuth_deg": azimuth, "altitude_deg": altitude} for azimuth, altitude in row.horizon]


class PlaceIn(Schema):
    name: Text
    latitude_deg: Number
    longitude_deg: Number
    height_m: Number = 0.0
    time_zone: Annotated[str, Field(max_length=64)]
    sky_mag: Number
    spots: Annotated[list[SpotIn], Field(max_length=30)]


class PlaceOut(Schema):
    id: int
    name: str
    latitude_deg: float
    longitude_deg: float
    height_m: float
    time_zone: str
    sky_mag: float
    spots: list[SpotOut]


def _given(data: PlaceIn) -> PlaceInput:
    values = data.dict(exclude={"spots"})
    return PlaceInput(
        **values,
        spots=tuple(
            SpotInput(spot.id, spot.name, tuple((point.azimuth_deg, point.altitude_deg) for point in spot.horizon))
            for spot in data.spots
        ),
    )


@router.get("/time-zones", response=list[str])
def time_zones(request: HttpRequest) -> list[str]:
    """Every time zone by name; bounded by the world."""
    return sorted(zone for zone in available_timezones() if "/" in zone and not zone.startswith(("Etc/", "posix/", "right/")))


@router.get("", response=list[PlaceOut])
@paginate
def places(request: HttpRequest) -> OwnedQuerySet[Place]:
    """Your places."""
    return places_of(user_of(request))


@router.post("", response={201: PlaceOut, 422: FailureOut})
def add_place(request: HttpRequest, data: PlaceIn) -> Status[Place]:
    """Note a place."""
    return Status(201, keep_place(user_of(request), _given(data)))


@router.put("/{int:record_id}", response={200: PlaceOut, 422: FailureOut, 404: FailureOut})
def change_place(request: HttpRequest, record_id: int, data: PlaceIn) -> Place:
    """Change a place and its spots."""
    row = get_object_or_404(places_of(user_of(request)), pk=record_id)
    return keep_place(user_of(request), _given(data), row)


add_removal(router, "place", Place, places_of, PlaceOut)
