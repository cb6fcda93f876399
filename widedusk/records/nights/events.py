"""Keeping what was taken down out there."""

import logging
from collections.abc import Iterable, Sequence
from datetime import datetime

from django.contrib.auth.models import AbstractBaseUser
from django.db import models, transaction

from widedusk.core.errors import Fault, InvalidInput
from widedusk.core.field.events import Event as CoreEvent
from widedusk.core.field.events import FieldState, RunTold, can_be_read, state_of
from widedusk.core.plan.packing import key_of
from widedusk.core.runs.facts import Value
from widedusk.records.clock import now
from widedusk.records.nights.facts import fact_of, facts_from, save_facts
from widedusk.records.nights.keys import by_its_record, key_of_run, run_of, runs_by_key
from widedusk.records.nights.models import Event, Night, Run, RunFact

log = logging.getLogger(__name__)
OF_RUNS = {"begun", "ended", "paused", "resumed", "checked", "put off", "taken back"}  # kinds that may change what a run is
MOST_EVENTS = 20_000  # of one night
MAX_TICKS = 2_000  # of earlier nights, from which it is learned how long a step takes


def events_of(user: AbstractBaseUser, night: Night) -> models.QuerySet[Event]:
    """As they came in."""
    return Event.objects.filter(owner_id=user.pk, night=night)


def core_event(row: Event) -> CoreEvent:
    """As the core has it."""
    told = (row.event_id, row.device, row.number, row.at, row.offset_s, row.kind, row.subject, row.data, row.received_at)
    return CoreEvent(*told)  # type: ignore[arg-type]


def field_state(user: AbstractBaseUser, night: Night, runs: dict[str, Run] | None = None) -> FieldState:
    """What all events of a night come to; one that cannot be read, kept by an older release, is left out and spoils no other.

    runs: of the night by their keys, where they are at hand."""
    by_key = runs_by_key(night) if runs is None else runs
    every = [by_its_record(core_event(row), by_key) for row in events_of(user, night).iterator()]
    sound = [one for one in every if can_be_read(one)]
    if len(sound) < len(every):
        log.warning("%s events of night %s cannot be read", len(every) - len(sound), night.pk)
    return state_of(sound)


def ticked_before(user: AbstractBaseUser, night: Night) -> list[list[tuple[datetime, str]]]:
    """When which step was ticked, night by night, in the last nights before this one: from it is learned how long a step takes."""
    rows = Event.objects.filter(owner_id=user.pk, kind="checked", night__date__lt=night.date, night__deleted_at=None)
    ticked: dict[int, list[tuple[datetime, str]]] = {}
    for row in rows.order_by("-night__date", "id")[:MAX_TICKS]:
        event = core_event(row)
        if can_be_read(event):
            ticked.setdefault(row.night_id, []).append((event.moment, event.subject.removeprefix("step:")))
    return list(ticked.values())


@transaction.atomic
def add_events(user: AbstractBaseUser, night: Night, events: Sequence[CoreEvent]) -> None:
    """Add those that are not there yet. Raises InvalidInput where a night cannot hold so many."""
    Night.objects.select_for_update().get(pk=night.pk)
    there = events_of(user, night)
    if there.count() + len(events) > MOST_EVENTS:
        raise InvalidInput([Fault("events", len(events), f"One night holds {MOST_EVENTS} events; this would be more.")])
    at, runs = now(), runs_by_key(night)
    rows = [
        Event(
            owner_id=user.pk,
            night=night,
            run=run_of(one.subject, runs),
            event_id=one.id,
            device=one.device,
            number=one.number,
            at=one.at,
            offset_s=one.offset_s,
            kind=one.kind,
            subject=one.subject,
            data=dict(one.data),
            received_at=at,
        )
        for one in events
    ]
    Event.objects.bulk_create(rows, ignore_conflicts=True, batch_size=1000)
    if any(one.kind in {"forgotten", "taken back"} for one in events):
        _remember_forgotten(user, night)
    if any(one.kind in OF_RUNS for one in events):
        advance_runs(user, night, runs)


def advance_runs(user: AbstractBaseUser, night: Night, runs: dict[str, Run]) -> None:
    """Let the phones say what they say of the runs of a night: all of it, so that what was taken back is gone. They count their
    statements by how many events there are."""
    told = field_state(user, night, runs)
    order = events_of(user, night).count()
    by_run = {one.run: one for one in told.runs}
    stored: dict[int, dict[str, Value]] = {}
    for row in RunFact.objects.filter(run__night=night, source="phone"):
        stored.setdefault(row.run_id, {})[row.figure] = fact_of(row).value
    for key, run in runs.items():
        if key != key_of_run(run.pk):
            continue
        said = by_run.get(key)
        values: dict[str, Value] = {
            "begins_at": said.begun if said else None,
            "ends_at": said.ended if said else None,
            "frames": _frames_said(said) if said else None,
            "skipped": True if f"step:run:{key}" in told.put_off else None,
        }
        if values != {name: stored.get(run.pk, {}).get(name) for name in values}:
            save_facts(run, facts_from("phone", values, order))


def _frames_said(said: RunTold) -> int | None:
    """Those of the end; of a run that stopped for clouds and did not end, those before."""
    return said.frames if said.frames is not None else said.pauses[-1].frames if said.pauses else None


def _remember_forgotten(user: AbstractBaseUser, night: Night) -> None:
    """What stayed at home goes to the next packing list; what was taken back does not."""
    told = {str(words).strip() for words in _words(events_of(user, night).filter(kind="forgotten"))}
    standing = set(field_state(user, night).forgotten)
    night.refresh_from_db()
    forgotten = {key: name for key, name in night.forgotten.items() if key not in {key_of(one) for one in told - standing}}
    night.forgotten = {**forgotten, **{key_of(one): one[:140] for one in sorted(standing)}}
    night.save(update_fields=("forgotten", "updated_at"))


def _words(rows: models.QuerySet[Event]) -> Iterable[object]:
    return (data.get("words", "") for data in rows.values_list("data", flat=True))
