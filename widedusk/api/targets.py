"""Targets."""

from django.http import HttpRequest
from django.shortcuts import get_object_or_404
from ninja import Router, Schema, Status
from ninja.pagination import paginate

from widedusk.api.failures import FailureOut
from widedusk.api.removal import add_removal
from widedusk.api.schemas import Number, Text, user_of
from widedusk.core.scene import Target as CoreTarget
from widedusk.records.owned import OwnedQuerySet
from widedusk.records.targets.models import Target
from widedusk.records.targets.services import keep_target, targets_of

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
    return targets_of(user_of(request))


@router.post("", response={201: TargetOut, 422: FailureOut})
def add_target(request: HttpRequest, data: TargetIn) -> Status[Target]:
    """Note a target."""
    return Status(201, keep_target(user_of(request), CoreTarget(**data.dict())))


@router.put("/{int:record_id}", response={200: TargetOut, 422: FailureOut, 404: FailureOut})
def change_target(request: HttpRequest, record_id: int, data: TargetIn) -> Target:
    """Change a target."""
    row = get_object_or_404(targets_of(user_of(request)), pk=record_id)
    return keep_target(user_of(request), CoreTarget(**data.dict()), row)


add_removal(router, "target", Target, targets_of, TargetOut)
