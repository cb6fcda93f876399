"""Between the rows of a rig and the rig the core reckons with."""

from dataclasses import asdict, fields
from typing import Any, TypeVar, cast

from django.contrib.auth.models import AbstractBaseUser
from django.db import models, transaction

from widedusk.core.kit import parts
from widedusk.records.kit.models import Camera, Carried, IsoStep, Lens, Rig, Tracker
from widedusk.records.owned import OwnedQuerySet


def rigs_of(user: AbstractBaseUser) -> OwnedQuerySet[Rig]:
    """This person's rigs with all their parts in few queries."""
    return Rig.objects.of(user).select_related("camera", "lens", "tracker").prefetch_related("camera__iso_steps", "carried")


def _values(row: models.Model, shape: type[Any], *leave: str) -> dict[str, Any]:
    return {field.name: getattr(row, field.name) for field in fields(shape) if field.name not in leave}


def rig_of(row: Rig) -> parts.Rig:
    """The rig as the core knows it. Raises InvalidInput should a row not hold."""
    steps = tuple(parts.IsoStep(**_values(step, parts.IsoStep)) for step in row.camera.iso_steps.all())
    return parts.Rig(
        row.name,
        parts.Camera(**_values(row.camera, parts.Camera, "iso_steps"), iso_steps=steps),
        parts.Lens(**_values(row.lens, parts.Lens)),
        parts.Tracker(**_values(row.tracker, parts.Tracker)),
        cast(parts.Support, row.support),
        row.star_fwhm_px,
        tuple(parts.Carried(**_values(item, parts.Carried)) for item in row.carried.all()),
    )


P = TypeVar("P", bound=models.Model)


def _part(row: P, part: Any, *leave: str) -> P:
    for name, value in asdict(part).items():
        if name not in leave:
            setattr(row, name, value)
    row.save()
    return row


@transaction.atomic
def keep_rig(owner: AbstractBaseUser, rig: parts.Rig, row: Rig | None = None) -> Rig:
    """Store a checked rig, as a new record or over an old one. Raises InvalidInput for a name in use."""
    kept = row or Rig(owner_id=owner.pk)
    kept.name, kept.support, kept.star_fwhm_px = rig.name.strip(), rig.support, rig.star_fwhm_px
    kept.refuse_a_second_of_its_name()
    camera = _part(row.camera if row else Camera(), rig.camera, "iso_steps")
    camera.iso_steps.all().delete()
    IsoStep.objects.bulk_create(IsoStep(camera=camera, **asdict(step)) for step in rig.camera.iso_steps)
    kept.camera, kept.lens, kept.tracker = (
        camera,
        _part(row.lens if row else Lens(), rig.lens),
        _part(row.tracker if row else Tracker(), rig.tracker),
    )
    kept.save()
    kept.carried.all().delete()
    Carried.objects.bulk_create(Carried(rig=kept, **asdict(item)) for item in rig.carried)
    return rigs_of(owner).get(pk=kept.pk)
