"""From an empty account to a first night: what is in one's hand, and where one stands."""

from collections.abc import Callable
from typing import Annotated, cast

from django.contrib.auth.models import AbstractBaseUser
from django.db import transaction
from django.http import HttpRequest
from ninja import Router, Schema
from pydantic import Field

from widedusk.api.failures import FailureOut
from widedusk.api.schemas import user_of
from widedusk.core.errors import Checks, Fault, InvalidInput
from widedusk.core.grounds.coordinates import MOST_LETTERS, read_coordinates
from widedusk.core.grounds.place import PlaceInput, SpotInput
from widedusk.core.grounds.sky_scale import SKIES, SkyWords
from widedusk.core.kit.typical import CameraClass, TrackerClass, typical_lens, typical_rig
from widedusk.core.number_text import NoNumber, parse_range
from widedusk.records.grounds.services import keep_place, places_of
from widedusk.records.kit.models import Rig
from widedusk.records.kit.services import free_name, keep_typical, keep_with_another_lens, rigs_of

router = Router(tags=["begin"])


Written = float | Annotated[str, Field(max_length=40)]


class HandIn(Schema):
    """What is in one's hand."""

    camera: CameraClass | None = None
    megapixels: Written | None = None
    focal_mm: Written | None = None  # of a zoom both ends, "18-55"
    f_number: Written | None = None  # "2.8", "f/2.8"; of a zoom that closes down "3.5-5.6"
    tracker: TrackerClass | None = None
    like: int | None = None  # a rig whose parts are taken, but for its lens


class GroundIn(Schema):
    """Where one stands, as pasted, and how dark it is there."""

    coordinates: Annotated[str, Field(max_length=MOST_LETTERS)]
    sky: SkyWords


class BeginIn(Schema):
    hand: HandIn | None = None
    ground: GroundIn | None = None


class BeginOut(Schema):
    """What was made; none where it was not asked for."""

    rig: int | None
    spot: int | None


def _hand(user: AbstractBaseUser, hand: HandIn) -> Callable[[], Rig]:
    """How the rig of what is in one's hand is kept. Raises InvalidInput naming every field that is missing or cannot be right."""
    checks = Checks()

    def ends(field: str, given: Written | None, unit: str, words: str) -> tuple[float, float]:
        try:
            if given is not None and given != "":
                return parse_range(given, unit)
            checks.fault(field, None, words)
        except NoNumber as caught:
            checks.fault(field, given, str(caught))
        return 0.0, 0.0

    focal = ends("focal_mm", hand.focal_mm, "mm", "Give the focal length in mm, as it is written on the lens.")
    stops = ends("f_number", hand.f_number, "", "Give the smallest f-number of the lens, like 2.8.")
    pixels = ends("megapixels", hand.megapixels, "MP", "")[0] if hand.megapixels not in {None, ""} else None
    like = rigs_of(user).filter(pk=hand.like).first() if hand.like is not None else None
    if hand.like is not None and like is None:
        checks.fault("like", hand.like, "This rig is not there any more; choose another.")
    for field in ("camera", "tracker"):
        if hand.like is None and getattr(hand, field) is None:
            checks.fault(field, None, "Choose the one that comes nearest.")
    checks.done()
    if like is not None:
        lens = typical_lens(focal, stops)
        return lambda: keep_with_another_lens(user, like, lens)
    made = typical_rig(cast("CameraClass", hand.camera), focal, stops, cast("TrackerClass", hand.tracker), pixels)
    return lambda: keep_typical(user, made)


def _ground(user: AbstractBaseUser, ground: GroundIn) -> PlaceInput:
    """The place that is told. Raises InvalidInput for coordinates that cannot be read."""
    try:
        there = read_coordinates(ground.coordinates)
    except InvalidInput as refused:
        raise InvalidInput([Fault("coordinates", ground.coordinates, one.message) for one in refused.faults]) from refused
    name = free_name({row.name for row in places_of(user)}, "My first place")
    stand = (SpotInput(None, "where I stand", ()),)
    return PlaceInput(name, there.latitude_deg, there.longitude_deg, None, "", SKIES[ground.sky], stand)


@router.post("", response={200: BeginOut, 422: FailureOut})
def begin(request: HttpRequest, data: BeginIn) -> BeginOut:
    """Make a rig of typical parts and a place; every figure nobody gave is marked as typical until a better one is."""
    user = user_of(request)
    checks, hand, ground = Checks(), data.hand, data.ground
    keep = checks.of(lambda: _hand(user, hand), "hand.") if hand else None
    place = checks.of(lambda: _ground(user, ground), "ground.") if ground else None
    checks.done()
    with transaction.atomic():
        rig = keep().pk if keep else None
        spot = keep_place(user, place).spots.values_list("pk", flat=True)[0] if place else None
    return BeginOut(rig=rig, spot=spot)
