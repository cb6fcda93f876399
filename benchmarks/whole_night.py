"""How long a whole night takes to plan, and how good it is proved to be. Ratios of time below 1 hold.

    python -m benchmarks.whole_night

Nothing else should run on the machine. Nights with targets that pass one after the other, and with targets that are all alike,
which leave most orders to be told apart; each beside an even split. Times are of three nights each; gaps are the widest.
"""

import subprocess
import sys
import time
from collections.abc import Sequence
from datetime import date, timedelta

import numpy as np

from tests.conftest import a_rig, a_spot
from widedusk.core.choices import Choices
from widedusk.core.plan.schedule.compose import Held, Limits, Stop, composed, moved, solved
from widedusk.core.plan.schedule.problem import Aim, Picture, Problem, Rules, Way
from widedusk.core.plan.schedule.runs import runs_of
from widedusk.core.plan.schedule.schools import even_split
from widedusk.core.plan.schedule.solve import solve
from widedusk.core.plan.schedule.trip import composed_trip, planned_trip
from widedusk.core.plan.schedule.worth import PanelWish, Stand, Wish
from widedusk.core.scene import Target

EVENING = date(2026, 12, 9)
NIGHTS = 7


def night(items: int, rigs: int, slots: int, slot: int, seed: int, *, alike: bool, tied: bool = False) -> Problem:
    rng = np.random.default_rng(seed)
    hours, ways = np.arange(slots * slot) / 60.0, []
    for rig in range(rigs):
        for aim in range(items):
            middle = hours[-1] / 2 + rng.normal(0, 0.05) if alike else rng.uniform(0, hours[-1])
            half = hours[-1] * 0.45 if alike else rng.uniform(2.0, 4.5)
            worth = np.clip(1 - ((hours - middle) / half) ** 2 / 2, 0, 1) * (abs(hours - middle) < half)
            ways.append(Way(aim, rig, worth * (0.7 if rig else 1.0) / 60.0, worth > 0, worth > 0))
    pictures = [Picture()] * (1 if tied else items)
    return Problem(pictures, [Aim(0 if tied else n) for n in range(items)], ways, 0, slots, Rules(slot))


def told(name: str, nights: Sequence[Problem], allowed_s: float, within: float) -> None:
    spent, gaps, gains = [], [], []
    for one in nights:
        begun = time.perf_counter()
        found = solve(one, gap=within, seconds=20.0)
        spent.append(time.perf_counter() - begun)
        gaps.append(found.gap)
        gains.append(found.value / max(one.value(even_split(one)), 1e-9) - 1.0)
    print(
        f"{name:44s} {np.mean(spent):6.2f} s of {allowed_s:g} s  ratio {np.mean(spent) / allowed_s:5.2f}   "
        f"gap {max(gaps) * 100:.2f} % of {within * 100:g} %   over an even split {np.mean(gains) * 100:.1f} %",
        flush=True,
    )


def main() -> None:
    solve(night(2, 1, 30, 10, 0, alike=False))  # what is read once a process is read before
    for alike in (False, True):
        kind = "alike" if alike else "passing"
        told(f"3 targets, 2 rigs, 5 min, {kind}", [night(3, 2, 100, 5, n, alike=alike) for n in (1, 2, 3)], 2.0, 0.01)
        told(f"5 panels, 2 rigs, 5 min, {kind}", [night(5, 2, 100, 5, n, alike=alike) for n in (1, 2, 3)], 2.0, 0.01)
        told(f"9 panels, 1 rig, 10 min, {kind}", [night(9, 1, 60, 10, n, alike=alike) for n in (1, 2, 3)], 10.0, 0.03)
    told("9 panels of one picture, 1 rig, 10 min", [night(9, 1, 60, 10, n, alike=True, tied=True) for n in (1, 2, 3)], 10.0, 0.03)

    spot, stands = a_spot(-24.6), [Stand("long", a_rig(135), Choices()), Stand("wide", a_rig(100), Choices())]
    places = (("one", 161.0, -59.7), ("two", 83.8, -5.4), ("three", 80.0, -40.0))
    wishes = [Wish(Target(name, ra, dec, 2.0, 22.0), [PanelWish("", ra, dec)]) for name, ra, dec in places]
    made, found = solved(composed(stands, wishes, spot, EVENING, Limits()))
    runs = runs_of(made, found.stretches)
    last = [Held(one.stand, one.wish, one.panel, one.held_from, one.held_to) for one in runs]
    first = runs[0]
    held = Held(first.stand, first.wish, first.panel, first.held_from, first.held_to - timedelta(minutes=30))
    spent = []
    for _ in range(5):
        begun = time.perf_counter()
        moved(composed(stands, wishes, spot, EVENING, Limits()), [held], last, first.stand)
        spent.append(time.perf_counter() - begun)
    print(f"a run moved, all else filled in {np.median(spent) * 1000:15.0f} ms of 400 ms  ratio {np.median(spent) / 0.4:5.2f}")
    for school in ("all", "one"):
        a_trip(school)
    the_same(20)


def the_same(times: int) -> None:
    """How many different answers one question has on a machine with other work; 1 holds."""
    others = [subprocess.Popen([sys.executable, "-c", "while True: pass"]) for _ in range(4)]
    try:
        for name, one in (
            ("nine panels of one picture", night(9, 1, 60, 10, 1, alike=True, tied=True)),
            ("4 targets, 2 rigs", night(4, 2, 60, 10, 2, alike=True)),
        ):
            answers = {solve(one, gap=1e-4, seconds=1.0).stretches for _ in range(times)}
            print(f"{f'{name}, {times} times under load':44s} {len(answers)} answer(s)", flush=True)
    finally:
        for one in others:
            one.kill()


def a_trip(school: str) -> None:
    """Two targets and three panels by two rigs over a week: looking at the nights, and the best order of all."""
    spot, how = a_spot(-24.6), Choices(panel_school=school)
    stands = [Stand("long", a_rig(135), how), Stand("wide", a_rig(100), how)]
    places = (("one", 161.0, -59.7, 1), ("two", 83.8, -5.4, 1), ("three", 80.0, -40.0, 3))
    wishes = [
        Wish(Target(name, ra, dec, 2.0, 22.0), [PanelWish("", ra + 4.0 * panel, dec) for panel in range(panels)])
        for name, ra, dec, panels in places
    ]
    begun = time.perf_counter()
    trip = composed_trip([Stop(stands, spot, EVENING + timedelta(days=number)) for number in range(NIGHTS)], wishes)
    plan = planned_trip(trip, ["ridge"] * NIGHTS)
    spent = time.perf_counter() - begun
    words = "every panel every night" if school == "all" else "panels on any night"
    print(
        f"{f'a trip of {NIGHTS} nights, {words}':44s} {spent:6.2f} s of 20 s  ratio {spent / 20:5.2f}   "
        f"gap {plan.gap_percent:.2f} %   {plan.verdict.advice}"
    )


if __name__ == "__main__":
    main()
