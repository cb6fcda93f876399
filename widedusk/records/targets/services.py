"""Between the rows of a target and the target the core reckons with."""

from dataclasses import asdict

from django.contrib.auth.models import AbstractBaseUser

from widedusk.core.scene import Target as CoreTarget
from widedusk.records.owned import OwnedQuerySet
from widedusk.records.targets.models import Target


def target_of(row: Target) -> CoreTarget:
    """The target as the core knows it. Raises InvalidInput should a row not hold."""
    return CoreTarget(row.name, row.ra_deg, row.dec_deg, row.extent_deg, row.surface_mag)


def keep_target(owner: AbstractBaseUser, target: CoreTarget, row: Target | None = None) -> Target:
    """Store a checked target. Raises InvalidInput for a name in use."""
    kept = row or Target(owner_id=owner.pk)
    for name, value in asdict(target).items():
        setattr(kept, name, value.strip() if isinstance(value, str) else value)
    kept.refuse_a_second_of_its_name()
    kept.save()
    return kept


def targets_of(user: AbstractBaseUser) -> OwnedQuerySet[Target]:
    """This person's targets."""
    return Target.objects.of(user)
