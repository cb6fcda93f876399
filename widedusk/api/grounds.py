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
from widedusk.core.errors import Fault, InvalidInput
from widedusk.core.grounds.compass import compass_verdict
from widedusk.core.grounds.coordinates import read_coordinates
from widedusk.core.grounds.sky_scale import faintest_star as faintest_of
from widedusk.core.grounds.sky_scale import sky_of_class, sky_of_faintest_star
from widedusk.core.grounds.zone import time_zone_at
from widedusk.core.verdict import Verdict
from widedusk.records.clock import now
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


class ReadingOut(Schema):
    """What a pasted coordinate says about a place."""

    latitude_deg: float
    longitude_deg: float
    words: str
    time_zone: str
    compass: Verdict


@router.get("/reading", response={200: ReadingOut, 422: FailureOut})
def read_place(request: HttpRequest, coordinates: Annotated[str, Field(max_length=120)], height_m: Number = 0.0) -> ReadingOut:
    """Coordinates in any usual form, with the time zone and where a compass points there today."""
    found = read_coordinates(coordinates)
    return ReadingOut(
        latitude_deg=found.latitude_deg,
        longitude_deg=found.longitude_deg,
        words=found.words,
        time_zone=time_zone_at(found.latitude_deg, found.longitude_deg),
        compass=compass_verdict(found.latitude_deg, found.longitude_deg, height_m, now().date()),
    )


class SkyOut(Schema):
    sky_mag: float
    faintest_star: float


@router.get("/sky", response={200: SkyOut, 422: FailureOut})
def read_sky(request: HttpRequest, sky_class: int | None = None, faintest_star: Number | None = None) -> SkyOut:
    """Brightness of the sky by its class or by the faintest star seen."""
    if sky_class is not None:
        mag = sky_of_class(sky_class)
    elif faintest_star is not None:
        mag = sky_of_faintest_star(faintest_star)
    else:
        raise InvalidInput([Fault("sky_class", None, "Give the class of the sky or the faintest star you see.")])
    return SkyOut(sky_mag=round(mag, 2), faintest_star=round(faintest_of(mag), 1))


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
