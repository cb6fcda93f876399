"""Every alignment there was, and what a turn of a screw does."""

from dataclasses import replace
from datetime import date, datetime
from typing import Annotated, Literal

import numpy as np
from django.http import HttpRequest
from django.shortcuts import get_object_or_404
from ninja import Router, Schema, Status
from ninja.pagination import paginate
from pydantic import Field

from widedusk.api.choices import Context
from widedusk.api.failures import FailureOut
from widedusk.api.removal import add_removal
from widedusk.api.schemas import Number, Text, user_of
from widedusk.core.errors import Fault, InvalidInput
from widedusk.core.kit.parts import Tracker
from widedusk.core.pole.axis import AxisError, UsualAxis, aim, axis_words
from widedusk.core.pole.screws import learn_turn
from widedusk.core.pole.tolerance import METHODS
from widedusk.records.grounds.services import spot_of
from widedusk.records.kit import models as kit
from widedusk.records.kit.services import keep_part, part_of
from widedusk.records.nights.runs import rig_spot_and_target
from widedusk.records.owned import OwnedQuerySet
from widedusk.records.pole.models import Alignment
from widedusk.records.pole.services import alignments_of, axis_of, keep_alignment

router = Router(tags=["alignments"])


class TurnIn(Schema):
    rig: int
    screw: Literal["altitude", "azimuth"]
    turns: Number
    before: int  # alignments around the turn
    after: int


class TurnOut(Schema):
    degrees_a_turn: float
    sigma: float
    tracker: str


@router.post("/turn", response={200: TurnOut, 422: FailureOut})
def learn(request: HttpRequest, data: TurnIn) -> TurnOut:
    """Degrees a turn of a screw, out of two alignments around a known turn; kept with the tracker."""
    user = user_of(request)
    rows = alignments_of(user).in_bulk([data.before, data.after])
    missing = next((name for name in ("before", "after") if getattr(data, name) not in rows), "")
    rig = kit.Rig.objects.of(user).filter(pk=data.rig).first()
    if missing or rig is None:
        raise InvalidInput([Fault(missing or "rig", None, "Choose two alignments of this rig from the record.")])
    before, after = rows[data.before], rows[data.after]
    stood, stands = (_measured(name, row) for name, row in (("before", before), ("after", after)))
    height = float(np.degrees(aim(spot_of(after.spot).observer, "refracted")[0]))
    degrees, sigma = learn_turn(stood, stands, data.screw, data.turns, height)
    placed = rig.placements.filter(part__kind="tracker").select_related("part").first()
    if placed is None:
        raise InvalidInput([Fault("rig", rig.name, "This rig has no tracker to keep it with.")])
    part = placed.part
    known = part_of(part)
    if not isinstance(known, Tracker):
        raise InvalidInput([Fault("rig", rig.name, "This rig has no tracker to keep it with.")])
    learnt = round(degrees, 3)
    keep_part(
        user,
        replace(known, altitude_turn_deg=learnt) if data.screw == "altitude" else replace(known, azimuth_turn_deg=learnt),
        part,
    )
    return TurnOut(degrees_a_turn=degrees, sigma=sigma, tracker=part.name)


def _measured(field: str, row: Alignment) -> AxisError:
    axis = axis_of(row)
    if isinstance(axis, UsualAxis):
        raise InvalidInput([Fault(field, row.name, "Nobody measured this one; choose two that were measured.")])
    return axis


class AlignmentOut(Schema):
    id: int
    name: str
    rig: str
    spot: str
    night: str
    method: str
    measured_at: datetime
    error: AxisError | None  # as measured
    worst_arcmin: float | None  # of one that nobody measured: nine in ten stand nearer to the pole
    words: str
    touched: str

    @staticmethod
    def resolve_rig(row: Alignment) -> str:
        return row.rig.name

    @staticmethod
    def resolve_spot(row: Alignment) -> str:
        return str(row.spot)

    @staticmethod
    def resolve_night(row: Alignment) -> str:
        return row.night.isoformat()

    @staticmethod
    def resolve_error(row: Alignment) -> AxisError | None:
        axis = axis_of(row)
        return axis if isinstance(axis, AxisError) else None

    @staticmethod
    def resolve_words(row: Alignment) -> str:
        return axis_words(axis_of(row))


class KeptIn(Schema):
    context: Context
    method: Text  # key of a way of aligning that measures nothing
    touched: Annotated[str, Field(max_length=300)] = ""


class TouchedIn(Schema):
    touched: Annotated[str, Field(max_length=300)]


@router.get("", response=list[AlignmentOut])
@paginate
def alignments(
    request: HttpRequest, rig: int | None = None, spot: int | None = None, night: date | None = None
) -> OwnedQuerySet[Alignment]:
    """Every alignment, the latest first; of one rig, spot or night where given."""
    given = {"rig_id": rig, "spot_id": spot, "night": night}
    return alignments_of(user_of(request)).filter(**{name: value for name, value in given.items() if value})


@router.post("", response={201: AlignmentOut, 422: FailureOut})
def note_alignment(request: HttpRequest, data: KeptIn) -> Status[Alignment]:
    """Write down an alignment that was not measured: what the way it was done is known to leave, and not as a place."""
    user = user_of(request)
    rig, spot, _ = rig_spot_and_target(user, data.context.rig, data.context.spot, data.context.target)
    method = next((one for one in METHODS if one.key == data.method), None)
    if method is None:
        raise InvalidInput([Fault("method", data.method, f"Choose one of {', '.join(one.key for one in METHODS)}.")])
    unmeasured = UsualAxis(method.name, method.worst_arcmin)
    return Status(201, keep_alignment(user, rig, spot, data.context.night, method.name, unmeasured, data.touched))


@router.put("/{int:record_id}", response={200: AlignmentOut, 422: FailureOut, 404: FailureOut})
def note_touched(request: HttpRequest, record_id: int, data: TouchedIn) -> Alignment:
    """Note what was touched before an alignment."""
    row = get_object_or_404(alignments_of(user_of(request)), pk=record_id)
    row.touched = data.touched.strip()
    row.save(update_fields=("touched", "updated_at"))
    return row


add_removal(router, "alignment", Alignment, alignments_of, AlignmentOut)
