"""What was done and seen out there, as events that are only ever added; and what they come to.

    device A  ──e1──e3──┐
                        ├──> a set of events ──> the stated order ──> the state
    device B  ────e2────┘

**The order**: by the moment as the server's clock would have told it (the device's clock less its offset), then by the device's
name, then by its own count, then by the event's id. The state is a function of the set alone, so it does not matter in which order,
how often and in how many parts events arrive.

**The last word on a subject stands.** A subject is what an event is about: a step, the beginning of a run, its end. What was said
before is kept and shown. An event that takes another one back silences it. Where two devices say different things of one run, that
is a contradiction: the last word stands, and both are shown.
"""

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import UTC, datetime, timedelta
from typing import Any, Literal

from widedusk.core.errors import Checks, storable, unstorable
from widedusk.core.judge.causes import cause_named
from widedusk.core.number_text import parse_number

Kind = Literal[
    "checked",
    "put off",
    "begun",
    "paused",
    "resumed",
    "ended",
    "acknowledged",
    "seen",
    "touched",
    "forgotten",
    "noted",
    "wrong",
    "otherwise",
    "taken back",
]
KINDS: tuple[Kind, ...] = (
    "checked",
    "put off",
    "begun",
    "paused",
    "resumed",
    "ended",
    "acknowledged",
    "seen",
    "touched",
    "forgotten",
    "noted",
    "wrong",
    "otherwise",
    "taken back",
)
SEEN = ("cloud", "wind", "seeing", "temperature", "other")
MOST_WORDS = 2_000
MOST_SUBJECT = 120
MOST_FRAMES = 100_000
MOST_OFFSET_S = 400 * 86_400.0
AGREE = timedelta(minutes=2)  # two devices that tell one moment so far apart mean the same. Our own
AHEAD = timedelta(minutes=2)  # an event later than when it arrived by more than this is from a clock that is ahead
EARLIEST, LATEST = datetime(1990, 1, 1, tzinfo=UTC), datetime(2100, 1, 1, tzinfo=UTC)  # of clocks; beyond them no sum holds
OFF_S = 120.0  # a device's clock that is off by more than this is told about
CLOCK_ASTRAY = f"This is no year of a night out; give a moment from {EARLIEST.year} to {LATEST.year - 1}."


@dataclass(frozen=True)
class Event:
    """id, device: made on the device; number: its own count. at: by the device's clock; offset_s: how far that clock was ahead of
    the server's when they last spoke. subject: what it is about. received: when the server first had it; none before."""

    id: str
    device: str
    number: int
    at: datetime
    offset_s: float
    kind: Kind
    subject: str
    data: Mapping[str, Any] = field(default_factory=dict)
    received: datetime | None = None

    @property
    def moment(self) -> datetime:
        """As the server's clock would have told it."""
        return self.at - timedelta(seconds=self.offset_s)

    @property
    def place(self) -> tuple[datetime, str, int, str]:
        """In the stated order."""
        return self.moment, self.device, self.number, self.id


def check_event(event: Event) -> None:
    """Raises InvalidInput naming every field that cannot be."""
    checks = Checks()
    if event.kind not in KINDS:
        checks.fault("kind", event.kind, f"“{event.kind}” is not known; it is one of {', '.join(KINDS)}.")
    if not EARLIEST < event.at < LATEST:
        checks.fault("at", event.at.isoformat(), CLOCK_ASTRAY)
    checks.within("offset_s", event.offset_s, -MOST_OFFSET_S, MOST_OFFSET_S, "s")
    checks.line("subject", event.subject, MOST_SUBJECT)
    if not event.subject.strip():
        checks.fault("subject", event.subject, "An event is about something; name it.")
    _check_values(event.data, checks)
    CHECKED.get(event.kind, _nothing_more)(event.data, checks)
    checks.done()


def _check_values(data: Mapping[str, Any], checks: Checks) -> None:
    if len(data) > 8:
        checks.fault("data", len(data), "An event holds up to eight values.")
    for name, value in data.items():
        if found := unstorable(name):
            checks.fault(f"data.{storable(name)}", storable(name), f"The character {found} in it cannot be kept; take it out.")
        if isinstance(value, str):
            if found := unstorable(value):
                checks.fault(f"data.{name}", value, f"The character {found} in it cannot be kept; take it out.")
            elif len(value) > MOST_WORDS:
                checks.fault(f"data.{name}", value[:60], f"This is too long; keep it to {MOST_WORDS} characters.")
        elif value is not None and not isinstance(value, bool):
            try:
                parse_number(value)
            except ValueError as caught:
                checks.fault(f"data.{name}", str(value)[:60], f"{caught} Words may stand here too.")


def _moment_in(data: Mapping[str, Any], name: str, checks: Checks) -> None:
    try:
        given = datetime.fromisoformat(str(data.get(name, "")))
        if given.tzinfo is None:
            raise ValueError
    except ValueError:
        told = "Give the moment with its zone, like 2026-12-08T20:15:00Z."
        checks.fault(f"data.{name}", data.get(name), told)
    else:
        if not EARLIEST < given < LATEST:
            checks.fault(f"data.{name}", data.get(name), CLOCK_ASTRAY)


def _nothing_more(data: Mapping[str, Any], checks: Checks) -> None:
    """Whatever values it has."""


def _check_beginning(data: Mapping[str, Any], checks: Checks) -> None:
    _moment_in(data, "at", checks)


def _check_end(data: Mapping[str, Any], checks: Checks) -> None:
    _moment_in(data, "at", checks)
    frames = data.get("frames")
    if isinstance(frames, bool) or not isinstance(frames, int):
        checks.fault("data.frames", frames, "Say how many frames there are, as a whole number.")
    else:
        checks.within("data.frames", frames, 0, MOST_FRAMES)


def _check_pause(data: Mapping[str, Any], checks: Checks) -> None:
    """As an end: when it stopped and with how many frames; or when it went on and how many are to follow."""
    _check_end(data, checks)


def _check_seen(data: Mapping[str, Any], checks: Checks) -> None:
    if data.get("what") not in SEEN:
        checks.fault("data.what", data.get("what"), f"What was seen is one of {', '.join(SEEN)}.")


def _check_words(data: Mapping[str, Any], checks: Checks) -> None:
    if not str(data.get("words") or "").strip():
        checks.fault("data.words", data.get("words"), "There are no words in it.")


def _check_taken_back(data: Mapping[str, Any], checks: Checks) -> None:
    if not isinstance(data.get("event"), str):
        checks.fault("data.event", data.get("event"), "Say which event is taken back, by its id.")


CHECKED: dict[str, Callable[[Mapping[str, Any], Checks], None]] = {
    "begun": _check_beginning,
    "ended": _check_end,
    "paused": _check_pause,
    "resumed": _check_pause,
    "seen": _check_seen,
    "noted": _check_words,
    "forgotten": _check_words,
    "taken back": _check_taken_back,
}


@dataclass(frozen=True)
class Pause:
    """A run that was stopped for cloud. frames: taken before it, in all; follow: set on the timer when it went on."""

    begun: datetime
    frames: int
    ended: datetime | None = None
    follow: int | None = None


@dataclass(frozen=True)
class RunTold:
    """What was said of one run. begun, ended: as the server's clock would have told it. pauses: in order; the last may go on."""

    run: str
    begun: datetime | None
    ended: datetime | None
    frames: int | None
    by: str  # the device of the last word
    pauses: tuple[Pause, ...] = ()


@dataclass(frozen=True)
class Contradiction:
    subject: str
    words: str
    events: tuple[str, ...]  # ids of what contradicts one another


@dataclass(frozen=True)
class Device:
    """offset_s: how far its clock is ahead, as last told."""

    device: str
    events: int
    offset_s: float
    words: str  # what is wrong with its clock; empty when it goes right


@dataclass(frozen=True)
class FieldState:
    """What all events of a night come to."""

    checked: tuple[str, ...]  # steps
    put_off: tuple[str, ...]
    acknowledged: tuple[str, ...]  # cues
    runs: tuple[RunTold, ...]
    forgotten: tuple[str, ...]
    contradictions: tuple[Contradiction, ...]
    devices: tuple[Device, ...]
    standing: tuple[Event, ...]  # in the stated order, without what was taken back


def once_each(events: Iterable[Event]) -> list[Event]:
    """Each id once, in the stated order. Of two with one id, which no device makes, the first in that order stays."""
    found: dict[str, Event] = {}
    for event in sorted(events, key=lambda one: (one.place, repr(sorted(one.data.items())))):
        found.setdefault(event.id, event)
    return list(found.values())


def _said(event: Event) -> datetime:
    """The moment that an event tells, as the server's clock would have told it."""
    told = event.data.get("at")
    if told is None:
        return event.moment
    return datetime.fromisoformat(str(told)) - timedelta(seconds=event.offset_s)


def can_be_read(event: Event) -> bool:
    """Whether its moments are ones that can be reckoned with: some were kept before that was asked of an event."""
    try:
        return EARLIEST <= event.moment < LATEST and EARLIEST <= _said(event) < LATEST
    except (OverflowError, ValueError, TypeError):
        return False


def _run_of(subject: str) -> str:
    """ "run:3:begun" is of run 3."""
    return subject.split(":")[1] if subject.count(":") >= 2 else subject


def state_of(events: Iterable[Event]) -> FieldState:
    """The state of a night. A function of the set of its events: their order, doubles and split do not matter."""
    ordered = once_each(events)
    back = _taken_back(ordered)
    standing = [one for one in ordered if one.id not in back and one.kind != "taken back"]
    last: dict[tuple[str, str], Event] = {}
    for event in standing:
        last[(_about(event.kind), event.subject)] = event
    steps = [event for (about, _), event in sorted(last.items()) if about == "step"]
    forgotten = {str(event.data["words"]).strip(): None for event in standing if event.kind == "forgotten"}
    return FieldState(
        tuple(one.subject for one in steps if one.kind == "checked"),
        tuple(one.subject for one in steps if one.kind == "put off"),
        tuple(sorted({one.subject for one in standing if one.kind == "acknowledged"})),
        _runs(last, standing),
        tuple(forgotten),
        (*_disagreements(standing), *_impossible(last), *_ahead(ordered)),
        _devices(ordered),
        tuple(standing),
    )


def _about(kind: Kind) -> str:
    return {"checked": "step", "put off": "step", "begun": "begun", "ended": "ended"}.get(kind, kind)


def _taken_back(ordered: Sequence[Event]) -> set[str]:
    """Ids silenced. What takes back can itself be taken back: from the last to the first, each that stands silences its own."""
    silenced: set[str] = set()
    for event in reversed(ordered):
        if event.kind == "taken back" and event.id not in silenced:
            silenced.add(str(event.data["event"]))
    return silenced


def _runs(last: Mapping[tuple[str, str], Event], standing: Sequence[Event]) -> tuple[RunTold, ...]:
    found: dict[str, RunTold] = {}
    for (about, subject), event in sorted(last.items(), key=lambda one: one[1].place):
        if about not in {"begun", "ended"}:
            continue
        run = _run_of(subject)
        told = found.get(run) or RunTold(run, None, None, None, "")
        if about == "begun":
            found[run] = replace(told, begun=_said(event), by=event.device)
        else:
            found[run] = replace(told, ended=_said(event), frames=int(event.data["frames"]), by=event.device)
    for run, pauses in _pauses(standing).items():
        found[run] = replace(found.get(run) or RunTold(run, None, None, None, ""), pauses=pauses)
    return tuple(found[run] for run in sorted(found))


def _pauses(standing: Sequence[Event]) -> dict[str, tuple[Pause, ...]]:
    """Of each run. What is said again of a pause that goes on, or of how the last one ended, is the last word on it."""
    found: dict[str, list[Pause]] = {}
    for event in standing:
        if event.kind not in {"paused", "resumed"}:
            continue
        pauses, frames = found.setdefault(_run_of(event.subject), []), int(event.data["frames"])
        if event.kind == "paused":
            if pauses and pauses[-1].ended is None:
                pauses.pop()
            pauses.append(Pause(_said(event), frames))
        elif pauses:
            pauses[-1] = replace(pauses[-1], ended=_said(event), follow=frames)
    return {run: tuple(pauses) for run, pauses in found.items() if pauses}


def _disagreements(standing: Sequence[Event]) -> list[Contradiction]:
    """Where devices say different things of one run: of each device its last word."""
    words: dict[tuple[str, str], dict[str, Event]] = {}
    for event in standing:
        if event.kind in {"begun", "ended"}:
            words.setdefault((event.kind, event.subject), {})[event.device] = event
    found = []
    for (kind, subject), of_devices in sorted(words.items()):
        told = sorted(of_devices.values(), key=lambda one: one.place)
        moments = [_said(one) for one in told]
        counts = {one.data.get("frames") for one in told if kind == "ended"}
        if len(told) > 1 and (max(moments) - min(moments) > AGREE or len(counts) > 1):
            what = f"Two devices say different {'beginnings' if kind == 'begun' else 'ends'} of this run."
            found.append(Contradiction(subject, what, tuple(one.id for one in told)))
    return found


def _impossible(last: Mapping[tuple[str, str], Event]) -> list[Contradiction]:
    """A run that ended before it began, or that nobody began."""
    found = []
    for (about, subject), end in sorted(last.items()):
        if about != "ended":
            continue
        begin = next((one for (kind, of), one in last.items() if kind == "begun" and _run_of(of) == _run_of(subject)), None)
        if begin is None:
            found.append(Contradiction(subject, "This run has an end, and nobody said when it began.", (end.id,)))
        elif _said(end) < _said(begin):
            found.append(Contradiction(subject, "This run ends before it begins.", (begin.id, end.id)))
    return found


def _ahead(ordered: Sequence[Event]) -> list[Contradiction]:
    """Events that arrived before they happened."""
    ahead = [one for one in ordered if one.received is not None and one.moment - one.received > AHEAD]
    devices: dict[str, list[str]] = {}
    for event in ahead:
        devices.setdefault(event.device, []).append(event.id)
    return [
        Contradiction(f"device:{device}", "The clock of this device is ahead: it told events before they happened.", tuple(ids))
        for device, ids in sorted(devices.items())
    ]


def _devices(ordered: Sequence[Event]) -> tuple[Device, ...]:
    found: dict[str, Device] = {}
    for event in ordered:
        had = found.get(event.device)
        found[event.device] = Device(event.device, (had.events if had else 0) + 1, event.offset_s, clock_words(event.offset_s))
    return tuple(found[one] for one in sorted(found))


def note_words(event: Event) -> str:
    """What an event says in words, where it says anything that is worth reading again; empty where it does not."""
    data = event.data
    if event.kind == "seen":
        return f"{data.get('what')}: {data.get('value', '')}".rstrip(": ")
    if event.kind in {"paused", "resumed"}:
        return f"Paused after {data.get('frames')} frames" if event.kind == "paused" else f"Went on for {data.get('frames')} frames"
    if event.kind in {"noted", "touched", "forgotten"}:
        prefix = {"touched": "Touched: ", "forgotten": "Forgot: "}.get(event.kind, "")
        return f"{prefix}{data.get('words', '')}".strip()
    if event.kind == "wrong":
        cause = cause_named(str(data.get("cause")))
        return f"Something was wrong: {cause.name if cause else data.get('symptom', '')}"
    if event.kind == "otherwise":
        sub = data.get("exposure_s")
        return f"Replanned: {sub:g} s subs" if isinstance(sub, (int, float)) else f"Replanned: {data.get('what', '')}"
    return ""


def clock_words(offset_s: float) -> str:
    """What to say of a clock that is off; empty when it goes right."""
    if abs(offset_s) <= OFF_S:
        return ""
    minutes = abs(offset_s) / 60.0
    far = f"{minutes:.0f} min" if minutes < 120.0 else f"{minutes / 60.0:.1f} h"
    return f"Its clock is {far} {'ahead' if offset_s > 0.0 else 'behind'}; its times are put right by that."
