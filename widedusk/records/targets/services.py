"""Between the rows of a target and the target the core reckons with."""

from collections.abc import Sequence
from dataclasses import asdict, fields, replace

from django.contrib.auth.models import AbstractBaseUser
from django.db import transaction

from widedusk.core.catalogue.catalogue import catalogue
from widedusk.core.errors import Fault, InvalidInput
from widedusk.core.scene import Target as CoreTarget
from widedusk.records.owned import OwnedQuerySet
from widedusk.records.targets.models import Target

MOST_TARGETS = 3_000


def target_of(row: Target) -> CoreTarget:
    """The target as the core knows it. Raises InvalidInput should a row not hold."""
    return CoreTarget(**{one.name: getattr(row, one.name) for one in fields(CoreTarget)})


def _filled(row: Target, target: CoreTarget) -> Target:
    for name, value in asdict(target).items():
        setattr(row, name, value.strip() if isinstance(value, str) else value)
    return row


def keep_target(owner: AbstractBaseUser, target: CoreTarget, row: Target | None = None, catalogue_key: str = "") -> Target:
    """Store a checked target. Raises InvalidInput for a name in use."""
    kept = _filled(row or Target(owner_id=owner.pk, catalogue_key=catalogue_key), target)
    kept.refuse_a_second_of_its_name()
    if kept.pk is None and Target.objects.of(owner).count() >= MOST_TARGETS:
        raise InvalidInput([Fault("name", kept.name, f"You have {MOST_TARGETS:,} targets; delete some before you add more.")])
    kept.save()
    return kept


def targets_of(user: AbstractBaseUser) -> OwnedQuerySet[Target]:
    """This person's targets."""
    return Target.objects.of(user)


def keep_from_catalogue(owner: AbstractBaseUser, key: str) -> Target:
    """This person's own copy of a catalogue entry; the one there is, when it was taken before. Raises InvalidInput."""
    entry = catalogue().get(key)
    if entry is None:
        raise InvalidInput([Fault("key", key, "There is no such entry in the catalogue; search for it again.")])
    there = targets_of(owner).filter(catalogue_key=key).first() or targets_of(owner).filter(name=entry.target.name).first()
    return there or keep_target(owner, entry.target, catalogue_key=key)


@transaction.atomic
def take_targets(owner: AbstractBaseUser, given: Sequence[CoreTarget]) -> tuple[list[Target], int]:
    """Add what is not there yet; returns what was added and how many were there. Another thing of a known name gets a number."""
    known = {row.name: target_of(row) for row in targets_of(owner)}
    here, there = len(known), 0
    added: list[Target] = []
    for target in given:
        name, number = target.name.strip(), 2
        while name in known and asdict(known[name]) | {"name": ""} != asdict(target) | {"name": ""}:
            name, number = f"{target.name.strip()[:110]} ({number})", number + 1
        if name in known:
            there += 1
            continue
        known[name] = replace(target, name=name)
        added.append(_filled(Target(owner_id=owner.pk), known[name]))
    if here + len(added) > MOST_TARGETS:
        told = f"With these {len(added):,} you would have {here + len(added):,} targets; {MOST_TARGETS:,} can be kept."
        raise InvalidInput([Fault("file", len(added), told)])
    return Target.objects.bulk_create(added), there
