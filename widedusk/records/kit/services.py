"""Between the rows of the inventory and the parts and assemblies the core reckons with."""

from collections.abc import Container, Iterable, Iterator, Mapping
from dataclasses import replace
from typing import Any, TypeVar, cast

from django.contrib.auth.models import AbstractBaseUser
from django.db import models, transaction

from widedusk.core.errors import Fault, InvalidInput
from widedusk.core.kit import parts
from widedusk.core.kit.assembly import Assembly, Placed
from widedusk.core.kit.described import abouts, build, plain
from widedusk.core.kit.typical import with_another_lens
from widedusk.core.kit.units import METRIC, Units
from widedusk.records.kit.models import Part, Placement, Rig
from widedusk.records.owned import OwnedQuerySet

P = TypeVar("P", bound=parts.Part)

NO_FILTER = "none"


def parts_of(user: AbstractBaseUser) -> OwnedQuerySet[Part]:
    """This person's parts, with the rigs that use them."""
    return Part.objects.of(user).prefetch_related("placements__rig", "fed_placements__rig")


def rigs_of(user: AbstractBaseUser) -> OwnedQuerySet[Rig]:
    """This person's rigs with all their parts in few queries."""
    return Rig.objects.of(user).prefetch_related("placements__part__placements__rig", "placements__fed_by")


WORKED_WITH = (
    *(f"rig__{name}" for name in ("name", "owner_id", "deleted_at", "star_fwhm_px", "star_origin", "focal_mm")),
    *("order", "arm_mm", "along_mm", "carried", "fed_by_id"),
    *("part__name", "part__kind", "part__values", "part__origins"),
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
    made = build(parts.KINDS[row.kind], {"name": row.name, **row.values})
    return replace(made, origins=tuple(row.origins.items())) if row.origins else made


def read_part(kind: str, given: Mapping[str, object], units: Units = METRIC, row: Part | None = None) -> parts.Part:
    """A checked part from what was typed; what nobody typed is by the book, what nobody changed is from where it was.

    row: as it stood before. Raises InvalidInput with every fault.
    """
    shape = parts.KINDS.get(kind)
    if shape is None:
        raise InvalidInput([Fault("kind", kind, f"“{kind}” is no kind of part; known are {', '.join(parts.KINDS)}.")])
    made = build(shape, given, units)
    before = part_of(row) if row is not None and row.kind == kind else None
    if isinstance(made, parts.Camera) and isinstance(before, parts.Camera):
        made = _estimated_anew(made, before)
    origins = dict(made.origins) | dict(_origins(made, before, given))
    return replace(made, origins=tuple(sorted(origins.items())))


def _estimated_anew(camera: parts.Camera, before: parts.Camera) -> parts.Camera:
    """An estimate goes by the size of the pixels: with another size it is another."""
    kept = tuple(step for step in camera.iso_steps if not (step in before.iso_steps and before.estimated_at(step.iso)))
    if camera.pitch_um == before.pitch_um or len(kept) == len(camera.iso_steps):
        return camera
    known = {step.iso for step in kept}
    estimated = [step for step in parts.usual_iso_steps(camera.pitch_um) if step.iso not in known]
    origins = (*camera.origins, *((parts.iso_field(step.iso), "book") for step in estimated))
    return replace(camera, iso_steps=tuple(sorted((*kept, *estimated), key=lambda step: step.iso)), origins=origins)


def _origins(made: parts.Part, before: parts.Part | None, given: Mapping[str, object]) -> Iterator[tuple[str, parts.Origin]]:
    """Where the figures of a part are from, as far as not by hand."""
    for name, about, default in abouts(type(made)):
        if about.sort not in {"number", "whole"}:
            continue
        if given.get(name) in (None, "") and getattr(made, name) is not None and default is not None:
            yield name, "book"
        elif before is not None and getattr(made, name) == getattr(before, name) and before.origin(name) != "by hand":
            yield name, before.origin(name)
    if isinstance(made, parts.Camera) and isinstance(before, parts.Camera):
        for step in made.iso_steps:
            origin = before.origin(parts.iso_field(step.iso))
            if step in before.iso_steps and origin != "by hand":
                yield parts.iso_field(step.iso), origin


def new_part(owner: AbstractBaseUser, part: parts.Part, row: Part | None = None) -> Part:
    """The row of a part, new or that of before, not yet stored."""
    kept = row or Part(owner_id=owner.pk, kind=part.KIND)
    values = plain(part)
    kept.name = values.pop("name").strip()
    kept.values = values
    kept.origins = dict(part.origins)
    return kept


@transaction.atomic
def keep_part(owner: AbstractBaseUser, part: parts.Part, row: Part | None = None) -> Part:
    """Store a part, new or over an old one. Raises InvalidInput for a name in use, or when a rig would no longer hold."""
    if row is not None and row.kind != part.KIND:
        raise InvalidInput([Fault("kind", part.KIND, f"“{row.name}” is a {row.kind} and stays one; add a new part instead.")])
    kept = new_part(owner, part, row)
    kept.refuse_a_second_of_its_name()
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
        cast(parts.Origin, row.star_origin),
    )


def snapshot_of(row: Rig) -> dict[str, Any]:
    """The numbers of a rig as they stand now, to be kept where they must not change any more."""
    placed = [
        {
            **{"kind": one.part.kind, "name": one.part.name, "values": one.part.values},
            **{"arm_mm": one.arm_mm, "along_mm": one.along_mm, "carried": one.carried},
        }
        for one in row.in_place
    ]
    return {"name": row.name, "star_fwhm_px": row.star_fwhm_px, "focal_mm": row.focal_mm, "placed": placed}


def rig_as_it_was(snapshot: Mapping[str, Any]) -> parts.Rig:
    """The rig of a snapshot. Raises InvalidInput should it not hold, or lack what a night needs."""
    placed = tuple(
        Placed(
            build(parts.KINDS[one["kind"]], {"name": one["name"], **one["values"]}), one["arm_mm"], one["along_mm"], one["carried"]
        )
        for one in snapshot["placed"]
    )
    return Assembly(snapshot["name"], placed, snapshot["star_fwhm_px"], snapshot["focal_mm"]).rig()


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


def as_chosen(user: AbstractBaseUser, row: Rig, filter_name: str | None) -> Assembly:
    """A rig with the filter that is chosen for the night. Raises InvalidInput."""
    return seen_through(assembly_of(row), filters_of(user) if filter_name else {}, filter_name)


def rig_of(row: Rig) -> parts.Rig:
    """The rig a night reckons with. Raises InvalidInput naming what it lacks."""
    return assembly_of(row).rig()


@transaction.atomic
def keep_iso_row(
    owner: AbstractBaseUser, rig: Rig, iso: int, step: parts.IsoStep | None, origin: parts.Origin = "learned"
) -> tuple[parts.IsoStep | None, parts.Origin]:
    """Put one row into the ISO table of a rig's camera, or take it out; what stood there before, and where it was from, is given
    back. A table without rows is estimated again.

    Raises InvalidInput when the rig has no camera.
    """
    row = next((one.part for one in rig.placements.all() if one.part.kind == parts.Camera.KIND), None)
    camera = part_of(row) if row else None
    if row is None or not isinstance(camera, parts.Camera):
        raise InvalidInput([Fault("rig", rig.name, f"{rig.name} has no camera; add it on the Bench.")])
    before = next((one for one in camera.iso_steps if one.iso == iso), None)
    others = [one for one in camera.iso_steps if one.iso != iso]
    table = sorted([*others, *([step] if step else [])], key=lambda one: one.iso)
    name = parts.iso_field(iso)
    origins = {one: where for one, where in camera.origins if one != name}
    if step is not None and origin != "by hand":
        origins[name] = origin
    keep_part(owner, replace(camera, iso_steps=tuple(table), origins=tuple(origins.items())), row)
    return before, camera.origin(name)


@transaction.atomic
def _learn(owner: AbstractBaseUser, rig: Rig, kind: type[P], values: Mapping[str, float | None], origin: parts.Origin) -> P:
    """Write some values and where they are from into a rig's part of a kind; the part as it was before is given back.

    Raises InvalidInput when the rig has none, or for values that no such part has.
    """
    row = next((one.part for one in rig.placements.all() if one.part.kind == kind.KIND), None)
    before = part_of(row) if row else None
    if row is None or not isinstance(before, kind):
        raise InvalidInput([Fault("rig", rig.name, f"{rig.name} has no {kind.KIND}; add it on the Bench.")])
    origins = {one: where for one, where in before.origins if one not in values}
    if origin != "by hand":
        origins |= dict.fromkeys(values, origin)
    changed: dict[str, Any] = {**values, "origins": tuple(origins.items())}
    keep_part(owner, replace(before, **changed), row)
    return before


def keep_periodic_error(
    owner: AbstractBaseUser, rig: Rig, half_amplitude_arcsec: float, period_s: float, origin: parts.Origin = "learned"
) -> tuple[float, float, parts.Origin]:
    """Write a periodic error into a rig's tracker; half amplitude, period and origin that stood there before are given back.

    Raises InvalidInput when the rig has no tracker, or for figures that no tracker has.
    """
    values = {"pe_half_amplitude_arcsec": half_amplitude_arcsec, "pe_period_s": period_s}
    before = _learn(owner, rig, parts.Tracker, values, origin)
    return before.pe_half_amplitude_arcsec, before.pe_period_s, before.origin("pe_half_amplitude_arcsec")


def keep_good_stops(
    owner: AbstractBaseUser, rig: Rig, f_best: float, f_best_narrow: float | None, origin: parts.Origin = "learned"
) -> tuple[float, float | None, parts.Origin]:
    """Write from which stops on a rig's lens is good; both stops and the origin that stood there before are given back.

    Raises InvalidInput when the rig has no lens, or for stops wider than it opens.
    """
    before = _learn(owner, rig, parts.Lens, {"f_best": f_best, "f_best_narrow": f_best_narrow}, origin)
    return before.f_best, before.f_best_narrow, before.origin("f_best")


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
    kept.name, kept.focal_mm = assembly.name.strip(), assembly.focal_mm
    kept.star_fwhm_px, kept.star_origin = assembly.star_fwhm_px, assembly.star_origin
    kept.refuse_a_second_of_its_name()
    kept.save()
    kept.placements.all().delete()
    Placement.objects.bulk_create(placements(kept, assembly, rows))
    return rigs_of(owner).get(pk=kept.pk)


@transaction.atomic
def keep_typical(owner: AbstractBaseUser, assembly: Assembly) -> Rig:
    """Store a rig with parts of its own, each under a name that is still free. Raises InvalidInput."""
    taken = set(Part.objects.of(owner).values_list("name", flat=True))
    names = {}
    for one in assembly.placed:
        names[one.name] = free_name(taken, one.name)
        taken.add(names[one.name])
        keep_part(owner, replace(one.part, name=names[one.name]))
    placed = tuple(
        replace(one, part=replace(one.part, name=names[one.name]), fed_by=names[one.fed_by] if one.fed_by else None)
        for one in assembly.placed
    )
    name = free_name(set(Rig.objects.of(owner).values_list("name", flat=True)), assembly.name)
    return keep_rig(owner, replace(assembly, name=name, placed=placed))


@transaction.atomic
def keep_with_another_lens(owner: AbstractBaseUser, like: Rig, lens: parts.Lens) -> Rig:
    """Store a rig of the same parts but for its lens, which is new. Raises InvalidInput."""
    mine = replace(lens, name=free_name(set(Part.objects.of(owner).values_list("name", flat=True)), lens.name))
    made = with_another_lens(assembly_of(like), mine)
    keep_part(owner, mine)
    name = free_name(set(Rig.objects.of(owner).values_list("name", flat=True)), made.name)
    return keep_rig(owner, replace(made, name=name))


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
