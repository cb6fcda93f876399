"""Inventory and rigs out to files, and in again."""

from typing import Literal

from django.http import HttpRequest
from ninja import File, Router, Schema, UploadedFile

from widedusk.apart import readers
from widedusk.apart.process import read_apart
from widedusk.api.failures import FailureOut
from widedusk.api.files import Added, FileOut, content_of
from widedusk.api.schemas import user_of
from widedusk.core.kit.exchange import kit_json, parts_csv, rigs_csv
from widedusk.records.kit.exchange import own_parts, take_in
from widedusk.records.kit.services import assembly_of, rigs_of

router = Router(tags=["exchange"])


class TakenOut(Schema):
    parts: list[Added]
    rigs: list[Added]
    there: int
    renamed: list[str]


@router.get("/{what}", response=FileOut)
def export(request: HttpRequest, what: Literal["kit.json", "parts.csv", "rigs.csv"]) -> FileOut:
    """All of it as JSON, or parts or rigs as a table."""
    user = user_of(request)
    parts = list(own_parts(user).values())
    if what == "parts.csv":
        return FileOut(name=what, media="text/csv", text=parts_csv(parts))
    rigs = [assembly_of(row) for row in rigs_of(user)]
    if what == "rigs.csv":
        return FileOut(name=what, media="text/csv", text=rigs_csv(rigs))
    return FileOut(name=what, media="application/json", text=kit_json(parts, rigs))


@router.post("", response={200: TakenOut, 422: FailureOut})
def take(request: HttpRequest, file: File[UploadedFile]) -> TakenOut:
    """Add what a file holds. What is there already is not touched."""
    user = user_of(request)
    found = take_in(user, read_apart(readers.kit, content_of(file), own_parts(user)))
    return TakenOut(
        parts=[Added(id=row.pk, name=row.name) for row in found.parts],
        rigs=[Added(id=row.pk, name=row.name) for row in found.rigs],
        there=found.there,
        renamed=list(found.renamed),
    )
