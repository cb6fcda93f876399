"""Finding and keeping nights: what is packed and chosen for them."""

from collections import Counter
from collections.abc import Iterable, Mapping, Sequence
from datetime import date, timedelta
from typing import cast

from django.contrib.auth.models import AbstractBaseUser
from django.db import models, transaction

from widedusk.core.errors import Fault, InvalidInput
from widedusk.records.grounds.models import Spot
from widedusk.records.kit.models import Rig
from widedusk.records.nights.models import Night, Run
from widedusk.records.owned import OwnedQuerySet
from widedusk.records.targets.models import Target
from widedusk.records.targets.services import targets_of

MOST_ITEMS = 300
MOST_LANES = 12


def night_of(user: AbstractBaseUser, spot: Spot | None, evening: date) -> Night | None:
    return Night.objects.of(user).filter(spot=spot, date=evening).first()


def the_night(user: AbstractBaseUser, spot: Spot | None, evening: date) -> Night:
    """This person's night at a spot, stored if it is the first time that it is spoken of."""
    name = f"{spot}, {evening}" if spot else str(evening)
    row, _ = Night.objects.get_or_create(
        owner_id=user.pk, spot=spot, date=evening, deleted_at=None, defaults={"name": name[:120], "owner_id": user.pk}
    )
    return row


def forget_empty_nights(found: models.QuerySet[Night]) -> None:
    """Delete those that hold nothing: no run, no trip, no folder of frames, nothing packed, chosen or missed."""
    found.filter(runs=None, folders=None, trips=None, rigs=None, targets=[], ticked=[], forgotten={}, whole={}).delete()


def nights_with_runs(user: AbstractBaseUser) -> OwnedQuerySet[Night]:
    """Nights for which something is planned or in which something was shot, each with its runs."""
    runs = Run.objects.of(user)
    live = runs.exclude(state="dropped").filter(night=models.OuterRef("pk"))
    found = Night.objects.of(user).filter(models.Exists(live) | ~models.Q(whole={}))
    shown = runs.select_related("rig", "target", "plan", "result").order_by("plan__begins_at", "result__begins_at", "name", "id")
    return cast(
        "OwnedQuerySet[Night]",
        found.select_related("spot__place").prefetch_related(models.Prefetch("runs", shown, to_attr="every_run")),
    )


def forgotten_before(user: AbstractBaseUser, than: Night | None) -> tuple[dict[str, str], Counter[str]]:
    """What other nights of this person went without: names by key, and how often."""
    names: dict[str, str] = {}
    times: Counter[str] = Counter()
    others = Night.objects.of(user).exclude(forgotten={}).order_by("date", "id")
    if than is not None:
        others = others.exclude(pk=than.pk)
    for forgotten in others.values_list("forgotten", flat=True):
        names.update(forgotten)
        times.update(forgotten.keys())
    return names, times


@transaction.atomic
def keep_packing(
    user: AbstractBaseUser, spot: Spot, evening: date, rigs: Sequence[Rig], ticked: Iterable[str], forgotten: Mapping[str, str]
) -> Night:
    """Store ticks and memories of one night. Raises InvalidInput for more than a list can hold."""
    keys = sorted(set(ticked))
    if len(keys) > MOST_ITEMS or len(forgotten) > MOST_ITEMS:
        raise InvalidInput([Fault("ticked", len(keys), f"A list may have {MOST_ITEMS} lines.")])
    kept = the_night(user, spot, evening)
    kept.ticked, kept.forgotten = keys, dict(forgotten)
    kept.save(update_fields=("ticked", "forgotten", "updated_at"))
    kept.rigs.set(rigs)
    return kept


def _in_order(user: AbstractBaseUser, ids: Sequence[int]) -> list[Target]:
    found = targets_of(user).in_bulk(list(ids))
    return [found[one] for one in dict.fromkeys(ids) if one in found]


def chosen_targets(user: AbstractBaseUser, spot: Spot, evening: date) -> list[Target]:
    """The targets of one night at one spot: those chosen for it, else those of a trip that spends the night there, else
    those of the nearest other night there within a month."""
    night = night_of(user, spot, evening)
    if night is not None and night.targets:
        return _in_order(user, night.targets)
    trip = night.trips.filter(deleted_at=None).order_by("pk").first() if night is not None else None
    if trip:
        return list(trip.targets.filter(deleted_at=None)[:MOST_LANES])
    month = timedelta(days=30)
    around = Night.objects.of(user).filter(spot=spot, date__range=(evening - month, evening + month)).exclude(targets=[])
    nearest = min(around, key=lambda one: (abs(one.date - evening), one.date), default=None)
    return _in_order(user, nearest.targets) if nearest else []


def is_chosen(user: AbstractBaseUser, spot: Spot, evening: date) -> bool:
    """Whether targets were chosen for this very night."""
    night = night_of(user, spot, evening)
    return night is not None and bool(night.targets)


def keep_chosen(user: AbstractBaseUser, spot: Spot, evening: date, ids: Sequence[int]) -> list[Target]:
    """Store which targets one night is for, in order. Raises InvalidInput for unknown ones and for too many."""
    rows = _in_order(user, ids)
    missing = [one for one in ids if one not in {row.pk for row in rows}]
    if missing:
        raise InvalidInput([Fault("targets", missing[0], f"You have no target number {missing[0]}; choose one from the list.")])
    if len(rows) > MOST_LANES:
        raise InvalidInput([Fault("targets", len(rows), f"One night holds {MOST_LANES} targets; take one away first.")])
    kept = the_night(user, spot, evening)
    kept.targets = [row.pk for row in rows]
    kept.save(update_fields=("targets", "updated_at"))
    return rows
