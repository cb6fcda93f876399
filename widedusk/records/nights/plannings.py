"""What is asked of the solver when it takes longer than a page may wait; of each night and trip the last that was asked."""

from collections.abc import Mapping
from typing import Any, Literal

from django.contrib.auth.models import AbstractBaseUser
from django.db import transaction

from widedusk.records.nights.models import Night, Planning, Trip

Task = Literal["trip", "what if", "replan"]


def planning_of(user: AbstractBaseUser, of: Night | Trip, task: Task) -> Planning | None:
    """The last that was asked of a night or a trip."""
    found = Planning.objects.filter(owner_id=user.pk, task=task)
    return (found.filter(night=of) if isinstance(of, Night) else found.filter(trip=of)).first()


@transaction.atomic
def begin_planning(user: AbstractBaseUser, of: Night | Trip, task: Task, asked: Mapping[str, Any]) -> Planning:
    """Ask anew, in place of what was asked before; whoever is still at that is not heard any more."""
    about = {"night": of} if isinstance(of, Night) else {"trip": of}
    Planning.objects.filter(owner_id=user.pk, task=task, **about).delete()
    return Planning.objects.create(owner_id=user.pk, task=task, asked=dict(asked), **about)
