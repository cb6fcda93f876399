"""Targets of one's own, the catalogue they can be taken from, and tables in and out."""

from typing import Annotated

from django.db import transaction
from django.http import HttpRequest
from ninja import File, Router, Schema, Status, UploadedFile
from ninja.pagination import paginate
from pydantic import Field

from widedusk.apart import readers
from widedusk.apart.process import read_apart
from widedusk.api.failures import FailureOut
from widedusk.api.files import Added, AddedOut, FileOut, content_of
from widedusk.api.removal import add_removal
from widedusk.api.schemas import Number, Offset, Text, user_of
from widedusk.api.versions import ChangedOut, Version, to_change
from widedusk.core.catalogue.catalogue import Entry, Origin, catalogue
from widedusk.core.errors import Fault, InvalidInput
from widedusk.core.files import TargetsFormat as Format
from widedusk.core.scene import KINDS, Light
from widedusk.core.scene import Target as CoreTarget
from widedusk.core.sky.sexagesimal import read_declination, read_right_ascension
from widedusk.records.owned import OwnedQuerySet
from widedusk.records.targets.models import Target
from widedusk.records.targets.services import keep_from_catalogue, keep_target, take_targets, target_of, targets_of

router = Router(tags=["targets"])
_MEDIA = {"csv": "text/csv", "ecsv": "text/csv", "votable": "application/x-votable+xml"}
_ENDING = {"csv": "csv", "ecsv": "ecsv", "votable": "vot"}


class TargetShape(Schema):
    name: Text
    ra_deg: Number
    dec_deg: Number
    extent_deg: Number
    surface_mag: Number
    width_deg: Number | None = None
    angle_deg: Number = 0.0
    kind: Annotated[str, Field(max_length=40)] = "other"
    light: Light = "both"
    numbers: Annotated[str, Field(max_length=240)] = ""
    constellation: Annotated[str, Field(max_length=3)] = ""


class TargetIn(TargetShape):
    """Right ascension and declination in degrees, or as they are written: 00h42m44s, +41°16′09″."""

    ra_deg: Number | Text  # type: ignore[assignment]
    dec_deg: Number | Text  # type: ignore[assignment]
    version: Version | None = None  # as it was opened; none: saved over whatever it is

    def core(self) -> CoreTarget:
        """Raises InvalidInput, of both angles at once."""
        faults: list[Fault] = []
        angles = {"ra_deg": 0.0, "dec_deg": 0.0}
        for name, read in (("ra_deg", read_right_ascension), ("dec_deg", read_declination)):
            try:
                angles[name] = read(getattr(self, name))
            except InvalidInput as refused:
                faults += refused.faults
        if faults:
            raise InvalidInput(faults)
        return CoreTarget(**{**self.dict(exclude={"version"}), **angles})


class TargetOut(TargetShape):
    id: int
    version: int
    catalogue_key: str


class EntryOut(TargetShape):
    """One entry of the catalogue."""

    key: str
    origin: Origin
    surface_measured: bool

    @staticmethod
    def of(entry: Entry) -> "EntryOut":
        return EntryOut(key=entry.key, origin=entry.origin, surface_measured=entry.surface_measured, **entry.target.__dict__)


@router.get("", response=list[TargetOut])
@paginate
def targets(request: HttpRequest) -> OwnedQuerySet[Target]:
    """Your targets."""
    return targets_of(user_of(request))


class TargetKindsOut(Schema):
    kinds: list[str]


@router.get("/kinds", response=TargetKindsOut)
def kinds(request: HttpRequest) -> TargetKindsOut:
    """Every kind of target."""
    return TargetKindsOut(kinds=list(KINDS))


class SearchOut(Schema):
    items: list[EntryOut]
    count: int


@router.get("/catalogue", response=SearchOut)
def search(
    request: HttpRequest,
    words: Annotated[str, Field(max_length=80)] = "",
    kind: Annotated[str, Field(max_length=40)] = "",
    limit: Annotated[int, Field(ge=1, le=100)] = 20,
    offset: Offset = 0,
) -> SearchOut:
    """Find objects by name, number or nickname, the nearest match first."""
    found = [one for one in catalogue().search(words) if not kind or one.target.kind == kind]
    return SearchOut(items=[EntryOut.of(one) for one in found[offset : offset + limit]], count=len(found))


class KeyIn(Schema):
    key: Annotated[str, Field(max_length=120)]


@router.post("/catalogue", response={200: TargetOut, 422: FailureOut})
def take_from_catalogue(request: HttpRequest, data: KeyIn) -> Target:
    """Make an entry of the catalogue one of your targets; one you have already is given back."""
    return keep_from_catalogue(user_of(request), data.key)


@router.get("/file/{form}", response={200: FileOut, 422: FailureOut})
def targets_file(request: HttpRequest, form: Format) -> FileOut:
    """Your targets as CSV, ECSV or VOTable."""
    given = [target_of(row) for row in targets_of(user_of(request))]
    return FileOut(name=f"targets.{_ENDING[form]}", media=_MEDIA[form], text=read_apart(readers.targets_text, given, form))


@router.post("/file", response={200: AddedOut, 422: FailureOut})
def take_targets_file(request: HttpRequest, file: File[UploadedFile]) -> AddedOut:
    """Add the targets of a CSV, ECSV or VOTable file. What is there already is not touched."""
    added, there = take_targets(user_of(request), read_apart(readers.targets, content_of(file)))
    return AddedOut(added=[Added(id=row.pk, name=row.name) for row in added], there=there)


@router.post("", response={201: TargetOut, 422: FailureOut})
def add_target(request: HttpRequest, data: TargetIn) -> Status[Target]:
    """Note a target."""
    return Status(201, keep_target(user_of(request), data.core()))


@router.put("/{int:record_id}", response={200: TargetOut, 422: FailureOut, 404: FailureOut, 409: ChangedOut})
@transaction.atomic
def change_target(request: HttpRequest, record_id: int, data: TargetIn) -> Target:
    """Change a target."""
    row = to_change(targets_of(user_of(request)), record_id, data.version, TargetOut.from_orm)
    return keep_target(user_of(request), data.core(), row)


add_removal(router, "target", Target, targets_of, TargetOut)
