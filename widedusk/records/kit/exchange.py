"""Taking a kit from a file into a person's inventory without touching what is there."""

from dataclasses import dataclass, replace

from django.contrib.auth.models import AbstractBaseUser
from django.db import transaction

from widedusk.core.kit.assembly import Assembly
from widedusk.core.kit.exchange import Inventory
from widedusk.core.kit.parts import Part as CorePart
from widedusk.records.kit.models import Part, Placement, Rig
from widedusk.records.kit.services import assembly_of, free_name, new_part, part_of, placements, rigs_of


@dataclass(frozen=True)
class Taken:
    parts: tuple[Part, ...]
    rigs: tuple[Rig, ...]
    there: int  # of the file's parts and rigs, how many were here already
    renamed: tuple[str, ...]


def own_parts(user: AbstractBaseUser) -> dict[str, CorePart]:
    """Parts by name."""
    return {row.name: part_of(row) for row in Part.objects.of(user)}


def _renamed(rig: Assembly, names: dict[str, str], parts: dict[str, CorePart]) -> Assembly:
    placed = tuple(
        replace(one, part=parts[names.get(one.name, one.name)], fed_by=names.get(one.fed_by, one.fed_by) if one.fed_by else None)
        for one in rig.placed
    )
    return replace(rig, placed=placed)


@transaction.atomic
def take_in(owner: AbstractBaseUser, found: Inventory) -> Taken:
    """Add what is new. The same thing under the same name is used as it is; another thing of that name gets a number."""
    rows = {row.name: row for row in Part.objects.of(owner)}
    here = {name: part_of(row) for name, row in rows.items()}
    names: dict[str, str] = {}
    added: list[Part] = []
    rigs: list[Rig] = []
    placed: list[Placement] = []
    renamed: list[str] = []
    there = 0
    for part in found.parts:
        if here.get(part.name) == part:
            there += 1
            continue
        name = free_name(here, part.name)
        here[name] = replace(part, name=name)
        names[part.name] = name
        added.append(new_part(owner, here[name]))
        if name != part.name:
            renamed.append(f"{part.name} → {name}")
    rows |= {row.name: row for row in Part.objects.bulk_create(added)}
    before = {row.name: assembly_of(row) for row in rigs_of(owner)}
    taken = set(before)
    for rig in found.rigs:
        wanted = _renamed(rig, names, here)
        if before.get(rig.name) == wanted:
            there += 1
            continue
        name = free_name(taken, rig.name)
        taken.add(name)
        row = Rig(owner_id=owner.pk, name=name, star_fwhm_px=wanted.star_fwhm_px, focal_mm=wanted.focal_mm)
        rigs.append(row)
        placed += placements(row, wanted, rows)
        if name != rig.name:
            renamed.append(f"{rig.name} → {name}")
    Rig.objects.bulk_create(rigs)
    Placement.objects.bulk_create(placed)
    return Taken(tuple(added), tuple(rigs), there, tuple(renamed))
