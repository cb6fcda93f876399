"""Reading and keeping trips."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, time, timedelta
from typing import TypeVar

from django.contrib.auth.models import AbstractBaseUser
from django.db import models, transaction

from widedusk.core.errors import Checks
from widedusk.records.grounds.services import spots_of
from widedusk.records.kit.services import rigs_of
from widedusk.records.nights.models import Night, Trip
from widedusk.records.nights.nights import MOST_LANES, forget_empty_nights, the_night
from widedusk.records.owned import OwnedQuerySet
from widedusk.records.targets.services import targets_of

M = TypeVar("M", bound=models.Model)
MOST_NIGHTS = 30


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
    """This person's trips, the latest first, each with its nights in order."""
    nights = Night.objects.select_related("spot__place").order_by("date")
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
    if (date.max - given.first_night).days < len(given.spots):
        checks.fault("first_night", given.first_night, "No calendar goes that far; choose an earlier first night.")
    checks.done()
    kept = row or Trip(owner_id=user.pk)
    kept.name, kept.first_night = given.name.strip(), given.first_night
    kept.wake_time, kept.drive_h = given.wake_time, given.drive_h
    kept.refuse_a_second_of_its_name()
    kept.save()
    kept.rigs.set(rigs)
    kept.targets.set(targets)
    before = [one.pk for one in kept.nights.all()]
    kept.nights.set([the_night(user, spot, given.first_night + timedelta(days=number)) for number, spot in enumerate(spots)])
    forget_empty_nights(Night.objects.of(user).filter(pk__in=before))
    return trips_of(user).get(pk=kept.pk)
