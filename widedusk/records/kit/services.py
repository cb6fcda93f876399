"""Between the rows of the inventory and the parts and assemblies the core reckons with."""

from collections.abc import Container, Iterable, Mapping
from dataclasses import replace

from django.contrib.auth.models import AbstractBaseUser
from django.db import models, transaction

from widedusk.core.errors import Fault, InvalidInput
from widedusk.core.kit import parts
from widedusk.core.kit.assembly import Assembly, Placed
from widedusk.core.kit.described import build, plain
from widedusk.core.kit.units import METRIC, Units
from widedusk.records.kit.models import Part, Placement, Rig
from widedusk.records.owned import OwnedQuerySet

NO_FILTER = "none"
MOST_PARTS_KEPT, MOST_RIGS_KEPT = 3_000, 1_000


def parts_of(user: AbstractBaseUser) -> OwnedQuerySet[Part]:
    """This person's parts, with the rigs that use them."""
    return Part.objects.of(user).prefetch_related("placements__rig", "fed_placements__rig")


def rigs_of(user: AbstractBaseUser) -> OwnedQuerySet[Rig]:
    """This person's rigs with all their parts in few queries."""
    return Rig.objects.of(user).prefetch_related("placements__part__placements__rig", "placements__fed_by")


WORKED_WITH = (
    *(f"rig__{name}" for name in ("name", "owner_id", "deleted_at", "star_fwhm_px", "focal_mm")),
    *("order", "arm_mm", "along_mm", "carried", "fed_by_id"),
    *("part__name", "part__kind", "part__values"),
)


def whole_rig_of(user: AbstractBaseUser, pk: int) -> Rig | None:
    """One of this person's rigs with what a night reckons with, in one query: every page asks for it."""
    mine = Placement.objects.filter(rig_id=pk, rig__owner_id=user.pk, rig__deleted_at=None)
    rows = list(mine.select_related("rig", "part").only(*WORKED_WITH))
    if not rows:
        return Rig.objects.of(user).filter(pk=pk).first()
    rig = rows[0].rig
    rig.in_place = rows
    return rig


def part_of(row: Part) -> parts.Part:
    """The part as the core knows it. Raises InvalidInput should a row not hold."""
    return build(parts.KINDS[row.kind], {"name": row.name, **row.values})


def read_part(kind: str, given: Mapping[str, object], units: Units = METRIC) -> parts.Part:
    """A checked part from what was typed. Raises InvalidInput with every fault."""
    shape = parts.KINDS.get(kind)
    if shape is None:
        raise InvalidInput([Fault("kind", kind, f"“{kind}” is no kind of part; known are {', '.join(parts.KINDS)}.")])
    return build(shape, given, units)


def new_part(owner: AbstractBaseUser, part: parts.Part, row: Part | None = None) -> Part:
    """The row of a part, new or that of before, not yet stored."""
    kept = row or Part(owner_id=owner.pk, kind=part.KIND)
    values = plain(part)
    kept.name = values.pop("name").strip()
    kept.values = values
    return kept


def check_room(model: type[Part] | type[Rig], here: int, more: int) -> None:
    """Raise InvalidInput when there would be more than can be kept."""
    what, most = ("parts", MOST_PARTS_KEPT) if model is Part else ("rigs", MOST_RIGS_KEPT)
    if more and here + more > most:
        raise InvalidInput(
            [Fault("name", here, f"You have {here:,} {what}; {most:,} can be kept. Delete some before you add more.")]
        )


@transaction.atomic
def keep_part(owner: AbstractBaseUser, part: parts.Part, row: Part | None = None) -> Part:
    """Store a part, new or over an old one. Raises InvalidInput for a name in use, or when a rig would no longer hold."""
    if row is not None and row.kind != part.KIND:
        raise InvalidInput([Fault("kind", part.KIND, f"“{row.name}” is a {row.kind} and stays one; add a new part instead.")])
    kept = new_part(owner, part, row)
    kept.refuse_a_second_of_its_name()
    if row is None:
        check_room(Part, Part.objects.of(owner).count(), 1)
    kept.save()
    if row is not None:
        for rig in rigs_of(owner).filter(placements__part=kept):
            try:
                assembly_of(rig)
            except InvalidInput as caught:
                told = " ".join(fault.message for fault in caught.faults)
                raise InvalidInput([Fault("", kept.name, f"{rig.name} would no longer hold together. {told}")]) from caught
    return parts_of(owner).get(pk=kept.pk)


def assembly_of(row: Rig) -> Assembly:
    """The rig as it stands. Raises InvalidInput should its rows not hold."""
    names: dict[int | None, str | None] = {None: None} | {one.part_id: one.part.name for one in row.in_place}
    return Assembly(
        row.name,
        tuple(Placed(part_of(one.part), one.arm_mm, one.along_mm, one.carried, names[one.fed_by_id]) for one in row.in_place),
        row.star_fwhm_px,
        row.focal_mm,
    )


def filters_of(user: AbstractBaseUser) -> dict[str, parts.Filter]:
    """This person's filters by name."""
    found = (part_of(row) for row in Part.objects.of(user).filter(kind=parts.Filter.KIND))
    return {one.name: one for one in found if isinstance(one, parts.Filter)}


def seen_through(assembly: Assembly, owned: Mapping[str, parts.Filter], name: str | None) -> Assembly:
    """A rig with the filter that is chosen for the night; without a choice as it stands. Raises InvalidInput."""
    if not name:
        return assembly
    if name == NO_FILTER:
        return assembly.seen_through(None)
    if name not in owned:
        known = ", ".join(sorted(owned)) or "none yet"
        raise InvalidInput([Fault("filter_name", name, f"You have no filter “{name}”; choose “none” or one of yours: {known}.")])
    return assembly.seen_through(owned[name])


def rig_of(row: Rig) -> parts.Rig:
    """The rig a night reckons with. Raises InvalidInput naming what it lacks."""
    return assembly_of(row).rig()


@transaction.atomic
def keep_iso_row(owner: AbstractBaseUser, rig: Rig, iso: int, step: parts.IsoStep | None) -> parts.IsoStep | None:
    """Put one row into the ISO table of a rig's camera, or take it out; what stood there before is given back.

    Raises InvalidInput when the rig has no camera, or the table would be empty.
    """
    row = next((one.part for one in rig.placements.all() if one.part.kind == parts.Camera.KIND), None)
    camera = part_of(row) if row else None
    if row is None or not isinstance(camera, parts.Camera):
        raise InvalidInput([Fault("rig", rig.name, f"{rig.name} has no camera; add it on the Bench.")])
    before = next((one for one in camera.iso_steps if one.iso == iso), None)
    others = [one for one in camera.iso_steps if one.iso != iso]
    table = sorted([*others, *([step] if step else [])], key=lambda one: one.iso)
    keep_part(owner, replace(camera, iso_steps=tuple(table)), row)
    return before


@transaction.atomic
def keep_rig(owner: AbstractBaseUser, assembly: Assembly, row: Rig | None = None) -> Rig:
    """Store a checked assembly of this person's own parts, told by their names. Raises InvalidInput for a name in use."""
    rows = {part.name: part for part in Part.objects.of(owner)}
    strangers = [
        Fault(f"placed.{place}.part", one.name, f"You have no part “{one.name}”.")
        for place, one in enumerate(assembly.placed)
        if one.name not in rows
    ]
    if strangers:
        raise InvalidInput(strangers)
    kept = row or Rig(owner_id=owner.pk)
    kept.name, kept.star_fwhm_px, kept.focal_mm = assembly.name.strip(), assembly.star_fwhm_px, assembly.focal_mm
    kept.refuse_a_second_of_its_name()
    if row is None:
        check_room(Rig, Rig.objects.of(owner).count(), 1)
    kept.save()
    kept.placements.all().delete()
    Placement.objects.bulk_create(placements(kept, assembly, rows))
    return rigs_of(owner).get(pk=kept.pk)


def placements(rig: Rig, assembly: Assembly, rows: Mapping[str, Part]) -> list[Placement]:
    """Where the parts of an assembly sit on its rig, not yet stored. rows: of its parts, by name."""
    return [
        Placement(
            rig=rig,
            part=rows[one.name],
            order=order,
            arm_mm=one.arm_mm,
            along_mm=one.along_mm,
            carried=one.carried,
            fed_by=rows[one.fed_by] if one.fed_by else None,
        )
        for order, one in enumerate(assembly.placed)
    ]


def free_name(taken: Container[str], name: str) -> str:
    """The name itself, or with the first number that is free."""
    number, free = 2, name
    while free in taken:
        free, number = f"{name[:110]} {number}", number + 1
    return free


def shared_with(placement: Placement) -> list[str]:
    """Other rigs that want the same part."""
    others: Iterable[models.Model] = placement.part.placements.all()
    return sorted(
        {
            one.rig.name
            for one in others
            if isinstance(one, Placement) and one.rig_id != placement.rig_id and one.rig.deleted_at is None
        }
    )
