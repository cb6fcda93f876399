"""Keeping alignments."""

from dataclasses import asdict
from datetime import date

from django.contrib.auth.models import AbstractBaseUser
from django.db import transaction

from widedusk.core.pole.axis import Axis, AxisError, UsualAxis
from widedusk.core.scene import Spot as CoreSpot
from widedusk.records.clock import now
from widedusk.records.grounds.models import Spot
from widedusk.records.grounds.services import spot_of
from widedusk.records.kit.models import Rig
from widedusk.records.owned import OwnedQuerySet
from widedusk.records.pictures.models import Measurement
from widedusk.records.pole.models import PLACE, Alignment


def alignments_of(user: AbstractBaseUser) -> OwnedQuerySet[Alignment]:
    """Every alignment of this person, the latest first."""
    return Alignment.objects.of(user).select_related("rig", "spot__place")


STOOD = ("method", "worst_arcmin", *PLACE)


def _axis(method: str, worst: float | None, *place: float) -> Axis:
    return AxisError(*place) if worst is None else UsualAxis(method, worst)


def axis_of(row: Alignment) -> Axis:
    """The alignment as the core knows it."""
    return _axis(*(getattr(row, name) for name in STOOD))


def latest_axis(user: AbstractBaseUser, rig: int, spot: int, night: date) -> Axis | None:
    """How the axis of a rig stood last at a spot and night, by their ids."""
    found = Alignment.objects.of(user).filter(rig_id=rig, spot_id=spot, night=night).values_list(*STOOD).first()
    return _axis(*found) if found else None


@transaction.atomic
def keep_alignment(
    owner: AbstractBaseUser,
    rig: Rig,
    spot: Spot,
    night: date,
    method: str,
    axis: Axis,
    touched: str = "",
    measurement: Measurement | None = None,
) -> Alignment:
    """Store where the axis stood."""
    at = now()
    core: CoreSpot = spot_of(spot)
    return Alignment.objects.create(
        owner_id=owner.pk,
        name=f"{method}, {at.astimezone(core.zone):%H:%M}",
        rig=rig,
        spot=spot,
        night=night,
        method=method,
        measured_at=at,
        **({"worst_arcmin": axis.worst_arcmin} if isinstance(axis, UsualAxis) else asdict(axis)),
        touched=touched.strip()[:300],
        measurement=measurement,
    )
