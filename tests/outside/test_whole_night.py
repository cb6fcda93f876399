"""The best schedule against every one there is, against a checker that knows the rules alone, and its signal minute by minute."""

from dataclasses import replace
from datetime import date
from functools import cache
from itertools import pairwise

import numpy as np
import pytest
from scipy.constants import golden

from tests.conftest import a_rig, a_spot
from tests.nightly import nightly
from widedusk.core.choices import Choices
from widedusk.core.kit.parts import Rig
from widedusk.core.plan.schedule.compose import Composed, Limits, composed, solved
from widedusk.core.plan.schedule.problem import Aim, Picture, Problem, Rules, Stretch, Way
from widedusk.core.plan.schedule.runs import NightRun, runs_of, value_of_runs
from widedusk.core.plan.schedule.solve import solve
from widedusk.core.plan.schedule.whole import whole_night
from widedusk.core.plan.schedule.worth import PanelWish, Stand, Wish
from widedusk.core.scene import Target

EVENING = date(2026, 12, 9)


class Small:
    """An invented night of one lane, small enough to try every schedule. Minutes as lists; no line of it is the solver's."""

    def __init__(self, rng: np.random.Generator) -> None:
        self.items, self.slots, self.slot = int(rng.integers(1, 4)), int(rng.integers(4, 11)), 10
        minutes = np.arange(self.slots * self.slot)
        self.worth, self.seen = [], []
        for _ in range(self.items):
            rises, sets = np.sort(rng.integers(0, len(minutes), 2))
            shape = rng.uniform(0.2, 1.0) * (1.0 + 0.5 * np.sin(minutes / 30.0 + rng.uniform(0, 6))) / 60.0
            self.worth.append(shape * ((minutes >= rises) & (minutes < sets)))
            self.seen.append((minutes >= rises - rng.integers(0, 20)) & (minutes < sets))
        self.weights = rng.choice([0.5, 1.0, 1.0, 2.0], self.items)
        self.before = rng.choice([0.0, 0.0, 1.0, 0.2], self.items)
        self.change, self.shortest = int(rng.choice([5, 10, 15])), int(rng.choice([10, 20]))

    def problem(self) -> Problem:
        ways = [Way(n, 0, self.worth[n], self.worth[n] > 0, self.seen[n]) for n in range(self.items)]
        aims = [Aim(n, self.before[n]) for n in range(self.items)]
        return Problem(
            [Picture(one) for one in self.weights], aims, ways, 0, self.slots, Rules(self.slot, self.change, self.shortest)
        )

    def block(self, item: int, first: int, last: int) -> float:
        """Hours of one block, nought where the rules forbid it."""
        begin, end, framed = first * self.slot, last * self.slot, first * self.slot + self.change
        if framed > end or not self.seen[item][begin:framed].all():
            return 0.0
        for slot in range(first, last):
            shot = slot * self.slot >= framed - self.change % self.slot
            if shot and not (self.worth[item][slot * self.slot : (slot + 1) * self.slot] > 0).any():
                return 0.0
        taken = self.worth[item][framed:end]
        return float(taken.sum()) if (taken > 0).sum() >= self.shortest else 0.0

    def outcomes(self) -> set[tuple[float, ...]]:
        """The hours of each item, of every schedule there is."""
        worth = {
            (item, first, last): value
            for item in range(self.items)
            for first in range(self.slots)
            for last in range(first + 1, self.slots + 1)
            if (value := self.block(item, first, last)) > 0
        }

        found: set[tuple[float, ...]] = set()

        def go(at: int, hours: tuple[float, ...]) -> None:
            found.add(hours)
            for (item, first, last), value in worth.items():
                if first >= at:
                    go(last, (*hours[:item], hours[item] + value, *hours[item + 1 :]))

        go(0, (0.0,) * self.items)
        return found

    def best(self) -> float:
        """By trying all."""
        hours = np.array(sorted(self.outcomes()))
        return float(((np.sqrt(self.before + hours) - np.sqrt(self.before)) * self.weights).sum(axis=1).max())


def test_the_best_is_the_best_of_all_on_two_hundred_small_nights():
    rng = np.random.default_rng(2026)
    worst = 0.0
    for _ in range(200):
        night = Small(rng)
        truth, found = night.best(), solve(night.problem(), gap=1e-7, seconds=20.0)
        assert found.value <= truth + 1e-9
        assert found.bound >= truth - 1e-9
        worst = max(worst, truth - found.value)
    assert worst < 1e-6


def broken_alone(problem: Problem, one: Stretch) -> list[str]:
    """What is wrong with one run by itself."""
    rules, way, framed = problem.rules, problem.ways[one.way], one.first + problem.rules.change
    slots = range(framed + (-framed) % rules.slot, one.last, rules.slot)
    wrong = {
        "no whole slots": one.first % rules.slot or one.last % rules.slot,
        "framed unseen": not way.seen[one.first : framed].all(),
        "too short": (way.worth_h[framed : one.last] > 0).sum() < rules.shortest,
        "goes on while it cannot be taken": not all(way.open[at : at + rules.slot].any() for at in slots),
    }
    return [f"{one}: {words}" for words, holds in wrong.items() if holds]


def woken(problem: Problem, starts: list[int]) -> int:
    """How often somebody is woken: each time for half an hour, in which more than one change may be made."""
    asleep, change = (*problem.rules.asleep, (0, 0))[0], problem.rules.change
    times, until = 0, -1
    for at in starts:
        if at + change > asleep[0] and at < asleep[1] and at >= until:
            times, until = times + 1, at + 30
    return times


def broken_rules(problem: Problem, stretches: tuple[Stretch, ...]) -> list[str]:
    """The rules as they are written, nothing of how they are solved. Slots are to begin at minutes that they divide."""
    found = [words for one in stretches for words in broken_alone(problem, one)] if problem.first % problem.rules.slot == 0 else []
    for lane in range(problem.lanes):
        mine = sorted((one for one in stretches if problem.ways[one.way].lane == lane), key=lambda one: one.first)
        found += [f"{one} and {other}: overlap" for one, other in pairwise(mine) if other.first < one.last]
    starts = sorted(one.first for one in stretches)
    found += [f"two changes at {one} and {other}" for one, other in pairwise(starts) if other - one < problem.rules.change]
    if woken(problem, starts) > problem.rules.awakenings:
        found.append(f"woken too often: {starts}")
    for number, one in enumerate(problem.pictures):
        hours = [problem.gathered(stretches)[aim] for aim in problem.panels[number]]
        if one.least_h and any(0 < value < one.least_h - 1e-9 for value in hours):
            found.append(f"picture {number} gets less than it asks for: {hours}")
    return found + [f"{one}: moved" for one in problem.fixed if one not in stretches]


def invented(seed: int) -> Problem:
    """Two rigs, up to five aims of which some are panels of one picture, a sleep, an awakening or none, a least."""
    rng = np.random.default_rng(seed)
    slots, slot, items = 60, 10, int(rng.integers(3, 6))
    minutes, ways = np.arange(slots * slot), []
    tied = int(rng.integers(0, 3))
    picture = [0] * (tied + 1) + list(range(1, items - tied))
    for lane in range(2):
        for aim in range(items):
            middle, half = rng.uniform(100, 500), rng.uniform(120, 300)
            worth = np.clip(1 - ((minutes - middle) / half) ** 2, 0, None) / 60.0 * (1.0 if lane else 1.0 / golden)
            ways.append(Way(aim, lane, worth, worth > 0, worth > 0))
    asleep = ((240, 420),) if rng.random() < 0.6 else ()
    rules = Rules(slot, int(rng.choice([5, 10, 20])), 20, asleep, int(rng.integers(0, 3)))
    pictures = [Picture(float(rng.choice([0.5, 1, 2])), float(rng.choice([0, 0, 0.7]))) for _ in range(items - tied)]
    return Problem(pictures, [Aim(one) for one in picture], ways, 0, slots, rules)


@pytest.mark.parametrize("seed", [*range(2), *map(nightly, range(2, 8))])
def test_no_schedule_breaks_a_rule_and_none_falls_short_of_its_bound(seed):
    problem = invented(seed)
    found = solve(problem, gap=0.03, seconds=15.0)
    assert not broken_rules(problem, found.stretches)
    assert found.value == pytest.approx(problem.value(found.stretches))
    assert found.gap < 0.03
    fixed = replace(problem, fixed=found.stretches[:2])
    assert not broken_rules(fixed, solve(fixed, gap=0.03, seconds=3.0).stretches)


def stand(name: str, rig: Rig, **choices: object) -> Stand:
    return Stand(name, rig, Choices(**choices))


def wish(name: str, ra: float, dec: float, panels: int = 1, **more: float) -> Wish:
    aims = [PanelWish(f"panel {n + 1}" if panels > 1 else "", ra + (n - (panels - 1) / 2) * 6.0, dec) for n in range(panels)]
    return Wish(Target(name, ra, dec, 2.0, 22.0), aims, **more)


@cache
def planned(latitude: float) -> tuple[Composed, tuple[NightRun, ...], tuple[Stretch, ...]]:
    south = latitude < 0
    wishes = [
        wish("one", 161.0, -59.7 if south else 59.7),
        wish("two", 83.8, -5.4),
        wish("three", 80.0, -40.0 if south else 40.0, 3),
    ]
    stands = [stand("long", a_rig(135)), stand("wide", a_rig(100))]
    made, found = solved(composed(stands, wishes, a_spot(latitude), EVENING, Limits()), seconds=4.0)
    return made, runs_of(made, found.stretches), found.stretches


@pytest.mark.parametrize("latitude", [-24.6, nightly(47.0)])
def test_the_signal_told_is_that_of_its_minutes(latitude):
    """S/N of each minute by the CCD equation written out here: photons of a V = 0 source by Bessell 1979, PASP 91, 589 (1000 s⁻¹
    cm⁻² Å⁻¹), extinction 0.2 mag an airmass, airmass 1 / sin h; the sky's brightness is tested on its own in test_sky.py."""
    made, runs, _ = planned(latitude)
    assert len(runs) >= 3
    night = made.night
    for run in runs:
        one = made.found[run.stand][run.wish]
        path, rig = one.paths[run.panel], one.seen.subject.rig
        light, advice = one.seen.light, one.seen.advice

        def pace(sky, airmass, rig=rig, light=light, advice=advice):
            pixel = np.pi / 4 * (206265 * rig.camera.pitch_um * 1e-4 / light.f_number) ** 2 * rig.camera.response_nm * 1e4
            source = 10 ** (-0.4 * (22.0 + 0.2 * airmass)) * pixel * light.response.target
            behind = 10 ** (-0.4 * sky) * pixel * light.response.sky + light.dark_e_s
            t = advice.exposure_s
            snr = source * t / np.sqrt((source + behind) * t + advice.step.read_noise_e**2)
            return snr**2 / (206.265 * rig.camera.pitch_um / rig.lens.focal_mm) ** 2

        begin = round((run.begins_at.timestamp() / 86_400.0 + 40_587.0 - night.mjd[0]) * 1440)
        length = run.frames * one.cycle_s / 60.0
        minutes = begin + np.arange(int(length))
        height = np.sin(path.altitude)
        kept = [row[run.wish] for row in made.found]
        best = max(
            pace(night.spot.sky_mag, 1.0, each.seen.subject.rig, each.seen.light, each.seen.advice)
            * each.seen.advice.keep
            / (each.seen.advice.exposure_s + each.stand.choices.gap_s)
            for each in kept
        )
        told = pace(path.sky_mag[minutes], 1.0 / height[minutes]).sum() / 60.0 * advice.keep / one.cycle_s / best
        told *= length / len(minutes)
        assert run.hours == pytest.approx(told, rel=0.005)


def test_panels_of_one_picture_are_even_to_within_a_sub_and_subs_are_whole():
    made, runs, stretches = planned(-24.6)
    panels = {run.panel: 0.0 for run in runs if run.wish == 2}
    each = max(run.hours / run.frames for run in runs if run.wish == 2)
    for run in runs:
        if run.wish == 2:
            panels[run.panel] += run.hours
    assert len(panels) == 3
    assert runs_of(made, stretches[::-1]) == runs_of(made, stretches) == runs
    assert max(panels.values()) - min(panels.values()) <= each
    for run in runs:
        spent = (run.ends_at - run.begins_at).total_seconds()
        cycle = made.found[run.stand][run.wish].cycle_s
        assert -60 <= spent - run.frames * cycle <= 60


def test_what_an_order_is_worth_is_what_its_frames_bring():
    """By hand from the runs: the root of the hours of the poorest panel, once for each; slots promise a little more."""
    made, runs, stretches = planned(-24.6)
    by_hand = 0.0
    for wish in range(3):
        panels = {run.panel for run in runs if run.wish == wish}
        hours = [sum(run.hours for run in runs if (run.wish, run.panel) == (wish, panel)) for panel in panels]
        by_hand += len(hours) * np.sqrt(min(hours, default=0.0))
    assert value_of_runs(made, stretches) == pytest.approx(by_hand, rel=1e-6)
    assert 0.97 * made.problem.value(stretches) < by_hand < made.problem.value(stretches)


def test_sleep_costs_and_an_awakening_buys_some_of_it_back():
    def value(limits: Limits) -> float:
        made, found = solved(composed(stands, wishes, a_spot(-24.6), EVENING, limits))
        assert not broken_rules(made.problem, found.stretches)
        return found.value

    stands = [stand("long", a_rig(135))]
    wishes = [wish("one", 161.0, -59.7), wish("two", 83.8, -5.4), wish("three", 80.0, -40.0)]
    awake, asleep, once = value(Limits()), value(Limits("22:00", "02:00")), value(Limits("22:00", "02:00", 1))
    assert asleep < once < awake * 1.0001


def test_no_order_by_head_is_better_and_the_price_of_each_is_told():
    stands = [stand("long", a_rig(135)), stand("wide", a_rig(100))]
    wishes = [wish("one", 161.0, -59.7), wish("two", 83.8, -5.4), wish("three", 80.0, -40.0)]
    spot = a_spot(-24.6)
    made, found = solved(composed(stands, wishes, spot, EVENING, Limits()), seconds=15.0)
    told = whole_night(made, found, spot, EVENING)
    assert {one.name for one in told.schools} == {
        "an even split", "one target all night", "the best first, the others after", "in order of setting"
    }  # fmt: skip
    assert all(one.loses_percent > 0 for one in told.schools)
    assert found.gap <= 0.02
    assert sum(one.frames for one in told.totals) == sum(one.run.frames for one in told.runs)
