"""Reading and keeping outings and trips."""

from collections import Counter
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import date, time, timedelta
from typing import TypeVar

from django.contrib.auth.models import AbstractBaseUser
from django.db import models, transaction

from widedusk.core.errors import Checks, Fault, InvalidInput
from widedusk.records.grounds.models import Spot
from widedusk.records.grounds.services import spots_of
from widedusk.records.kit.models import Rig
from widedusk.records.kit.services import rigs_of
from widedusk.records.owned import OwnedQuerySet
from widedusk.records.targets.models import Target
from widedusk.records.targets.services import targets_of
from widedusk.records.trips.models import Outing, Trip, TripNight

M = TypeVar("M", bound=models.Model)
MOST_ITEMS = 300
MOST_LANES = 12
MOST_NIGHTS = 30


def outing_of(user: AbstractBaseUser, spot: Spot, night: date) -> Outing | None:
    return Outing.objects.of(user).filter(spot=spot, night=night).first()


def _outing(user: AbstractBaseUser, spot: Spot, night: date) -> Outing:
    return outing_of(user, spot, night) or Outing(owner_id=user.pk, spot=spot, night=night, name=f"{spot}, {night}"[:120])


def forgotten_before(user: AbstractBaseUser, than: Outing | None) -> tuple[dict[str, str], Counter[str]]:
    """What other outings of this person went without: names by key, and how often."""
    names: dict[str, str] = {}
    times: Counter[str] = Counter()
    others = Outing.objects.of(user).order_by("night", "id")
    if than is not None:
        others = others.exclude(pk=than.pk)
    for forgotten in others.values_list("forgotten", flat=True):
        names.update(forgotten)
        times.update(forgotten.keys())
    return names, times


@transaction.atomic
def keep_packing(
    user: AbstractBaseUser, spot: Spot, night: date, rigs: Sequence[Rig], ticked: Iterable[str], forgotten: Mapping[str, str]
) -> Outing:
    """Store ticks and memories of one night out. Raises InvalidInput for more than a list can hold."""
    keys = sorted(set(ticked))
    if len(keys) > MOST_ITEMS or len(forgotten) > MOST_ITEMS:
        raise InvalidInput([Fault("ticked", len(keys), f"A list may have {MOST_ITEMS} lines.")])
    kept = _outing(user, spot, night)
    kept.ticked, kept.forgotten = keys, dict(forgotten)
    kept.save()
    kept.rigs.set(rigs)
    return kept


def _in_order(user: AbstractBaseUser, ids: Sequence[int]) -> list[Target]:
    found = targets_of(user).in_bulk(list(ids))
    return [found[one] for one in dict.fromkeys(ids) if one in found]


def chosen_targets(user: AbstractBaseUser, spot: Spot, night: date) -> list[Target]:
    """The targets of one night at one spot: those chosen for it, else those of a trip that spends the night there, else
    those of the nearest other night out there within a month."""
    outing = outing_of(user, spot, night)
    if outing is not None and outing.targets:
        return _in_order(user, outing.targets)
    nights = TripNight.objects.filter(trip__owner_id=user.pk, trip__deleted_at=None, spot=spot).select_related("trip")
    trip = next((one.trip for one in nights if one.trip.first_night + timedelta(days=one.number) == night), None)
    if trip:
        return list(trip.targets.filter(deleted_at=None)[:MOST_LANES])
    month = timedelta(days=30)
    around = Outing.objects.of(user).filter(spot=spot, night__range=(night - month, night + month)).exclude(targets=[])
    nearest = min(around, key=lambda one: (abs(one.night - night), one.night), default=None)
    return _in_order(user, nearest.targets) if nearest else []


def is_chosen(user: AbstractBaseUser, spot: Spot, night: date) -> bool:
    """Whether targets were chosen for this very night."""
    outing = outing_of(user, spot, night)
    return outing is not None and bool(outing.targets)


def keep_chosen(user: AbstractBaseUser, spot: Spot, night: date, ids: Sequence[int]) -> list[Target]:
    """Store which targets one night is for, in order. Raises InvalidInput for unknown ones and for too many."""
    rows = _in_order(user, ids)
    missing = [one for one in ids if one not in {row.pk for row in rows}]
    if missing:
        raise InvalidInput([Fault("targets", missing[0], f"You have no target number {missing[0]}; choose one from the list.")])
    if len(rows) > MOST_LANES:
        raise InvalidInput([Fault("targets", len(rows), f"One night holds {MOST_LANES} targets; take one away first.")])
    kept = _outing(user, spot, night)
    kept.targets = [row.pk for row in rows]
    kept.save()
    return rows


@dataclass(frozen=True)
class TripInput:
    name: str
    first_night: date
    spots: Sequence[int]  # one a night
    rigs: Sequence[int]
    targets: Sequence[int]
    wake_time: time
    drive_h: float


def trips_of(user: AbstractBaseUser) -> OwnedQuerySet[Trip]:
    """This person's trips, the latest first."""
    nights = TripNight.objects.select_related("spot__place")
    return Trip.objects.of(user).prefetch_related(models.Prefetch("nights", nights), "rigs", "targets")


def _owned(found: models.QuerySet[M], ids: Sequence[int], field: str, checks: Checks) -> list[M]:
    rows = found.in_bulk(list(ids))
    for one in ids:
        if one not in rows:
            checks.fault(field, one, f"You have no such record number {one}; choose one from the list.")
    return [rows[one] for one in ids if one in rows]


@transaction.atomic
def keep_trip(user: AbstractBaseUser, given: TripInput, row: Trip | None = None) -> Trip:
    """Store a trip with its nights. Raises InvalidInput with every fault."""
    checks = Checks()
    checks.named("name", given.name)
    checks.within("drive_h", given.drive_h, 0, 24, "h")
    if not 1 <= len(given.spots) <= MOST_NIGHTS:
        checks.fault("spots", len(given.spots), f"A trip has 1 to {MOST_NIGHTS} nights, each at a spot.")
    spots = _owned(spots_of(user), given.spots, "spots", checks)
    rigs = _owned(rigs_of(user), given.rigs, "rigs", checks)
    targets = _owned(targets_of(user), given.targets, "targets", checks)
    if len(targets) > MOST_LANES:
        checks.fault("targets", len(targets), f"A trip holds {MOST_LANES} targets; take one away first.")
    checks.done()
    kept = row or Trip(owner_id=user.pk)
    kept.name, kept.first_night = given.name.strip(), given.first_night
    kept.wake_time, kept.drive_h = given.wake_time, given.drive_h
    kept.refuse_a_second_of_its_name()
    kept.save()
    kept.rigs.set(rigs)
    kept.targets.set(targets)
    kept.nights.all().delete()
    TripNight.objects.bulk_create([TripNight(trip=kept, number=number, spot=spot) for number, spot in enumerate(spots)])
    return trips_of(user).get(pk=kept.pk)
