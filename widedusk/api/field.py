"""The field: the night pack to take along, and the events that come back."""

from collections.abc import Mapping, Sequence
from dataclasses import replace
from datetime import date, datetime
from typing import Annotated, Any

import segno
from django.conf import settings
from django.contrib.auth.models import AbstractBaseUser
from django.http import HttpRequest
from django.shortcuts import get_object_or_404
from ninja import Query, Router, Schema
from pydantic import Field, ValidationError, ValidatorFunctionWrapHandler, WrapValidator
from pydantic_core import to_json

from widedusk.api.door import Spoilt
from widedusk.api.failures import FailureOut, FaultOut, faults_of, told
from widedusk.api.files import FileOut
from widedusk.api.nights import own_spot
from widedusk.api.one_file import one_file
from widedusk.api.plannings import replans_of, what_ifs_of
from widedusk.api.schemas import Moment, Number, Offset, user_of
from widedusk.core.errors import InvalidInput, storable
from widedusk.core.field.events import Device, Event, check_event, note_words, state_of
from widedusk.core.field.pack import Pack
from widedusk.jobs.queue import send_for_forecast
from widedusk.records.clock import now
from widedusk.records.nights.events import add_events, core_event, events_of, field_state
from widedusk.records.nights.keys import by_its_record, run_names, runs_by_key
from widedusk.records.nights.models import Night
from widedusk.records.nights.nights import night_of
from widedusk.records.nights.packed import pack_of

router = Router(tags=["field"])
MOST_AT_ONCE = 500
MOST_NOTES = 200
Key = Annotated[str, Field(min_length=8, max_length=64, pattern=r"^[A-Za-z0-9_-]+$")]
Value = str | int | float | bool | None


class EventShape(Schema):
    """One event as a device tells it; see docs/formats.md. What is wrong in one is told of that one, and the others are kept."""

    id: Key
    device: Key
    number: Annotated[int, Field(ge=0, le=2**31 - 1)]
    at: Moment
    offset_s: Number = 0.0
    kind: Annotated[str, Field(max_length=20)]
    subject: Annotated[str, Field(max_length=400)]
    data: Annotated[dict[Annotated[str, Field(max_length=40)], Value], Field(max_length=20)] = Field(default_factory=dict)

    def core(self) -> Event:
        event = Event(self.id, self.device, self.number, self.at, self.offset_s, self.kind, self.subject, self.data)  # type: ignore[arg-type]
        check_event(event)
        return event


class RefusedOut(Schema):
    id: str
    faults: list[FaultOut]


def _alone(given: Any, read: ValidatorFunctionWrapHandler) -> EventShape | RefusedOut:
    """An event whose shape is wrong is refused by itself."""
    try:
        event: EventShape = read(given)
    except ValidationError as caught:
        spoilt = given if isinstance(given, Spoilt) else Spoilt(given, tuple(faults_of(caught.errors())))
        named = spoilt.given.get("id", "") if isinstance(spoilt.given, Mapping) else ""
        return RefusedOut(id=storable(str(named))[:64], faults=[told(fault) for fault in spoilt.faults])
    return event


class EventsIn(Schema):
    """sent_at: by the clock of the device that sends them."""

    sent_at: Moment
    events: Annotated[Sequence[Annotated[EventShape, WrapValidator(_alone)]], Field(max_length=MOST_AT_ONCE)]


class EventsOut(Schema):
    """accepted: ids that are here now, those that were here before among them. offset_s: how far the device's clock is ahead."""

    accepted: list[str]
    refused: list[RefusedOut]
    now: datetime
    offset_s: float


class EventLine(Schema):
    id: str
    device: str
    number: int
    at: datetime
    offset_s: float
    kind: str
    subject: str
    data: dict[str, Any]


class EventLines(Schema):
    """As they came in."""

    items: list[EventLine]
    count: int
    now: datetime


class RunTold(Schema):
    """What was said of one run. name: as it is known here."""

    run: str
    name: str
    begun: datetime | None
    ended: datetime | None
    frames: int | None


class Apart(Schema):
    """A contradiction, and what it is about."""

    subject: str
    name: str
    words: str


class NoteOut(Schema):
    id: str
    moment: datetime
    words: str


class FieldNightOut(Schema):
    """The field of one night. night: nothing where none is stored; events: how many came in; notes: the latest first."""

    night: int | None
    planned: bool
    events: int
    runs: list[RunTold]
    contradictions: list[Apart]
    devices: list[Device]
    forgotten: list[str]
    checked: int
    notes: list[NoteOut]


def _night(request: HttpRequest, number: int) -> Night:
    return get_object_or_404(Night.objects.of(user_of(request)).select_related("spot__place"), pk=number)


def _packed(user: AbstractBaseUser, night: Night) -> Pack:
    what_ifs, more = what_ifs_of(user, night)
    replans, still_more = replans_of(user, night)
    return replace(pack_of(user, night, what_ifs, replans, send_for_forecast), more_to_come=more or still_more)


@router.get("/{int:record_id}/pack", response={200: Pack, 404: FailureOut, 422: FailureOut})
def night_pack(request: HttpRequest, record_id: int) -> Pack:
    """Everything that the field needs of a night, worked out now and frozen with a version."""
    user, night = user_of(request), _night(request, record_id)
    return _packed(user, night)


@router.post("/{int:record_id}/events", response={200: EventsOut, 404: FailureOut, 422: FailureOut})
def take_events(request: HttpRequest, record_id: int, data: EventsIn) -> EventsOut:
    """Add events, in any order and as often as one likes; nothing is ever overwritten."""
    user, night = user_of(request), _night(request, record_id)
    given: Sequence[EventShape | RefusedOut] = data.events
    refused = [one for one in given if isinstance(one, RefusedOut)]
    good = []
    for one in given:
        if isinstance(one, RefusedOut):
            continue
        try:
            good.append(one.core())
        except InvalidInput as caught:
            refused.append(RefusedOut(id=one.id, faults=[told(fault) for fault in caught.faults]))
    add_events(user, night, good)
    at = now()
    return EventsOut(accepted=[one.id for one in good], refused=refused, now=at, offset_s=(data.sent_at - at).total_seconds())


class EventsQuery(Schema):
    limit: Annotated[int, Field(ge=1, le=200)] = 200
    offset: Offset = 0


@router.get("/{int:record_id}/events", response={200: EventLines, 404: FailureOut, 422: FailureOut})
def events(request: HttpRequest, record_id: int, asked: Query[EventsQuery]) -> EventLines:
    """Events of a night as they came in, for another device and for the record."""
    night = _night(request, record_id)
    rows, runs = events_of(user_of(request), night), runs_by_key(night)
    page = rows[asked.offset : asked.offset + asked.limit]
    return EventLines(items=[_line(by_its_record(core_event(row), runs)) for row in page], count=rows.count(), now=now())


def _line(event: Event) -> EventLine:
    return EventLine(
        id=event.id,
        device=event.device,
        number=event.number,
        at=event.at,
        offset_s=event.offset_s,
        kind=event.kind,
        subject=event.subject,
        data=dict(event.data),
    )


class FieldNightQuery(Schema):
    spot: int
    night: date


@router.get("/field", response={200: FieldNightOut, 422: FailureOut})
def field_of_night(request: HttpRequest, asked: Query[FieldNightQuery]) -> FieldNightOut:
    """What the field told of a night so far: runs, contradictions, clocks."""
    user = user_of(request)
    night = night_of(user, own_spot(user, asked.spot), asked.night)
    events = 0 if night is None else events_of(user, night).count()
    by_key = {} if night is None else runs_by_key(night)
    state = state_of([]) if night is None else field_state(user, night, by_key)
    names = run_names(by_key)
    said = [(one, note_words(one)) for one in reversed(state.standing)]
    apart = [Apart(subject=one.subject, name=_about(one.subject, names), words=one.words) for one in state.contradictions]
    runs = [
        RunTold(run=one.run, name=names.get(one.run, one.run), begun=one.begun, ended=one.ended, frames=one.frames)
        for one in state.runs
    ]
    return FieldNightOut(
        night=night.pk if night else None,
        planned=night is not None and (bool(night.whole) or any(run.origin == "plan" for run in by_key.values())),
        events=events,
        runs=runs,
        contradictions=apart,
        devices=list(state.devices),
        forgotten=list(state.forgotten),
        checked=sum(one.startswith("step:") for one in state.checked),
        notes=[NoteOut(id=one.id, moment=one.moment, words=words) for one, words in said if words][:MOST_NOTES],
    )


def _about(subject: str, names: Mapping[str, str]) -> str:
    """ "run:2-3.0-0.1:ended" by the name of its run; a device by the beginning of its own."""
    kind, _, rest = subject.partition(":")
    if kind == "device":
        return f"Device {rest[:6]}"
    return names.get(rest.rpartition(":")[0], subject)


class ReachOut(Schema):
    """Where a phone finds the field. Without --lan it answers on this machine only, and the rest is empty. picture: of the address,
    as a code to be read with a camera; fingerprint: SHA-256 of the authority that was made here."""

    on_the_network: bool
    address: str
    picture: str
    authority_address: str
    fingerprint: str


@router.get("/{int:record_id}/reach", response={200: ReachOut, 404: FailureOut})
def reach(request: HttpRequest, record_id: int) -> ReachOut:
    """How a phone gets to the field of a night."""
    night = _night(request, record_id)
    lan = settings.WIDE_DUSK_LAN_ADDRESS
    if not lan:
        return ReachOut(on_the_network=False, address="", picture="", authority_address="", fingerprint="")
    address = f"{lan}field/#/{night.pk}"
    picture = segno.make(address, error="m").svg_data_uri(scale=4)
    fingerprint = settings.WIDE_DUSK_LAN_FINGERPRINT
    return ReachOut(
        on_the_network=True,
        address=address,
        picture=picture,
        authority_address=f"{lan}field/authority.crt",
        fingerprint=fingerprint,
    )


@router.get("/{int:record_id}/pack/file", response={200: FileOut, 404: FailureOut, 422: FailureOut})
def night_as_one_file(request: HttpRequest, record_id: int) -> FileOut:
    """The field with the pack of one night in it, as one page that opens by itself."""
    user, night = user_of(request), _night(request, record_id)
    page = one_file(to_json(_packed(user, night)).decode())
    return FileOut(name=f"night-{night.date}.html", media="text/html", text=page)
