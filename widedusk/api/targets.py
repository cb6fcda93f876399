"""Targets."""

from django.http import HttpRequest
from django.shortcuts import get_object_or_404
from ninja import Router, Schema, Status
from ninja.pagination import paginate

from widedusk.api.failures import FailureOut
from widedusk.api.schemas import Done, Number, Text, user_of
from widedusk.core.scene import Target as CoreTarget
from widedusk.records.owned import OwnedQuerySet
from widedusk.records.targets.models import Target
from widedusk.records.targets.services import keep_target

router = Router(tags=["targets"])


class TargetIn(Schema):
    name: Text
    ra_deg: Number
    dec_deg: Number
    extent_deg: Number
    surface_mag: Number


class TargetOut(TargetIn):
    id: int


@router.get("", response=list[TargetOut])
@paginate
def targets(request: HttpRequest) -> OwnedQuerySet[Target]:
    """Your targets."""
    return Target.objects.of(user_of(request))


@router.post("", response={201: TargetOut, 422: FailureOut})
def add_target(request: HttpRequest, data: TargetIn) -> Status[Target]:
    """Note a target."""
    return Status(201, keep_target(user_of(request), CoreTarget(**data.dict())))


@router.put("/{int:target_id}", response={200: TargetOut, 422: FailureOut, 404: FailureOut})
def change_target(request: HttpRequest, target_id: int, data: TargetIn) -> Target:
    """Change a target."""
    row = get_object_or_404(Target.objects.of(user_of(request)), pk=target_id)
    return keep_target(user_of(request), CoreTarget(**data.dict()), row)


@router.delete("/{int:target_id}", response={200: Done, 404: FailureOut})
def delete_target(request: HttpRequest, target_id: int) -> Done:
    """Delete a target; it can be brought back."""
    get_object_or_404(Target.objects.of(user_of(request)), pk=target_id).delete_softly()
    return Done()


@router.post("/{int:target_id}/restore", response={200: TargetOut, 422: FailureOut, 404: FailureOut})
def restore_target(request: HttpRequest, target_id: int) -> Target:
    """Undo a deletion."""
    row = get_object_or_404(Target.objects.deleted_of(user_of(request)), pk=target_id)
    row.bring_back()
    return row
