"""What was gathered on earlier nights."""

from datetime import date

from django.http import HttpRequest
from django.shortcuts import get_object_or_404
from ninja import Router, Schema, Status
from ninja.pagination import paginate

from widedusk.api.failures import FailureOut
from widedusk.api.removal import add_removal
from widedusk.api.schemas import Number, Text, user_of
from widedusk.core.errors import Checks, Fault, InvalidInput
from widedusk.core.exposure import many
from widedusk.records.kit.services import NO_FILTER, filters_of
from widedusk.records.sessions.models import Session
from widedusk.records.sessions.services import keep_session, sessions_of
from widedusk.records.targets.services import targets_of

router = Router(tags=["sessions"])


class GatheredIn(Schema):
    """Kept frames of one night. iso, sky and filter may stay open: then they count as those of the setting in hand."""

    target: int
    night: date
    frames: int
    exposure_s: Number
    f_number: Number
    iso: int | None = None
    sky_mag: Number | None = None
    filter_name: Text = ""  # “none” for none; empty: as in hand


class GatheredOut(GatheredIn):
    id: int
    name: str

    @staticmethod
    def of(row: Session) -> "GatheredOut":
        return GatheredOut(
            id=row.pk,
            name=row.name,
            target=row.target_id,
            night=row.night,
            frames=row.frames,
            exposure_s=row.exposure_s,
            f_number=row.f_number,
            iso=row.iso,
            sky_mag=row.sky_mag,
            filter_name=row.filter_name,
        )


@router.get("", response=list[GatheredOut])
@paginate
def sessions(request: HttpRequest, target: int | None = None) -> list[GatheredOut]:
    """Your nights, of one target where it is given, the earliest first."""
    found = sessions_of(user_of(request))
    return [GatheredOut.of(row) for row in (found.filter(target_id=target) if target is not None else found)[:1000]]


def _keep(request: HttpRequest, data: GatheredIn, row: Session | None) -> GatheredOut:
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
    checked = many.Session(f"{data.night:%d %b %Y}", data.frames, data.exposure_s, data.f_number, None, data.sky_mag)
    return GatheredOut.of(keep_session(user, target, data.night, checked, data.iso, data.filter_name, row))


@router.post("", response={201: GatheredOut, 422: FailureOut})
def add_session(request: HttpRequest, data: GatheredIn) -> Status[GatheredOut]:
    """Note the kept frames of a night."""
    return Status(201, _keep(request, data, None))


@router.put("/{int:record_id}", response={200: GatheredOut, 422: FailureOut, 404: FailureOut})
def change_session(request: HttpRequest, record_id: int, data: GatheredIn) -> GatheredOut:
    """Change a night."""
    return _keep(request, data, get_object_or_404(sessions_of(user_of(request)), pk=record_id))


add_removal(router, "session", Session, sessions_of, GatheredOut, GatheredOut.of)
