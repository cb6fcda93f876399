"""Between the rows of a place and the spots the core reckons with."""

from collections.abc import Sequence
from dataclasses import replace

from django.contrib.auth.models import AbstractBaseUser
from django.db import models, transaction
from django.utils import timezone

from widedusk.core.errors import Fault, InvalidInput
from widedusk.core.grounds.place import MOST_NOTE, PlaceInput, SpotInput
from widedusk.core.grounds.zone import time_zone_at
from widedusk.core.scene import Spot as CoreSpot
from widedusk.core.sky.horizon import HorizonProfile
from widedusk.records.grounds.models import Place, Spot
from widedusk.records.owned import OwnedQuerySet

MOST_PLACES = 3_000


def places_of(user: AbstractBaseUser) -> OwnedQuerySet[Place]:
    """This person's places with the spots they still have."""
    return Place.objects.of(user).prefetch_related(models.Prefetch("spots", Spot.objects.filter(deleted_at=None)))


def spots_of(user: AbstractBaseUser) -> models.QuerySet[Spot]:
    """Every spot of this person that can be stood on."""
    return Spot.objects.filter(place__owner_id=user.pk, place__deleted_at=None, deleted_at=None).select_related("place")


def spot_of(row: Spot, name: str = "") -> CoreSpot:
    """The spot as the core knows it, under its full name or another. Raises InvalidInput should a row not hold."""
    place = row.place
    return CoreSpot(
        name or str(row),
        place.latitude_deg,
        place.longitude_deg,
        place.height_m or 0.0,
        place.time_zone,
        place.sky_mag,
        HorizonProfile(tuple((azimuth, altitude) for azimuth, altitude in row.horizon)),
        place.height_m is not None,
    )


def check_place(given: PlaceInput) -> None:
    """Raise InvalidInput with every fault of the place and its spots."""
    faults: list[Fault] = []
    try:
        zone = given.time_zone or "UTC"
        CoreSpot(given.name, given.latitude_deg, given.longitude_deg, given.height_m or 0.0, zone, given.sky_mag)
    except InvalidInput as caught:
        faults += caught.faults
    for field in ("access", "caution"):
        length = len(getattr(given, field))
        if length > MOST_NOTE:
            faults.append(Fault(field, length, f"{length:,} characters are too many; keep it to {MOST_NOTE:,}."))
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


def _filled(row: Place, given: PlaceInput) -> Place:
    row.name = given.name.strip()
    for field in ("latitude_deg", "longitude_deg", "height_m", "time_zone", "sky_mag", "access", "caution"):
        setattr(row, field, getattr(given, field))
    return row


def _zone(given: PlaceInput, row: Place | None) -> str:
    """The time zone of a place: as the coordinates say, unless another was chosen for where it now is."""
    there = time_zone_at(given.latitude_deg, given.longitude_deg)
    if not given.time_zone:
        return there
    if row is None or row.pk is None or given.time_zone != row.time_zone:
        return given.time_zone
    return there if there != time_zone_at(row.latitude_deg, row.longitude_deg) else given.time_zone


@transaction.atomic
def keep_place(owner: AbstractBaseUser, given: PlaceInput, row: Place | None = None) -> Place:
    """Store a place with its spots; spots no longer given are marked deleted. Raises InvalidInput.

    Where the coordinates move into another time zone, the place moves with them, unless a zone is chosen at the same time.
    """
    check_place(given)
    given = replace(given, time_zone=_zone(given, row))
    kept = row or Place(owner_id=owner.pk)
    _filled(kept, given).refuse_a_second_of_its_name()
    if kept.pk is None and Place.objects.of(owner).count() >= MOST_PLACES:
        raise InvalidInput([Fault("name", kept.name, f"You have {MOST_PLACES:,} places; delete some before you add more.")])
    kept.save()
    left = {spot.pk: spot for spot in kept.spots.filter(deleted_at=None)}
    for spot in given.spots:
        stored = left.pop(spot.id, None) if spot.id else None
        stored = stored or Spot(place=kept)
        stored.name, stored.horizon = spot.name.strip(), [list(point) for point in spot.horizon]
        stored.save()
    Spot.objects.filter(pk__in=left).update(deleted_at=timezone.now())
    return places_of(owner).get(pk=kept.pk)


def place_input(row: Place) -> PlaceInput:
    """A place as it is told in a file."""
    spots = tuple(SpotInput(spot.pk, spot.name, tuple((point[0], point[1]) for point in spot.horizon)) for spot in row.spots.all())
    told = {name: getattr(row, name) for name in ("name", "latitude_deg", "longitude_deg", "height_m", "time_zone", "sky_mag")}
    return PlaceInput(**told, spots=spots, access=row.access, caution=row.caution)


def keep_sky(owner: AbstractBaseUser, row: Place, sky_mag: float) -> float:
    """Set how dark a place is; what stood there before is given back. Raises InvalidInput."""
    before = row.sky_mag
    keep_place(owner, replace(place_input(row), sky_mag=sky_mag), row)
    return before


def keep_horizon(row: Spot, profile: HorizonProfile) -> Spot:
    """Store a spot's horizon profile, checked by its own type."""
    row.horizon = [list(point) for point in profile.points_deg]
    row.save(update_fields=("horizon",))
    row.place.save(update_fields=("updated_at",))  # its spots are part of it
    return row


@transaction.atomic
def take_places(owner: AbstractBaseUser, given: Sequence[PlaceInput]) -> tuple[list[Place], int]:
    """Add what is not there yet; returns what was added and how many were there. Another place of a known name gets a number."""
    known = {row.name: (row.latitude_deg, row.longitude_deg) for row in places_of(owner)}
    added: list[PlaceInput] = []
    there = 0
    for place in given:
        at, name, number = (place.latitude_deg, place.longitude_deg), place.name.strip() or "Place", 2
        while name in known and known[name] != at:
            name, number = f"{place.name.strip()[:110]} ({number})", number + 1
        if name in known:
            there += 1
            continue
        check_place(place)
        added.append(replace(place, name=name))
        known[name] = at
    if len(known) > MOST_PLACES:
        told = f"With these {len(added):,} you would have {len(known):,} places; {MOST_PLACES:,} can be kept."
        raise InvalidInput([Fault("file", len(added), told)])
    rows = Place.objects.bulk_create(_filled(Place(owner_id=owner.pk), one) for one in added)
    Spot.objects.bulk_create(
        Spot(place=row, name=spot.name.strip(), horizon=[list(point) for point in spot.horizon])
        for row, one in zip(rows, added, strict=True)
        for spot in one.spots
    )
    return rows, there
