"""Reading and keeping trips."""

from collections import Counter
from collections.abc import Iterable, Mapping, Sequence
from datetime import date

from django.contrib.auth.models import AbstractBaseUser
from django.db import transaction

from widedusk.core.errors import Fault, InvalidInput
from widedusk.records.grounds.models import Spot
from widedusk.records.kit.models import Rig
from widedusk.records.trips.models import Trip

MOST_ITEMS = 300


def trip_of(user: AbstractBaseUser, spot: Spot, night: date) -> Trip | None:
    return Trip.objects.of(user).filter(spot=spot, night=night).first()


def forgotten_before(user: AbstractBaseUser, than: Trip | None) -> tuple[dict[str, str], Counter[str]]:
    """What other trips of this person went without: names by key, and how often."""
    names: dict[str, str] = {}
    times: Counter[str] = Counter()
    others = Trip.objects.of(user).order_by("night", "id")
    if than is not None:
        others = others.exclude(pk=than.pk)
    for forgotten in others.values_list("forgotten", flat=True):
        names.update(forgotten)
        times.update(forgotten.keys())
    return names, times


@transaction.atomic
def keep_trip(
    user: AbstractBaseUser, spot: Spot, night: date, rigs: Sequence[Rig], ticked: Iterable[str], forgotten: Mapping[str, str]
) -> Trip:
    """Store ticks and memories of one night out. Raises InvalidInput for more than a list can hold."""
    keys = sorted(set(ticked))
    if len(keys) > MOST_ITEMS or len(forgotten) > MOST_ITEMS:
        raise InvalidInput([Fault("ticked", len(keys), f"A list may have {MOST_ITEMS} lines.")])
    kept = trip_of(user, spot, night) or Trip(owner_id=user.pk, spot=spot, night=night, name=f"{spot}, {night}"[:120])
    kept.ticked, kept.forgotten = keys, dict(forgotten)
    kept.save()
    kept.rigs.set(rigs)
    return kept
