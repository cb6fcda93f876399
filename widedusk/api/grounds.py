"""Places and their spots."""

from typing import Annotated
from zoneinfo import available_timezones

import numpy as np
from django.db import transaction
from django.http import HttpRequest
from django.shortcuts import get_object_or_404
from ninja import File, Router, Schema, Status, UploadedFile
from ninja.pagination import paginate
from pydantic import Field

from widedusk.apart import readers
from widedusk.apart.process import read_apart
from widedusk.api.failures import FailureOut
from widedusk.api.files import Added, AddedOut, FileOut, content_of
from widedusk.api.removal import add_removal
from widedusk.api.schemas import Degrees, Metres, Number, Text, user_of
from widedusk.api.versions import ChangedOut, Version, to_change
from widedusk.core.errors import Fault, InvalidInput
from widedusk.core.files import PlacesFormat
from widedusk.core.grounds.compass import compass_verdict, needle
from widedusk.core.grounds.coordinates import MOST_LETTERS, read_coordinates
from widedusk.core.grounds.horizon_file import MOST_POINTS, write_horizon
from widedusk.core.grounds.place import MOST_NOTE, MOST_SPOTS, PlaceInput, SpotInput
from widedusk.core.grounds.sky_scale import faintest_star as faintest_of
from widedusk.core.grounds.sky_scale import sky_of_class, sky_of_faintest_star
from widedusk.core.grounds.sweep import swept_profile
from widedusk.core.grounds.zone import time_zone_at
from widedusk.core.sky.horizon import HorizonProfile
from widedusk.core.verdict import Verdict
from widedusk.records.clock import now
from widedusk.records.grounds.models import Place, Spot
from widedusk.records.grounds.services import keep_horizon, keep_place, place_input, places_of, spot_of, spots_of, take_places
from widedusk.records.owned import OwnedQuerySet

router = Router(tags=["places"])


class PointShape(Schema):
    azimuth_deg: Degrees
    altitude_deg: Degrees


class SpotIn(Schema):
    id: int | None = None
    name: Text
    horizon: Annotated[list[PointShape], Field(max_length=MOST_POINTS)] = Field(default_factory=list)


class SpotOut(Schema):
    id: int
    name: str
    horizon: list[PointShape]

    @staticmethod
    def resolve_horizon(row: Spot) -> list[dict[str, float]]:
        return [{"azimuth_deg": azimuth, "altitude_deg": altitude} for azimuth, altitude in row.horizon]


class PlaceIn(Schema):
    name: Text
    latitude_deg: Degrees
    longitude_deg: Degrees
    height_m: Metres | None = None  # none: not known
    time_zone: Annotated[str, Field(max_length=64)] | None = None  # none: as the coordinates say
    sky_mag: Number
    access: Annotated[str, Field(max_length=MOST_NOTE)] = ""
    caution: Annotated[str, Field(max_length=MOST_NOTE)] = ""
    spots: Annotated[list[SpotIn], Field(max_length=MOST_SPOTS)]
    version: Version | None = None  # as it was opened; none: saved over whatever it is


class PlaceOut(Schema):
    id: int
    version: int
    name: str
    latitude_deg: float
    longitude_deg: float
    height_m: float | None
    time_zone: str
    sky_mag: float
    access: str
    caution: str
    spots: list[SpotOut]


def _given(data: PlaceIn) -> PlaceInput:
    values = data.dict(exclude={"spots", "version", "time_zone"})
    return PlaceInput(
        **values,
        time_zone=data.time_zone or "",
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
def read_place(
    request: HttpRequest, coordinates: Annotated[str, Field(max_length=MOST_LETTERS)], height_m: Number = 0.0
) -> ReadingOut:
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


@router.put("/{int:record_id}", response={200: PlaceOut, 422: FailureOut, 404: FailureOut, 409: ChangedOut})
@transaction.atomic
def change_place(request: HttpRequest, record_id: int, data: PlaceIn) -> Place:
    """Change a place and its spots."""
    row = to_change(places_of(user_of(request)), record_id, data.version, PlaceOut.from_orm)
    return keep_place(user_of(request), _given(data), row)


class HorizonIn(Schema):
    horizon: Annotated[list[PointShape], Field(max_length=MOST_POINTS)]


def _own_spot(request: HttpRequest, record_id: int) -> Spot:
    return get_object_or_404(spots_of(user_of(request)), pk=record_id)


@router.put("/spots/{int:record_id}/horizon", response={200: SpotOut, 422: FailureOut, 404: FailureOut})
def change_horizon(request: HttpRequest, record_id: int, data: HorizonIn) -> Spot:
    """Keep a spot's horizon profile, as drawn or typed."""
    profile = HorizonProfile(tuple((point.azimuth_deg, point.altitude_deg) for point in data.horizon))
    return keep_horizon(_own_spot(request, record_id), profile)


MAX_READINGS = 3_000  # five minutes of ten a second


class SweepIn(Schema):
    """Readings of a phone that was sighted along the skyline: magnetic bearing and slope of its long edge, in the order of time."""

    readings: Annotated[list[PointShape], Field(max_length=MAX_READINGS)]


@router.post("/spots/{int:record_id}/horizon/sweep", response={200: SpotOut, 422: FailureOut, 404: FailureOut})
def take_sweep(request: HttpRequest, record_id: int, data: SweepIn) -> Spot:
    """A spot's horizon profile out of a sweep with a phone; where nobody swept, it stays as it was."""
    row = _own_spot(request, record_id)
    spot = spot_of(row)
    declination = needle(spot.latitude_deg, spot.longitude_deg, spot.height_m, now().date()).declination_deg
    magnetic, altitude = (np.array([getattr(one, name) for one in data.readings]) for name in ("azimuth_deg", "altitude_deg"))
    return keep_horizon(row, swept_profile(magnetic, altitude, declination, spot.horizon))


@router.get("/spots/{int:record_id}/horizon.csv", response={200: FileOut, 404: FailureOut})
def horizon_file(request: HttpRequest, record_id: int) -> FileOut:
    """A spot's horizon profile as a table."""
    row = _own_spot(request, record_id)
    return FileOut(name="horizon.csv", media="text/csv", text=write_horizon(spot_of(row).horizon))


@router.post("/spots/{int:record_id}/horizon.csv", response={200: SpotOut, 422: FailureOut, 404: FailureOut})
def take_horizon(request: HttpRequest, record_id: int, file: File[UploadedFile]) -> Spot:
    """A spot's horizon profile out of a table of azimuth and altitude."""
    return keep_horizon(_own_spot(request, record_id), read_apart(readers.horizon, content_of(file)))


@router.get("/file/{form}", response={200: FileOut, 422: FailureOut})
def places_file(request: HttpRequest, form: PlacesFormat) -> FileOut:
    """All your places as GPX waypoints or GeoJSON."""
    given = [place_input(row) for row in places_of(user_of(request))]
    media = "application/gpx+xml" if form == "gpx" else "application/geo+json"
    return FileOut(name=f"places.{form}", media=media, text=read_apart(readers.places_text, given, form))


@router.post("/file", response={200: AddedOut, 422: FailureOut})
def take_places_file(request: HttpRequest, file: File[UploadedFile]) -> AddedOut:
    """Add the places of a GPX or GeoJSON file. What is there already is not touched."""
    added, there = take_places(user_of(request), read_apart(readers.places, content_of(file)))
    return AddedOut(added=[Added(id=row.pk, name=row.name) for row in added], there=there)


add_removal(router, "place", Place, places_of, PlaceOut)
