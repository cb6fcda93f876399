"""Rigs."""

from typing import Annotated, Literal

from django.http import HttpRequest
from django.shortcuts import get_object_or_404
from ninja import Router, Schema, Status
from ninja.pagination import paginate
from pydantic import Field

from widedusk.api.failures import FailureOut
from widedusk.api.schemas import Done, Number, Text, user_of
from widedusk.core.errors import InvalidInput
from widedusk.core.kit import parts
from widedusk.records.kit.models import Rig
from widedusk.records.kit.services import keep_rig, rigs_of
from widedusk.records.owned import OwnedQuerySet

router = Router(tags=["rigs"])


class IsoStepShape(Schema):
    iso: int
    read_noise_e: Number
    full_well_e: Number


class CameraShape(Schema):
    name: Text
    mass_g: Number
    width_mm: Number
    height_mm: Number
    pitch_um: Number
    raw_file_mb: Number
    response_nm: Number
    dark_e_s: Number
    iso_steps: Annotated[list[IsoStepShape], Field(max_length=40)]


class LensShape(Schema):
    name: Text
    mass_g: Number
    focal_mm: Number
    f_widest: Number
    f_best: Number


class TrackerShape(Schema):
    name: Text
    rating_g: Number
    rating_includes_counterweights: bool
    pe_half_amplitude_arcsec: Number
    pe_period_s: Number
    scope_view: Literal["upright", "inverted", "none"]


class CarriedShape(Schema):
    name: Text
    mass_g: Number
    counterweight: bool = False


class RigIn(Schema):
    name: Text
    camera: CameraShape
    lens: LensShape
    tracker: TrackerShape
    support: Literal["ball head", "bracket"]
    star_fwhm_px: Number = 2.5
    carried: Annotated[list[CarriedShape], Field(max_length=60)] = Field(default_factory=list)


class RigOut(RigIn):
    id: int


def _core(data: RigIn) -> parts.Rig:
    """The checked rig; the faults of all its parts are gathered before any is told."""
    faults = []
    made: list[object] = []
    for build in (
        lambda: parts.Camera(
            **data.camera.dict(exclude={"iso_steps"}),
            iso_steps=tuple(parts.IsoStep(**step.dict()) for step in data.camera.iso_steps),
        ),
        lambda: parts.Lens(**data.lens.dict()),
        lambda: parts.Tracker(**data.tracker.dict()),
    ):
        try:
            made.append(build())
        except InvalidInput as caught:
            faults += caught.faults
    carried = tuple(parts.Carried(**item.dict()) for item in data.carried)
    try:
        rig = parts.Rig(data.name, *made, data.support, data.star_fwhm_px, carried) if not faults else None  # type: ignore[arg-type, call-arg]
    except InvalidInput as caught:
        faults += caught.faults
    if faults or rig is None:
        raise InvalidInput(faults)
    return rig


@router.get("", response=list[RigOut])
@paginate
def rigs(request: HttpRequest) -> OwnedQuerySet[Rig]:
    """Your rigs."""
    return rigs_of(user_of(request))


@router.post("", response={201: RigOut, 422: FailureOut})
def add_rig(request: HttpRequest, data: RigIn) -> Status[Rig]:
    """Assemble a rig."""
    return Status(201, keep_rig(user_of(request), _core(data)))


@router.put("/{int:rig_id}", response={200: RigOut, 422: FailureOut, 404: FailureOut})
def change_rig(request: HttpRequest, rig_id: int, data: RigIn) -> Rig:
    """Change a rig and its parts."""
    row = get_object_or_404(rigs_of(user_of(request)), pk=rig_id)
    return keep_rig(user_of(request), _core(data), row)


@router.delete("/{int:rig_id}", response={200: Done, 404: FailureOut})
def delete_rig(request: HttpRequest, rig_id: int) -> Done:
    """Delete a rig; it can be brought back."""
    get_object_or_404(rigs_of(user_of(request)), pk=rig_id).delete_softly()
    return Done()


@router.post("/{int:rig_id}/restore", response={200: RigOut, 422: FailureOut, 404: FailureOut})
def restore_rig(request: HttpRequest, rig_id: int) -> Rig:
    """Undo a deletion."""
    row = get_object_or_404(Rig.objects.deleted_of(user_of(request)), pk=rig_id)
    row.bring_back()
    return rigs_of(user_of(request)).get(pk=row.pk)
