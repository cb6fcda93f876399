"""Between the rows of a place and the spots the core reckons with."""

from collections.abc import Sequence
from dataclasses import dataclass

from django.contrib.auth.models import AbstractBaseUser
from django.db import models, transaction
from django.utils import timezone

from widedusk.core.errors import Fault, InvalidInput
from widedusk.core.scene import Spot as CoreSpot
from widedusk.core.sky.horizon import HorizonProfile
from widedusk.records.grounds.models import Place, Spot
from widedusk.records.owned import OwnedQuerySet


@dataclass(frozen=True)
class SpotInput:
    id: int | None  # of the row it replaces
    name: str
    horizon: Sequence[tuple[float, float]]


@dataclass(frozen=True)
class PlaceInput:
    name: str
    latitude_deg: float
    longitude_deg: float
    height_m: float
    time_zone: str
    sky_mag: float
    spots: Sequence[SpotInput]


def places_of(user: AbstractBaseUser) -> OwnedQuerySet[Place]:
    """This person's places with the spots they still have."""
    return Place.objects.of(user).prefetch_related(models.Prefetch("spots", Spot.objects.filter(deleted_at=None)))


def spots_of(user: AbstractBaseUser) -> models.QuerySet[Spot]:
    """Every spot of this person that can be stood on."""
    return Spot.objects.filter(place__owner_id=user.pk, place__deleted_at=None, deleted_at=None).select_related("place")


def spot_of(row: Spot) -> CoreSpot:
    """The spot as the core knows it. Raises InvalidInput should a row not hold."""
    place = row.place
    return CoreSpot(
        str(row),
        place.latitude_deg,
        place.longitude_deg,
        place.height_m,
        place.time_zone,
        place.sky_mag,
        HorizonProfile(tuple((azimuth, altitude) for azimuth, altitude in row.horizon)),
    )


def check_place(given: PlaceInput) -> None:
    """Raise InvalidInput with every fault of the place and its spots."""
    faults: list[Fault] = []
    try:
        CoreSpot(given.name, given.latitude_deg, given.longitude_deg, given.height_m, given.time_zone, given.sky_mag)
    except InvalidInput as caught:
        faults += caught.faults
    if not given.spots:
        faults.append(Fault("spots", None, "A place needs at least one spot to stand on."))
    for number, spot in enumerate(given.spots):
        if not spot.name.strip():
            faults.append(Fault(f"spots.{number}.name", spot.name, "Say which spot this is, such as “by the gate”."))
        try:
            HorizonProfile(tuple(spot.horizon))
        except InvalidInput as caught:
            faults += [Fault(f"spots.{number}.{fault.field}", fault.value, fault.message) for fault in caught.faults]
    if faults:
        raise InvalidInput(faults)


@transaction.atomic
def keep_place(owner: AbstractBaseUser, given: PlaceInput, row: Place | None = None) -> Place:
    """Store a place with its spots; spots no longer given are marked deleted. Raises InvalidInput."""
    check_place(given)
    kept = row or Place(owner_id=owner.pk)
    kept.name = given.name.strip()
    kept.refuse_a_second_of_its_name()
    for field in ("latitude_deg", "longitude_deg", "height_m", "time_zone", "sky_mag"):
        setattr(kept, field, getattr(given, field))
    kept.save()
    left = {spot.pk: spot for spot in kept.spots.filter(deleted_at=None)}
    for spot in given.spots:
        stored = left.pop(spot.id, None) if spot.id else None
        stored = stored or Spot(place=kept)
        stored.name, stored.horizon = spot.name.strip(), [list(point) for point in spot.horizon]
        stored.save()
    Spot.objects.filter(pk__in=left).update(deleted_at=timezone.now())
    return places_of(owner).get(pk=kept.pk)
