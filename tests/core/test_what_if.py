"""What if: each way a night may go is the night posed again under other limits, and says what the page of the night would say."""

from dataclasses import replace
from datetime import UTC, date, datetime, timedelta
from itertools import pairwise

import pytest

from tests.conftest import a_rig, a_spot
from widedusk.core.choices import Choices
from widedusk.core.errors import InvalidInput
from widedusk.core.plan.outlook import night_of
from widedusk.core.plan.schedule.compose import Held, Limits, Stop, composed, held_stretches, solved
from widedusk.core.plan.schedule.runs import runs_of
from widedusk.core.plan.schedule.what_if import Otherwise, Replan, WhatIf, cases, replans, what_ifs
from widedusk.core.plan.schedule.worth import PanelWish, Stand, Wish
from widedusk.core.scene import Target
from widedusk.core.sky.time import mjd_from_datetime

SPOT, EVENING = a_spot(-24.6), date(2026, 12, 9)
PLACES = (("one", 161.0, -59.7), ("two", 83.8, -5.4), ("three", 80.0, -40.0))
WISHES = [Wish(Target(name, ra, dec, 2.0, 22.0), [PanelWish("", ra, dec)]) for name, ra, dec in PLACES]
STANDS = [Stand("long", a_rig(135), Choices()), Stand("wide", a_rig(100), Choices())]
STOP = Stop(STANDS, SPOT, EVENING)


def planned(stop: Stop) -> list[Held]:
    made, found = solved(composed(stop.stands, WISHES, SPOT, EVENING, stop.limits), stop.held, 2.5)
    return [Held(run.stand, run.wish, run.panel, run.held_from, run.held_to) for run in runs_of(made, found.stretches)]


@pytest.fixture(scope="module")
def kept() -> list[Held]:
    return planned(STOP)


def asked(kept: list[Held], otherwise: Otherwise, stop: Stop = STOP) -> dict[str, WhatIf]:
    said: list[str] = []
    found = what_ifs(stop, WISHES, (), kept, otherwise, lambda share, doing: said.append(doing), 1.0)
    assert len(said) == len(found) + 1
    return {one.name: one for one in found}


def test_cloud_until_a_clock_is_what_the_night_s_page_plans_with_nothing_before_it(kept):
    told = asked(kept, Otherwise(cloud_until="23:40"))["Cloud until 23:40"]
    made = composed(STANDS, WISHES, SPOT, EVENING, Limits())
    whole = made.problem.value(held_stretches(made, kept))
    _, page = solved(composed(STANDS, WISHES, SPOT, EVENING, Limits(not_before="23:40")), (), 2.5)
    left = whole * (1.0 - told.loses_percent / 100.0)
    assert 0.93 * page.value <= left <= page.bound + 1e-9  # a busy machine proves less
    assert all(run.begins_clock >= "23:40" or run.begins_clock < "12:00" for run in told.runs)
    assert 0.0 < told.loses_percent < 100.0
    assert told.verdict.sentence.endswith(f"{told.loses_percent:.0f} % less than planned.")


def test_every_other_night_loses_a_failed_rig_takes_nothing_and_nobody_stays_longer(kept):
    ends = max(one.ends for one in kept)
    found = asked(kept, Otherwise(late_h=2.0, home_h=1.5, wind="strong"))
    assert list(found) == ["2 h late", "Cloud until 00:00", "Strong wind", "long fails", "wide fails", "Home 1.5 h earlier"]
    assert all(one.loses_percent > -1.0 for one in found.values())  # within what the order kept may have missed
    for rig, name in enumerate(("long fails", "wide fails")):
        assert {run.stand for run in found[name].runs} == {1 - rig}
    late = min(run.held_from for run in found["2 h late"].runs)
    setup = min(one.begins for one in kept)
    assert late > setup
    for run in found["Home 1.5 h earlier"].runs:
        assert (ends - run.held_to).total_seconds() >= 1.5 * 3600 - 600
    calm = {run.exposure_s for run in found["2 h late"].runs}
    assert max(run.exposure_s for run in found["Strong wind"].runs) <= max(calm)


def test_every_ten_minutes_have_a_plan_of_their_own_as_good_as_one_made_at_leisure(kept):
    """Against the page's own search with five times the effort, at a third and two thirds of the night; and laws: nothing begins
    before its moment, one rig is changed at a time, and a later beginning never brings more."""
    found = replans(STOP, WISHES, (), kept, lambda share, doing: None, 0.12)
    moments = sorted({one.moment for one in found})
    assert {(b - a).total_seconds() for a, b in pairwise(moments)} == {600.0} and len(found) == 2 * len(moments)
    bare = [one for one in found if not one.so_far]
    made = composed(STANDS, WISHES, SPOT, EVENING, Limits())

    def value(one: Replan) -> float:
        return made.problem.value(held_stretches(made, [Held(r.stand, r.wish, r.panel, r.held_from, r.held_to) for r in one.runs]))

    worth = [value(one) for one in bare]
    assert all(later <= sooner + 1e-9 for sooner, later in pairwise(worth))
    assert worth[0] >= 0.99 * made.problem.value(held_stretches(made, kept))
    for one in found:
        changes = sorted(run.change_at for run in one.runs)
        assert all(run.held_from >= one.moment for run in one.runs)
        assert all(b - a >= timedelta(minutes=10) for a, b in pairwise(changes))
    for place in (len(bare) // 3, 2 * len(bare) // 3):
        clock = made.night.spot.clock(mjd_from_datetime(bare[place].moment + timedelta(seconds=30)))
        _, page = solved(composed(STANDS, WISHES, SPOT, EVENING, Limits(not_before=clock)), (), 0.6)
        assert worth[place] >= 0.95 * page.value, clock
    # What was shot before counts: less goes to what has had most of it.
    half = moments[len(moments) // 2]
    frames = {one.so_far: {run.wish: run.frames for run in one.runs} for one in found if one.moment == half}
    assert frames[True] != frames[False]


def test_what_was_fixed_stays_where_it_still_can_and_goes_where_it_cannot(kept):
    first, last = min(kept, key=lambda one: one.begins), max(kept, key=lambda one: one.begins)
    stop = replace(STOP, held=[first, last])
    told = asked(kept, Otherwise(cloud_until="23:40"), stop)["Cloud until 23:40"]
    held = [(run.stand, run.wish) for run in told.runs if run.held]
    assert held == [(last.stand, last.wish)]  # the first began before the sky cleared


def test_clocks_are_of_the_night_and_what_is_none_is_refused_by_its_field(kept):
    night = night_of(SPOT, EVENING)
    stop = replace(STOP, limits=Limits(not_before="23:00"))
    by_name = dict(cases(stop, WISHES, night, Otherwise(cloud_until="00:30"), datetime(2026, 12, 10, 2, 0, tzinfo=UTC)))
    assert by_name["Cloud until 00:30"].limits.not_before == "00:30"  # after midnight is later than before it
    assert dict(cases(stop, WISHES, night, Otherwise(cloud_until="22:00"), None))["Cloud until 22:00"].limits.not_before == "23:00"
    assert not [name for name, _ in cases(stop, WISHES, night, Otherwise(), None) if name.startswith("Home")]
    with pytest.raises(InvalidInput, match="write it like 23:30") as wrong:
        asked(kept, Otherwise(late_h=99.0, cloud_until="noon", home_h=0.0))
    assert [fault.field for fault in wrong.value.faults] == ["late_h", "home_h", "cloud_until"]
    nothing = asked(kept, Otherwise(cloud_until="11:00"))["Cloud until 11:00"]
    assert nothing.runs == ()
    assert nothing.verdict.level == "stop"
