"""From an empty account to a first night: what is in one's hand, and where one stands."""

from typing import Annotated

from django.contrib.auth.models import AbstractBaseUser
from django.db import transaction
from django.http import HttpRequest
from ninja import Router, Schema
from pydantic import Field

from widedusk.api.failures import FailureOut
from widedusk.api.schemas import Number, user_of
from widedusk.core.errors import Fault, InvalidInput
from widedusk.core.grounds.coordinates import read_coordinates
from widedusk.core.grounds.place import PlaceInput, SpotInput
from widedusk.core.grounds.sky_scale import SKIES, SkyWords
from widedusk.core.grounds.zone import time_zone_at
from widedusk.core.kit.assembly import Assembly
from widedusk.core.kit.typical import CameraClass, TrackerClass, typical_rig
from widedusk.records.grounds.services import keep_place, places_of
from widedusk.records.kit.services import free_name, keep_typical

router = Router(tags=["begin"])


class HandIn(Schema):
    """What is in one's hand."""

    camera: CameraClass
    focal_mm: Number | None = None
    f_number: Number | None = None
    tracker: TrackerClass


class GroundIn(Schema):
    """Where one stands, as pasted, and how dark it is there."""

    coordinates: Annotated[str, Field(max_length=120)]
    sky: SkyWords


class BeginIn(Schema):
    hand: HandIn | None = None
    ground: GroundIn | None = None


class BeginOut(Schema):
    """What was made; none where it was not asked for."""

    rig: int | None
    spot: int | None


def _hand(hand: HandIn) -> Assembly:
    """The typical rig of what is in one's hand. Raises InvalidInput naming every field that is missing or cannot be right."""
    asked = (
        ("focal_mm", hand.focal_mm, "Give the focal length in mm, as it is written on the lens."),
        ("f_number", hand.f_number, "Give the smallest f-number of the lens, like 2.8."),
    )
    missing = [Fault(field, None, words) for field, value, words in asked if value is None]
    if hand.focal_mm is None or hand.f_number is None:
        raise InvalidInput(missing)
    return typical_rig(hand.camera, hand.focal_mm, hand.f_number, hand.tracker)


def _ground(user: AbstractBaseUser, ground: GroundIn) -> PlaceInput:
    """The place that is told. Raises InvalidInput for coordinates that cannot be read."""
    try:
        there = read_coordinates(ground.coordinates)
    except InvalidInput as refused:
        raise InvalidInput([Fault("coordinates", ground.coordinates, one.message) for one in refused.faults]) from refused
    name = free_name({row.name for row in places_of(user)}, "My first place")
    zone = time_zone_at(there.latitude_deg, there.longitude_deg)
    stand = (SpotInput(None, "where I stand", ()),)
    return PlaceInput(name, there.latitude_deg, there.longitude_deg, 0.0, zone, SKIES[ground.sky], stand)


@router.post("", response={200: BeginOut, 422: FailureOut})
def begin(request: HttpRequest, data: BeginIn) -> BeginOut:
    """Make a rig of typical parts and a place; every figure nobody gave is marked as typical until a better one is."""
    user = user_of(request)
    faults: list[Fault] = []
    assembly, place = None, None
    try:
        assembly = _hand(data.hand) if data.hand else None
    except InvalidInput as refused:
        faults += refused.faults
    try:
        place = _ground(user, data.ground) if data.ground else None
    except InvalidInput as refused:
        faults += refused.faults
    if faults:
        raise InvalidInput(faults)
    with transaction.atomic():
        rig = keep_typical(user, assembly).pk if assembly else None
        spot = keep_place(user, place).spots.values_list("pk", flat=True)[0] if place else None
    return BeginOut(rig=rig, spot=spot)
