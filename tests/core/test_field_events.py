"""Whatever comes in, in whatever order, how often and in how many parts: a night of events comes to one state."""

import json
from dataclasses import replace
from datetime import UTC, datetime, timedelta
from pathlib import Path

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from widedusk.core.errors import InvalidInput
from widedusk.core.field.events import Event, check_event, note_words, state_of

DUSK = datetime(2026, 12, 8, 17, 0, tzinfo=UTC)
RUN_KINDS = ("begun", "paused", "resumed", "ended")
VECTORS = Path(__file__).parents[1] / "field_events.json"


@st.composite
def nights(draw: st.DrawFn) -> list[Event]:
    """What two devices tell of one night; their clocks are off, and they speak of the same things."""
    made: list[Event] = []
    for number in range(draw(st.integers(1, 40))):
        device = draw(st.sampled_from(["device-a", "device-b"]))
        offset = {"device-a": 0.0, "device-b": 3600.0}[device]
        at = DUSK + timedelta(seconds=draw(st.integers(0, 36_000)) + offset)
        kind = draw(st.sampled_from([*RUN_KINDS, "checked", "put off", "acknowledged", "forgotten", "taken back"]))
        run = draw(st.sampled_from("123"))
        data: dict[str, object] = {}
        of_run = kind in RUN_KINDS
        subject = f"run:{run}:{kind}" if of_run else f"step:{run}"
        if of_run:
            data["at"] = (at - timedelta(seconds=draw(st.integers(0, 600)))).isoformat()
        if of_run and kind != "begun":
            data["frames"] = draw(st.integers(0, 300))
        if kind == "forgotten":
            data["words"] = draw(st.sampled_from(["hood", "gloves"]))
        if kind == "taken back":
            data["event"] = draw(st.sampled_from([one.id for one in made])) if made else "nothing"
        made.append(Event(f"{device}-{number}", device, number, at, offset, kind, subject, data))  # type: ignore[arg-type]
    return made


@settings(max_examples=200, deadline=None)
@given(nights(), st.randoms(use_true_random=False))
def test_order_doubles_and_split_do_not_matter(events, chance):
    """Law: the state is a function of the set of events."""
    whole = state_of(events)
    again = [*events, *chance.sample(events, chance.randint(0, len(events)))]
    chance.shuffle(again)
    assert state_of(again) == whole
    cut = chance.randint(0, len(again))
    assert state_of([*again[cut:], *again[:cut]]) == whole


@settings(max_examples=100, deadline=None)
@given(nights())
def test_the_last_word_stands_counted_by_hand(events):
    """Against a plain reading of the rule: walk through the night by the right clock and write each word over the one before."""
    events = [one for one in events if one.kind != "taken back"]
    steps: dict[str, str] = {}
    frames: dict[str, int] = {}
    for one in sorted(events, key=lambda one: (one.at.timestamp() - one.offset_s, one.device, one.number)):
        if one.kind in {"checked", "put off"}:
            steps[one.subject] = one.kind
        if one.kind == "ended":
            frames[one.subject.split(":")[1]] = one.data["frames"]
    state = state_of(events)
    assert set(state.checked) == {key for key, kind in steps.items() if kind == "checked"}
    assert set(state.put_off) == {key for key, kind in steps.items() if kind == "put off"}
    assert {one.run: one.frames for one in state.runs if one.frames is not None} == frames


def _event(number: int, kind: str, subject: str, minutes: float = 0.0, device: str = "device-a", **data: object) -> Event:
    at = DUSK + timedelta(minutes=minutes)
    return Event(f"{device}-{number}", device, number, at, 0.0, kind, subject, data)  # type: ignore[arg-type]


def _ended(number: int, device: str, minutes: float, frames: int) -> Event:
    at = (DUSK + timedelta(minutes=minutes)).isoformat()
    return _event(number, "ended", "run:1:ended", minutes, device, at=at, frames=frames)


def test_two_phones_that_say_different_ends_are_told_and_nothing_is_lost():
    begun = _event(1, "begun", "run:1:begun", 0.0, at=DUSK.isoformat())
    state = state_of([begun, _ended(2, "device-a", 60.0, 40), _ended(1, "device-b", 75.0, 50)])
    assert [one.words for one in state.contradictions] == ["Two devices say different ends of this run."]
    assert state.runs[0].frames == 50
    assert len(state.standing) == 3
    same = state_of([begun, _ended(2, "device-a", 60.0, 40), _ended(1, "device-b", 61.0, 40)])
    assert not same.contradictions
    corrected = state_of([begun, _ended(2, "device-a", 60.0, 40), _ended(3, "device-a", 75.0, 50)])
    assert not corrected.contradictions


def test_an_end_without_a_beginning_and_before_it_are_told():
    lone = state_of([_ended(1, "device-a", 60.0, 40)])
    assert "nobody said when it began" in lone.contradictions[0].words
    late = _event(2, "begun", "run:1:begun", 90.0, at=(DUSK + timedelta(minutes=90)).isoformat())
    assert "ends before it begins" in state_of([_ended(1, "device-a", 60.0, 40), late]).contradictions[0].words


def test_what_takes_back_can_be_taken_back():
    said = _event(1, "checked", "step:walk")
    back = _event(2, "taken back", said.id, 1.0, event=said.id)
    assert state_of([said, back]).checked == ()
    again = _event(3, "taken back", back.id, 2.0, event=back.id)
    assert state_of([again, back, said]).checked == ("step:walk",)


def test_a_clock_that_is_an_hour_ahead_is_put_right_and_told():
    hour = replace(_event(1, "checked", "step:walk", 60.0, "device-b"), offset_s=3600.0)
    state = state_of([hour])
    assert hour.moment == DUSK
    assert state.devices[0].words.startswith("Its clock is 60 min ahead")
    early = replace(_event(1, "checked", "step:walk", 60.0), received=DUSK)
    assert "before they happened" in state_of([early]).contradictions[0].words


@pytest.mark.parametrize(
    ("kind", "subject", "data", "field"),
    [
        ("dreamt", "night", {}, "kind"),
        ("checked", " ", {}, "subject"),
        ("ended", "run:1:ended", {"at": DUSK.isoformat(), "frames": 3.5}, "data.frames"),
        ("ended", "run:1:ended", {"at": "yesterday", "frames": 3}, "data.at"),
        ("noted", "note", {"words": "\x00"}, "data.words"),
        ("noted", "note", {"words": "  "}, "data.words"),
        ("seen", "seen", {"what": "ghosts"}, "data.what"),
        ("taken back", "x", {}, "data.event"),
        ("checked", "step:1", {"value": float("inf")}, "data.value"),
        ("checked", "step:1", {str(n): n for n in range(9)}, "data"),
    ],
)
def test_what_cannot_be_is_refused_by_its_field(kind, subject, data, field):
    with pytest.raises(InvalidInput) as refused:
        check_event(_event(1, kind, subject, **{}) if not data else replace(_event(1, kind, subject), data=data))
    assert field in {fault.field for fault in refused.value.faults}


def test_the_phone_and_the_server_come_to_the_same():
    """The vectors that the phone's own test reads too (frontend/src/field/fold.test.ts)."""
    for case in json.loads(VECTORS.read_text()):
        events = [Event(**{**one, "at": datetime.fromisoformat(one["at"])}) for one in case["events"]]
        state = state_of(reversed(events))
        runs = [(one.run, one.begun, one.ended, one.frames) for one in state.runs]
        told = {
            "checked": sorted(state.checked),
            "put_off": sorted(state.put_off),
            "acknowledged": sorted(state.acknowledged),
            "forgotten": sorted(state.forgotten),
            "standing": [one.id for one in state.standing],
            "runs": [[run, begun and begun.isoformat(), ended and ended.isoformat(), frames] for run, begun, ended, frames in runs],
            "pauses": [
                [run.run, one.begun.isoformat(), one.frames, one.ended and one.ended.isoformat(), one.follow]
                for run in state.runs
                for one in run.pauses
            ],
        }
        assert told == case["comes_to"], case["name"]


@pytest.mark.parametrize(
    ("kind", "data", "words"),
    [
        ("seen", {"what": "temperature", "value": -3}, "temperature: -3"),
        ("paused", {"at": DUSK.isoformat(), "frames": 21}, "Paused after 21 frames"),
        ("touched", {"words": "a leg"}, "Touched: a leg"),
        ("forgotten", {"words": "hood"}, "Forgot: hood"),
        ("wrong", {"symptom": "fewer", "cause": "dew"}, "Something was wrong: Dew on the glass"),
        ("wrong", {"symptom": "fewer", "cause": "of a later pack"}, "Something was wrong: fewer"),
        ("otherwise", {"what": "sub", "exposure_s": 45}, "Replanned: 45 s subs"),
        ("otherwise", {"what": "pack up"}, "Replanned: pack up"),
        ("checked", {}, ""),
    ],
)
def test_what_is_worth_reading_again_is_told_in_words(kind, data, words):
    assert note_words(_event(1, kind, "night", **data)) == words
