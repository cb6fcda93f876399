"""What was kept of earlier nights, noted by hand."""

from datetime import date

from django.contrib.auth.models import AbstractBaseUser
from django.http import HttpRequest
from django.shortcuts import get_object_or_404
from ninja import Router, Schema, Status
from ninja.pagination import paginate

from widedusk.api.failures import FailureOut
from widedusk.api.removal import add_removal
from widedusk.api.schemas import Number, Text, Whole, user_of
from widedusk.core.errors import Checks, Fault, InvalidInput
from widedusk.core.exposure import many
from widedusk.core.sky.time import day_words
from widedusk.records.grounds.models import Spot
from widedusk.records.grounds.services import spots_of
from widedusk.records.kit.models import Rig
from widedusk.records.kit.services import NO_FILTER, filters_of, whole_rig_of
from widedusk.records.nights.models import Run
from widedusk.records.nights.runs import COUNTED, counted_frames, keep_noted, noted_of
from widedusk.records.targets.services import targets_of

router = Router(tags=["sessions"])


class GatheredIn(Schema):
    """Kept frames of one night. What stays open counts as the setting in use has it, the rig too."""

    target: int
    night: date
    frames: Whole
    exposure_s: Number
    f_number: Number
    iso: Whole | None = None
    sky_mag: Number | None = None
    filter_name: Text = ""  # “none” for none; empty: as in use
    rig: int | None = None  # that took them: kept with its numbers as they stand now
    spot: int | None = None


class GatheredOut(GatheredIn):
    id: int
    name: str
    rig_name: str  # empty where nobody said

    @staticmethod
    def of(row: Run) -> "GatheredOut":
        return GatheredOut(
            id=row.pk,
            name=row.name,
            target=row.target_id,
            night=row.night.date,
            frames=counted_frames(row),
            exposure_s=row.result.exposure_s or 0.0,
            f_number=row.result.f_number or 0.0,
            iso=row.result.iso,
            sky_mag=row.result.sky_mag,
            filter_name=row.result.filter_name,
            rig=row.rig_id,
            rig_name=row.snapshot.get("name", ""),
            spot=row.night.spot_id,
        )


@router.get("", response=list[GatheredOut])
@paginate
def sessions(request: HttpRequest, target: int | None = None) -> list[GatheredOut]:
    """Your nights, of one target where it is given, the earliest first."""
    found = noted_of(user_of(request))
    return [GatheredOut.of(row) for row in (found.filter(target_id=target) if target is not None else found)[:1000]]


def _taken(user: AbstractBaseUser, data: GatheredIn, row: Run | None) -> tuple[Rig | None, Spot | None]:
    """With which rig and where; what the night already has may have been deleted since."""
    rig = None if data.rig is None else whole_rig_of(user, data.rig)
    spot = None if data.spot is None else spots_of(user).filter(pk=data.spot).first()
    if row is not None and row.rig_id == data.rig:
        rig = row.rig
    if row is not None and row.night.spot_id == data.spot:
        spot = row.night.spot
    for name, value, found in (("rig", data.rig, rig), ("spot", data.spot, spot)):
        if value is not None and found is None:
            raise InvalidInput([Fault(name, value, f"You have no {name} number {value}; choose one from the list.")])
    return rig, spot


def _keep(request: HttpRequest, data: GatheredIn, row: Run | None) -> GatheredOut:
    user = user_of(request)
    target = targets_of(user).filter(pk=data.target).first()
    if target is None:
        raise InvalidInput([Fault("target", data.target, f"You have no target number {data.target}; choose one from the list.")])
    checks = Checks()
    if data.iso is not None:
        checks.within("iso", data.iso, 1, 1_000_000)
    if data.filter_name not in {"", NO_FILTER} and data.filter_name not in filters_of(user):
        checks.fault("filter_name", data.filter_name, f"You have no filter “{data.filter_name}”; choose one of yours, or “none”.")
    checks.done()
    checked = many.Session(day_words(data.night), data.frames, data.exposure_s, data.f_number, None, data.sky_mag)
    taken = _taken(user, data, row)
    return GatheredOut.of(keep_noted(user, target, data.night, checked, data.iso, data.filter_name, taken, row))


@router.post("", response={201: GatheredOut, 422: FailureOut})
def add_session(request: HttpRequest, data: GatheredIn) -> Status[GatheredOut]:
    """Note the kept frames of a night."""
    return Status(201, _keep(request, data, None))


@router.put("/{int:record_id}", response={200: GatheredOut, 422: FailureOut, 404: FailureOut})
def change_session(request: HttpRequest, record_id: int, data: GatheredIn) -> GatheredOut:
    """Change a night."""
    return _keep(request, data, get_object_or_404(noted_of(user_of(request)), pk=record_id))


add_removal(router, "session", Run, noted_of, GatheredOut, GatheredOut.of, state__in=COUNTED)
