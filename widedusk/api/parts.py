"""The inventory."""

from collections.abc import Iterator
from typing import Annotated, Any

from django.db import transaction
from django.http import HttpRequest
from django.shortcuts import get_object_or_404
from ninja import Router, Schema, Status
from pydantic import Field

from widedusk.api.failures import FailureOut
from widedusk.api.removal import add_removal
from widedusk.api.schemas import Offset, Text, user_of
from widedusk.api.versions import ChangedOut, Version, to_change
from widedusk.core.kit.described import MOST_ROWS, Sort, abouts
from widedusk.core.kit.parts import KINDS, Origin
from widedusk.core.kit.units import Units
from widedusk.records.habits.services import units_of
from widedusk.records.kit.models import Part
from widedusk.records.kit.services import keep_part, parts_of, read_part

router = Router(tags=["parts"])

Scalar = bool | float | Annotated[str, Field(max_length=200)] | None
Value = Scalar | Annotated[list[dict[str, Scalar]], Field(max_length=MOST_ROWS)]


class FieldOut(Schema):
    """What a form needs to know about a field; `unit` is the one a bare number is taken in."""

    name: str
    label: str
    sort: Sort
    unit: str
    hint: str
    options: list[str]
    needed: bool
    default: str
    rows: "list[FieldOut]"


class KindOut(Schema):
    kind: str
    carried: bool
    fields: list[FieldOut]


class KindsOut(Schema):
    kinds: list[KindOut]


class PartIn(Schema):
    kind: Text
    values: Annotated[dict[str, Value], Field(max_length=40)]
    version: Version | None = None  # as it was opened; none: saved over whatever it is


class PartOut(Schema):
    id: int
    version: int
    kind: str
    name: str
    mass: str
    values: dict[str, Value]
    texts: dict[str, str]  # masses and lengths as this person writes them
    origins: dict[str, Origin]  # of values that nobody said by hand; a row of the ISO table as iso_steps.800
    used_by: list[str]
    archived: bool


def _fields(shape: type[Any], units: Units) -> Iterator[FieldOut]:
    for name, about, default in abouts(shape):
        plain_default = isinstance(default, (int, float)) and not isinstance(default, bool)
        shown = ""
        if plain_default:
            shown = units.field_text(default, about.dimension) if about.dimension else f"{default:g}"
        elif isinstance(default, (str, bool)):
            shown = {True: "yes", False: "no"}.get(default, str(default)) if isinstance(default, bool) else default
        yield FieldOut(
            name=name,
            label=about.label,
            sort=about.sort,
            unit=units.unit_of(about.dimension) or about.unit,
            hint=about.hint,
            options=list(about.options),
            needed=default is not None and not shown and about.sort != "rows",
            default=shown,
            rows=list(_fields(about.row, units)) if about.row else [],
        )


def part_out(row: Part, units: Units) -> PartOut:
    """A part as it is shown. Its values are those that were checked when it was kept."""
    dimensions = {name: about.dimension for name, about, _ in abouts(KINDS[row.kind]) if about.dimension}
    values = {"name": row.name, **row.values}
    return PartOut(
        id=row.pk,
        version=row.version,
        kind=row.kind,
        name=row.name,
        mass=units.mass_words(row.values["mass_g"]),
        values=values,
        texts={
            name: units.field_text(values[name], dimension)
            for name, dimension in dimensions.items()
            if values.get(name) is not None
        },
        origins=row.origins,
        used_by=row.rig_names(),
        archived=row.archived_at is not None,
    )


@router.get("/kinds", response=KindsOut)
def kinds(request: HttpRequest) -> KindsOut:
    """Every kind of part with the fields it needs; bounded by what the house knows."""
    units = units_of(user_of(request))
    return KindsOut(
        kinds=[KindOut(kind=kind, carried=shape.CARRIED, fields=list(_fields(shape, units))) for kind, shape in KINDS.items()]
    )


class PartsPage(Schema):
    items: list[PartOut]
    count: int


@router.get("", response=PartsPage)
def parts(
    request: HttpRequest,
    kind: str = "",
    words: Annotated[str, Field(max_length=120)] = "",
    archived: bool = False,
    limit: Annotated[int, Field(ge=1, le=200)] = 100,
    offset: Offset = 0,
) -> PartsPage:
    """Your parts, a page at a time; by kind, by words in the name, put away or not."""
    user = user_of(request)
    units = units_of(user)
    found = parts_of(user).filter(archived_at__isnull=not archived, name__icontains=words.strip())
    if kind:
        found = found.filter(kind=kind)
    return PartsPage(items=[part_out(row, units) for row in found[offset : offset + limit]], count=found.count())


@router.post("", response={201: PartOut, 422: FailureOut})
def add_part(request: HttpRequest, data: PartIn) -> Status[PartOut]:
    """Add a part to the inventory."""
    user = user_of(request)
    units = units_of(user)
    return Status(201, part_out(keep_part(user, read_part(data.kind, data.values, units)), units))


@router.put("/{int:record_id}", response={200: PartOut, 422: FailureOut, 404: FailureOut, 409: ChangedOut})
@transaction.atomic
def change_part(request: HttpRequest, record_id: int, data: PartIn) -> PartOut:
    """Change a part; rigs that use it follow."""
    user = user_of(request)
    units = units_of(user)
    row = to_change(parts_of(user), record_id, data.version, lambda one: part_out(one, units))
    return part_out(keep_part(user, read_part(data.kind, data.values, units, row), row), units)


class Away(Schema):
    away: bool


@router.post("/{int:record_id}/archive", response={200: PartOut, 404: FailureOut})
def archive_part(request: HttpRequest, record_id: int, data: Away) -> PartOut:
    """Put a part away, or take it out again; it stays in its rigs."""
    user = user_of(request)
    row = get_object_or_404(parts_of(user), pk=record_id)
    row.archive(data.away)
    return part_out(row, units_of(user))


def _shown(row: Part) -> PartOut:
    return part_out(row, units_of(row.owner))


add_removal(router, "part", Part, parts_of, PartOut, _shown)
