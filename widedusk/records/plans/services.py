"""Keeping plans."""

from datetime import date

from django.contrib.auth.models import AbstractBaseUser

from widedusk.core.choices import Choices, known_choices, set_choices
from widedusk.core.errors import Fault, InvalidInput
from widedusk.records.grounds.models import Spot
from widedusk.records.grounds.services import spots_of
from widedusk.records.kit.models import Rig
from widedusk.records.kit.services import whole_rig_of
from widedusk.records.owned import OwnedQuerySet
from widedusk.records.plans.models import Plan
from widedusk.records.targets.models import Target


def plans_of(user: AbstractBaseUser) -> OwnedQuerySet[Plan]:
    """This person's plans, the latest night first."""
    return Plan.objects.of(user).select_related("rig", "spot__place", "target")


def parts_of_a_plan(user: AbstractBaseUser, rig: int, spot: int, target: int) -> tuple[Rig, Spot, Target]:
    """The three records by id, each through its owner. Raises InvalidInput naming those that this person does not have."""
    found = (whole_rig_of(user, rig), spots_of(user).filter(pk=spot).first(), Target.objects.of(user).filter(pk=target).first())
    faults = [
        Fault(name, value, f"You have no {name} number {value}; choose one from the list.")
        for name, value, row in zip(("rig", "spot", "target"), (rig, spot, target), found, strict=True)
        if row is None
    ]
    if faults or found[0] is None or found[1] is None or found[2] is None:
        raise InvalidInput(faults)
    return found[0], found[1], found[2]


def choices_of(row: Plan) -> Choices:
    return known_choices(row.choices)


def keep_plan(
    owner: AbstractBaseUser, name: str, records: tuple[Rig, Spot, Target], night: date, choices: Choices, row: Plan | None = None
) -> Plan:
    """Store a plan. Raises InvalidInput for a missing name or one in use."""
    if not name.strip():
        raise InvalidInput([Fault("name", name, "Give the plan a name, so that you can find it again.")])
    kept = row or Plan(owner_id=owner.pk)
    kept.name, kept.night, kept.choices = name.strip(), night, set_choices(choices)
    kept.rig, kept.spot, kept.target = records
    kept.refuse_a_second_of_its_name()
    kept.save()
    return kept
