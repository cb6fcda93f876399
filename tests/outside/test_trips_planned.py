"""A trip planned as one: against every pair of schedules, a checker that knows the rules alone, and the handbook's count."""

from dataclasses import replace
from datetime import date, timedelta
from itertools import pairwise
from types import SimpleNamespace

import numpy as np
import pytest

from tests.conftest import a_rig, a_spot
from tests.nightly import nightly
from tests.outside.test_whole_night import Small, broken_rules, stand, wish
from widedusk.core.choices import Choices
from widedusk.core.plan.schedule.compose import Held, Limits, Stop, composed, to_keep
from widedusk.core.plan.schedule.problem import Aim, Picture, Problem
from widedusk.core.plan.schedule.runs import runs_of
from widedusk.core.plan.schedule.solve import solve
from widedusk.core.plan.schedule.trip import _joined, composed_trip, planned_trip
from widedusk.core.plan.schedule.worth import PanelWish, Wish

FIRST = date(2026, 12, 9)


def pair(rng: np.random.Generator) -> tuple[Small, Small]:
    """Two nights of the same items under the same rules."""
    while True:
        one, other = Small(rng), Small(rng)
        one.slots, other.slots = min(one.slots, 7), min(other.slots, 7)
        if one.items == other.items and one.items > 1:
            break
    for name in ("weights", "before", "change", "shortest"):
        setattr(other, name, getattr(one, name))
    return one, other


def joined(nights: tuple[Small, Small], pictures: list[Picture], aims: list[Aim], school: str) -> Problem:
    of = [sum(aim.picture == number for aim in aims) for number in range(len(pictures))]
    wishes = [SimpleNamespace(weight=one.weight, least_h=0.0, panels=[0] * count) for one, count in zip(pictures, of, strict=True)]
    stands = [SimpleNamespace(choices=Choices(panel_school=school))]
    found = [SimpleNamespace(problem=replace(one.problem(), pictures=pictures, aims=aims), stands=stands) for one in nights]
    return _joined(found, wishes, aims)[0]


def best(problem: Problem) -> float:
    found = solve(problem, gap=1e-7, seconds=20.0)
    assert found.bound >= found.value - 1e-9
    return found.value


def test_the_best_trip_is_the_best_of_all_pairs_of_schedules():
    rng = np.random.default_rng(1127)
    for _ in range(60):
        nights = pair(rng)
        hours = [np.array(sorted(each.outcomes())) for each in nights]
        had, weights = nights[0].before, nights[0].weights
        both = hours[0][:, None] + hours[1][None]
        truth = ((np.sqrt(had + both) - np.sqrt(had)) * weights).sum(axis=2).max()
        pictures, aims = [Picture(weight) for weight in weights], [Aim(number, one) for number, one in enumerate(had)]
        assert best(joined(nights, pictures, aims, "one")) == pytest.approx(truth, abs=1e-6)

        # As panels of one picture: those that are up in neither night do not hold up the others.
        up = np.array([[(worth > 0).sum() >= each.shortest for worth in each.worth] for each in nights])
        alive = up.any(axis=0)
        panels = [Aim(0)] * nights[0].items
        any_night = alive.sum() * np.sqrt(both[:, :, alive].min(axis=2).max()) if alive.any() else 0.0
        assert best(joined(nights, [Picture()], panels, "one")) == pytest.approx(any_night, abs=1e-6)
        alike = []
        for one, each in zip(hours, nights, strict=True):
            here = alive & np.array([(worth > 0).any() for worth in each.worth])
            alike.append(np.where(here, one[:, here].min(axis=1, keepdims=True, initial=np.inf), 0.0))
        shared = (alike[0][:, None] + alike[1][None])[:, :, alive]
        every_night = alive.sum() * np.sqrt(shared.min(axis=2).max()) if alive.any() else 0.0
        assert best(joined(nights, [Picture()], panels, "all")) == pytest.approx(every_night, abs=1e-6)


def a_trip(nights: int, school: str = "all", limits: Limits | None = None, **more: object):
    stands = [stand("long", a_rig(135), panel_school=school), stand("wide", a_rig(100), panel_school=school)]
    wishes = [wish("one", 161.0, -59.7), wish("two", 83.8, -5.4), wish("three", 80.0, -40.0, 3)]
    stops = [Stop(stands, a_spot(-24.6), FIRST + timedelta(days=number), limits or Limits(), **more) for number in range(nights)]
    return composed_trip(stops, wishes)


@pytest.mark.parametrize("school", ["all", nightly("one")])
def test_no_night_of_a_trip_breaks_a_rule_and_panels_are_even(school):
    trip = a_trip(3, school, Limits("01:00", "04:00"))
    found = solve(trip.problem, seconds=6.0)
    for number, night in enumerate(trip.nights):
        mine = tuple(trip.of_night(found.stretches, number))
        assert mine
        assert not broken_rules(
            replace(night.problem, pictures=[replace(one, least_h=0.0) for one in night.problem.pictures]), mine
        )
    assert trip.in_trip(trip.of_night(found.stretches, 1), 1) == [
        one for one in found.stretches if trip.problem.night(one.first) == 1
    ]
    plan = planned_trip(trip, ["ridge"] * 3, seconds=5.0)
    each = max(run.signal / run.frames for night in plan.nights for run in night.runs if run.wish == 2)
    for nights in [plan.nights] if school == "one" else [[night] for night in plan.nights]:
        panels = [sum(run.signal for night in nights for run in night.runs if (run.wish, run.panel) == (2, n)) for n in range(3)]
        assert max(panels) - min(panels) <= each
    assert plan.gap_percent < 30.0  # however busy the machine


def test_seven_hours_over_three_panels_two_cameras_two_nights_are_3120_frames_in_12_stacks():
    """Handbook 13: at 30 s with 93 % duty, 260 frames a panel. Panels about the pole, so that none rises or sets."""
    gap = 30.0 * (0.95 / 0.93 - 1.0)  # 3 min in the hour go into focus
    how = {"sub_school": "fixed", "fixed_sub_s": 30.0, "gap_s": gap, "change_min": 0, "recheck_school": "never"}
    stands = [stand(name, a_rig(135), **how) for name in ("one", "other")]
    panels = Wish(wish("pole", 0.0, -89.5).target, [PanelWish(f"panel {n}", 120.0 * n, -89.5) for n in range(3)])
    stops = [
        Stop(stands, a_spot(-60.0), date(2026, 6, 12) + timedelta(days=n), Limits(not_before="20:00", not_after="03:00"))
        for n in range(2)
    ]
    plan = planned_trip(composed_trip(stops, [panels]), ["far south"] * 2, seconds=6.0)
    for panel in plan.panels:
        assert [[pytest.approx(count, abs=3) for count in night] for night in panel.frames] == [[260, 260], [260, 260]]
    assert plan.stacks == 12
    assert sum(one.in_all for one in plan.panels) == pytest.approx(3120, abs=20)


def test_more_nights_never_bring_less_one_alone_is_the_night_itself_and_what_is_fixed_stays():
    values = [solve(a_trip(count, "one").problem, seconds=1.0) for count in (1, 2, 3)]
    for less, more in pairwise(values):
        assert more.bound >= less.value
        assert more.value >= less.value * 0.99
    free = a_trip(2, "one")
    found = solve(free.problem, seconds=1.5)
    (first, *_), night = free.of_night(found.stretches, 1), free.nights[1]
    way = night.problem.ways[first.way]
    begins, ends = (night.night.spot.local(float(night.night.mjd[0]) + at / 1440.0) for at in (first.first, first.last))
    held = Held(way.lane, *night.wish_and_panel(way.aim), begins, ends - timedelta(minutes=20))
    stops = [free.stops[0], replace(free.stops[1], held=[held])]
    fixed = composed_trip(stops, night.wishes)
    assert len(fixed.problem.fixed) == 1
    plan = planned_trip(fixed, ["ridge"] * 2, seconds=4.0)
    stays = [run for run in plan.nights[1].runs if run.held]
    assert [(run.stand, run.wish, run.panel) for run in stays] == [(held.stand, held.wish, held.panel)]
    assert solve(fixed.problem, seconds=1.0).value <= found.bound + 1e-9


def test_every_night_of_a_trip_is_a_night_that_stands_by_itself():
    """Runs of a trip lie in slots of ten minutes; its nights by themselves are cut finer, and must take them all the same."""
    stands = [stand("long", a_rig(135)), stand("wide", a_rig(100))]
    wishes = [wish("two", 83.8, -5.4), wish("three", 80.0, -40.0, 3)]
    spot, limits = a_spot(-24.6), Limits(not_before="21:27", not_after="03:33")
    stops = [Stop(stands, spot, FIRST + timedelta(days=number), limits) for number in range(3)]
    plan = planned_trip(composed_trip(stops, wishes), ["ridge"] * 3, seconds=1.5)
    for night in plan.nights:
        made = composed(stands, wishes, spot, night.evening, limits)
        assert made.problem.rules.slot == 5
        kept = [Held(run.stand, run.wish, run.panel, run.held_from, run.held_to, run.frames) for run in night.runs]
        made, found = to_keep(made, kept, [])
        assert len(found) == len(night.runs) > 0
        assert not [words for words in broken_rules(made.problem, found) if "goes on while" not in words]
        assert sorted(run.frames for run in runs_of(made, found)) == sorted(run.frames for run in night.runs)
