"""Rigs: parts in their places."""

from typing import Annotated, cast

from django.contrib.auth.models import AbstractBaseUser
from django.db import transaction
from django.http import HttpRequest
from ninja import Router, Schema, Status
from ninja.pagination import paginate
from pydantic import Field

from widedusk.api.failures import FailureOut
from widedusk.api.removal import add_removal
from widedusk.api.schemas import Number, Text, user_of
from widedusk.api.versions import ChangedOut, Version, to_change
from widedusk.core.errors import Fault, InvalidInput
from widedusk.core.kit.assembly import MOST_PARTS, Assembly, Placed, usual_place
from widedusk.core.kit.parts import USUAL_STAR_PX, Origin
from widedusk.records.habits.services import units_of
from widedusk.records.kit.models import Part, Placement, Rig
from widedusk.records.kit.services import keep_rig, part_of, rigs_of, shared_with
from widedusk.records.owned import OwnedQuerySet

router = Router(tags=["rigs"])


class PlacedIn(Schema):
    """A part by its number. What is left out stands as is usual for parts of its kind."""

    part: int
    arm_mm: Number | Annotated[str, Field(max_length=40)] | None = None
    along_mm: Number | Annotated[str, Field(max_length=40)] | None = None
    carried: bool | None = None
    fed_by: int | None = None


class RigIn(Schema):
    name: Text
    star_fwhm_px: Number | None = None  # none given: the usual, by the book
    focal_mm: Number | None = None
    version: Version | None = None  # as it was opened; none: saved over whatever it is
    placed: Annotated[list[PlacedIn], Field(max_length=MOST_PARTS)] = Field(default_factory=list)


class PlacedOut(Schema):
    part: int
    name: str
    kind: str
    arm_mm: float
    along_mm: float
    carried: bool
    fed_by: int | None
    archived: bool
    needs_current: bool
    zoom: bool
    shared_with: list[str]

    @staticmethod
    def resolve_part(row: Placement) -> int:
        return row.part_id

    @staticmethod
    def resolve_name(row: Placement) -> str:
        return row.part.name

    @staticmethod
    def resolve_kind(row: Placement) -> str:
        return row.part.kind

    @staticmethod
    def resolve_fed_by(row: Placement) -> int | None:
        return row.fed_by_id

    @staticmethod
    def resolve_archived(row: Placement) -> bool:
        return row.part.archived_at is not None

    @staticmethod
    def resolve_needs_current(row: Placement) -> bool:
        return part_of(row.part).draw() is not None

    @staticmethod
    def resolve_zoom(row: Placement) -> bool:
        return bool(row.part.values.get("focal_long_mm"))

    @staticmethod
    def resolve_shared_with(row: Placement) -> list[str]:
        return shared_with(row)


class RigOut(Schema):
    id: int
    version: int
    name: str
    star_fwhm_px: float
    star_origin: Origin
    focal_mm: float | None
    placed: list[PlacedOut]
    f_best: float | None
    isos: list[int]

    @staticmethod
    def resolve_placed(row: Rig) -> list[Placement]:
        return list(row.placements.all())

    @staticmethod
    def resolve_f_best(row: Rig) -> float | None:
        lenses = [one.part.values["f_best"] for one in row.placements.all() if one.part.kind == "lens"]
        return lenses[0] if lenses else None

    @staticmethod
    def resolve_isos(row: Rig) -> list[int]:
        cameras = [one.part.values["iso_steps"] for one in row.placements.all() if one.part.kind == "camera"]
        return [step["iso"] for step in cameras[0]] if cameras else []


def assembly_from(user: AbstractBaseUser, data: RigIn, kept: Rig | None = None) -> Assembly:
    """The checked assembly of this person's parts. Raises InvalidInput, also for parts of others."""
    wanted = {one.part for one in data.placed} | {one.fed_by for one in data.placed if one.fed_by}
    rows = {row.pk: row for row in Part.objects.of(user).filter(pk__in=wanted)}
    parts = {number: part_of(row) for number, row in rows.items()}
    units = units_of(user)
    faults: list[Fault] = []

    def length(given: float | str | None, usual: float, field: str) -> float:
        if given is None:
            return usual
        if isinstance(given, (int, float)):
            return float(given)
        try:
            return units.read(given, "length")
        except ValueError:
            faults.append(Fault(field, given, "This is no length; write it like 120 mm or 4.5 in."))
            return 0.0

    placed = []
    for place, one in enumerate(data.placed):
        row, supply = rows.get(one.part), rows.get(one.fed_by) if one.fed_by else None
        if row is None or (one.fed_by and supply is None):
            missing = one.part if row is None else one.fed_by
            faults.append(
                Fault(f"placed.{place}.part", missing, f"You have no part number {missing}; choose one from the inventory.")
            )
            continue
        part = parts[row.pk]
        usual = usual_place(part, list(parts.values()))
        arm = length(one.arm_mm, usual[0], f"placed.{place}.arm_mm")
        along = length(one.along_mm, usual[1], f"placed.{place}.along_mm")
        carried = part.CARRIED if one.carried is None else one.carried
        placed.append(Placed(part, arm, along, carried, supply.name if supply else None))
    if faults:
        raise InvalidInput(faults)
    star, origin = (data.star_fwhm_px, "by hand") if data.star_fwhm_px is not None else (USUAL_STAR_PX, "book")
    if kept is not None and star == kept.star_fwhm_px:
        origin = kept.star_origin
    return Assembly(data.name, tuple(placed), star, data.focal_mm, cast(Origin, origin))


@router.get("", response=list[RigOut])
@paginate
def rigs(request: HttpRequest) -> OwnedQuerySet[Rig]:
    """Your rigs."""
    return rigs_of(user_of(request))


@router.post("", response={201: RigOut, 422: FailureOut})
def add_rig(request: HttpRequest, data: RigIn) -> Status[Rig]:
    """Assemble a rig."""
    user = user_of(request)
    return Status(201, keep_rig(user, assembly_from(user, data)))


@router.put("/{int:record_id}", response={200: RigOut, 422: FailureOut, 404: FailureOut, 409: ChangedOut})
@transaction.atomic
def change_rig(request: HttpRequest, record_id: int, data: RigIn) -> Rig:
    """Change a rig and where its parts sit."""
    user = user_of(request)
    row = to_change(rigs_of(user), record_id, data.version, RigOut.from_orm)
    return keep_rig(user, assembly_from(user, data, row), row)


add_removal(router, "rig", Rig, rigs_of, RigOut)
