"""One run from plan to picture: whatever the order in which plan, phone, files and user speak, the same run comes out."""

import itertools
from datetime import UTC, datetime, timedelta

import numpy as np
import pytest
from astropy import units as u
from astropy.coordinates import SkyCoord
from hypothesis import given, settings
from hypothesis import strategies as st

from widedusk.core.errors import InvalidInput
from widedusk.core.runs.facts import BOUNDS, FIGURES, SOURCES, Fact, RunRecord, advance, record_of
from widedusk.core.runs.matching import Candidate, Match, Series, match

SUNSET = datetime(2026, 12, 8, 20, 0, tzinfo=UTC)
MOMENTS = st.integers(0, 600).map(lambda minutes: SUNSET + timedelta(minutes=minutes))
VALUES = {
    "planned": st.booleans(),
    "skipped": st.booleans(),
    "begins_at": MOMENTS,
    "ends_at": MOMENTS,
    "filter_name": st.sampled_from(["none", "Hα 7 nm"]),
    **{name: st.integers(int(np.ceil(low)), int(high)) for name, (low, high) in BOUNDS.items()},
}


def fact(source: str, figure: str, value: object, order: int = 1) -> Fact:
    return Fact(source=source, figure=figure, value=value, order=order)  # type: ignore[arg-type]


@st.composite
def facts(draw: st.DrawFn) -> Fact:
    figure = draw(st.sampled_from(FIGURES))
    return fact(draw(st.sampled_from(SOURCES)), figure, draw(st.none() | VALUES[figure]), draw(st.integers(0, 5)))


@given(st.lists(facts(), max_size=12), st.randoms())
@settings(max_examples=400)
def test_any_order_and_any_repetition_ends_in_the_same_run(stated, random):
    shuffled = stated + random.sample(stated, k=len(stated) // 2)
    random.shuffle(shuffled)
    assert record_of(shuffled) == record_of(stated)


@given(st.lists(facts(), max_size=12), facts())
@settings(max_examples=400)
def test_what_was_shot_is_dropped_by_nobody_but_the_user(stated, last):
    """Neither a plan that is saved anew nor a phone that skips ends a run of which anything was shot."""
    run = record_of(stated)
    after = advance(run, last)
    if run.shot and last.source == "plan" and not run.statement("user", "skipped"):
        assert after.state in {"running", "done", "noted"}
    if after.state == "dropped":
        assert after.statement("user", "skipped") or not after.shot


@given(st.lists(facts(), max_size=12), st.sampled_from(FIGURES))
def test_the_user_outranks_files_those_the_phone_and_that_the_plan(stated, figure):
    run = record_of(stated)
    said = [source for source in SOURCES if run.statement(source, figure) is not None]
    standing = run.standing(figure)
    assert (standing.source if standing else None) == (said[0] if said else None)


PLAN = (fact("plan", "planned", value=True), fact("plan", "frames", 62), fact("plan", "exposure_s", 60))
PHONE = (fact("phone", "begins_at", SUNSET + timedelta(hours=4, minutes=31)),)
END = (fact("phone", "ends_at", SUNSET + timedelta(hours=5)), fact("phone", "frames", 60))
FILES = (fact("files", "begins_at", SUNSET + timedelta(hours=4, minutes=32)), fact("files", "frames", 58))


@pytest.mark.parametrize("order", list(itertools.permutations([PLAN, PHONE, END, FILES, (fact("files", "kept", 51),)]))[::7])
def test_a_night_as_it_is_lived(order):
    run = record_of(itertools.chain(*order))
    assert run.state == "done"
    assert [run.statement(source, "frames") for source in ("plan", "phone", "files")] == [62, 60, 58]
    assert run.standing("frames") == FILES[1] and run.value("kept") == 51 and run.value("exposure_s") == 60
    assert run.value("begins_at") == SUNSET + timedelta(hours=4, minutes=32)  # the files': a finger is late


@pytest.mark.parametrize(
    ("stated", "state"),
    [
        (PLAN, "planned"),
        ((*PLAN, fact("plan", "planned", value=False, order=2)), "dropped"),
        ((*PLAN, fact("plan", "planned", value=False, order=2), fact("plan", "planned", value=True, order=3)), "planned"),
        ((*PLAN, fact("phone", "skipped", value=True)), "dropped"),
        ((*PLAN, fact("phone", "skipped", value=True), *PHONE), "running"),  # skipped, and then started all the same
        ((*PLAN, *PHONE, fact("phone", "begins_at", None, order=2)), "planned"),  # undone on the phone
        ((*PLAN, *PHONE, fact("plan", "planned", value=False, order=2)), "running"),
        ((*PLAN, *PHONE, *END), "done"),
        (FILES, "running"),
        ((*FILES, fact("files", "kept", 0)), "done"),
        ((*PLAN, *PHONE, *FILES, fact("files", "kept", 12)), "running"),  # the folder is watched while the phone counts
        ((*PLAN, *FILES, fact("user", "skipped", value=True)), "dropped"),
        ((fact("user", "kept", 40), fact("user", "exposure_s", 120)), "noted"),
        ((*PLAN, fact("user", "kept", 40)), "done"),
        ((fact("user", "kept", 40), *FILES), "done"),
    ],
)
def test_states(stated, state):
    assert record_of(stated).state == state


@pytest.mark.parametrize(
    ("figure", "value"),
    [("frames", -1), ("kept", 3.5), ("iso", 0), ("exposure_s", float("nan")), ("begins_at", datetime(2026, 1, 1)), ("planned", 1),
     ("filter_name", "a\nb"), ("f_number", "f/4"), ("mood", 3)],
)  # fmt: skip
def test_a_value_that_cannot_be_is_refused_by_its_name(figure, value):
    with pytest.raises(InvalidInput) as caught:
        advance(RunRecord(), fact("user", figure, value))
    assert caught.value.faults[0].field == ("figure" if figure == "mood" else figure)


MIDNIGHT = 61_000.0
HOUR = 1 / 24


def series(ra_deg: float, dec_deg: float, width_deg: float = 20.0, begins: float = 1.0, exposure_s: float = 60.0) -> Series:
    """begins: hours after midnight; an hour long."""
    return Series(
        begins_mjd=MIDNIGHT + begins * HOUR, ends_mjd=MIDNIGHT + (begins + 1) * HOUR, exposure_s=exposure_s, ra_deg=ra_deg,
        dec_deg=dec_deg, width_deg=width_deg, frames=50,
    )  # fmt: skip


def planned(number: int, ra_deg: float, dec_deg: float, begins: float, exposure_s: float = 60.0) -> Candidate:
    return Candidate(
        number=number, begins_mjd=MIDNIGHT + begins * HOUR, ends_mjd=MIDNIGHT + (begins + 1) * HOUR, exposure_s=exposure_s,
        ra_deg=ra_deg, dec_deg=dec_deg,
    )  # fmt: skip


NIGHT = (
    planned(1, 80.0, -69.0, 0.0),
    planned(2, 80.0, -69.0, 3.0),
    planned(3, 200.0, -43.0, 4.0),
    planned(4, 200.0, -43.0, 4.0, 300.0),
)


@pytest.mark.parametrize(
    ("shot", "found"),
    [
        (series(82.0, -68.0, begins=0.2), Match(1, "planned")),
        (series(82.0, -68.0, begins=2.6), Match(2, "planned")),  # the same field later in the night is the later run
        (series(200.0, -43.0, begins=4.0, exposure_s=280.0), Match(4, "planned")),  # two settings of one field
        (series(200.0, -43.0, begins=4.0, exposure_s=float("nan")), Match(3, "planned")),
        (series(200.0, -43.0, begins=float("nan")), Match(3, "planned")),  # a camera that has no clock
        (series(200.0, -43.0, begins=9.5), Match(None, "other field")),  # hours from any plan
        (series(10.7, 41.3), Match(None, "target")),
        (series(150.0, 20.0), Match(None, "other field")),
        (series(float("nan"), float("nan")), Match(None, "not solved")),
        (series(82.0, -68.0, width_deg=11.3, begins=0.2), Match(None, "other lens")),  # 180 mm where the rig has 100 mm
        (series(82.0, -68.0, width_deg=20.9, begins=0.2), Match(1, "planned")),
    ],
)
def test_frames_find_their_run(shot, found):
    assert match(shot, NIGHT, [(10.0, 41.0)], rig_width_deg=20.4) == found


@given(
    st.floats(0, 360), st.floats(-90, 90), st.floats(0, 360), st.floats(-90, 90), st.floats(1.0, 60.0),
)  # fmt: skip
def test_a_field_holds_its_target_anywhere_on_the_sky(ra, dec, other_ra, other_dec, width):
    """Against astropy's separation."""
    apart = SkyCoord(ra * u.deg, dec * u.deg).separation(SkyCoord(other_ra * u.deg, other_dec * u.deg)).deg
    if abs(apart - width / 2) < 1e-6:
        return
    found = match(series(ra, dec, width), [planned(7, other_ra, other_dec, 1.0)], [], rig_width_deg=float("nan"))
    assert (found.number == 7) == (apart < width / 2)
