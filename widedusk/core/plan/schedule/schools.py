"""How people share a night out by head, as schedules to hold against the best one. They keep the rules as well as a head can."""

from collections.abc import Callable, Sequence
from itertools import product

import numpy as np

from widedusk.core.plan.schedule.problem import Problem, Stretch


def _fitted(problem: Problem, number: int, first: int, last: int, made: Sequence[Stretch]) -> Stretch | None:
    """As much of a stretch as its way allows, beside those that are made: one pair of hands changes one rig after the other. None
    where too little is left."""
    while (one := _clipped(problem, number, first, last)) is not None:
        busy = [other.first for other in made if abs(other.first - one.first) < problem.rules.change]
        if not busy:
            return one
        first = max(busy) + problem.rules.change
    return None


def _clipped(problem: Problem, number: int, first: int, last: int) -> Stretch | None:
    """The same, were there nothing else."""
    way, rules = problem.ways[number], problem.rules
    inside = np.flatnonzero(way.open[first:last])
    if not len(inside):
        return None
    opens, closes = first + int(inside[0]), first + int(inside[-1]) + 1
    begin = max(opens - rules.change, first)
    while begin < opens and not way.seen[begin : min(begin + rules.change, closes)].all():
        begin += 1
    framed = begin + rules.change
    shut = np.flatnonzero(~way.open[max(framed, opens) : closes])
    if len(shut):
        closes = max(framed, opens) + int(shut[0])
    if closes - framed < 1 or way.counted[closes] - way.counted[framed] < rules.shortest:
        return None
    if rules.disturbs(np.array([begin]), np.array([framed])).any():
        return None
    return Stretch(number, begin, closes)


def _best(problem: Problem, numbers: Sequence[int], first: int, last: int, made: Sequence[Stretch]) -> Stretch | None:
    """Of several ways the one that gets most out of a stretch."""
    found = [one for one in (_fitted(problem, number, first, last, made) for number in numbers) if one is not None]
    return max(found, key=problem.hours, default=None)


def _ways(problem: Problem, lane: int, aims: Sequence[int], night: int = 0) -> dict[int, list[int]]:
    """Ways of one lane in one night by aim, of those aims that can be taken at all."""
    found: dict[int, list[int]] = {}
    for number, way in enumerate(problem.ways):
        if way.lane == lane and way.aim in aims and way.counted[-1] > 0 and problem.night_of_way(way) == night:
            found.setdefault(way.aim, []).append(number)
    return found


def _span(problem: Problem, numbers: Sequence[int]) -> tuple[int, int]:
    """First and last minute in which any of these ways is open."""
    open_ = np.flatnonzero(np.any([problem.ways[number].open for number in numbers], axis=0))
    return int(open_[0]), int(open_[-1]) + 1


def _even(problem: Problem, aims: Sequence[int]) -> list[Stretch]:
    made: list[Stretch] = []
    for night, lane in product(range(len(problem.nights)), range(problem.lanes)):
        ways = _ways(problem, lane, aims, night)
        if not ways:
            continue
        begin, end = _span(problem, [number for numbers in ways.values() for number in numbers])

        def middle(aim: int, ways: dict[int, list[int]] = ways) -> float:
            worth = np.sum([problem.ways[number].worth_h for number in ways[aim]], axis=0)
            return float(np.average(np.arange(len(worth)), weights=worth))

        edges = np.linspace(begin, end, len(ways) + 1).round().astype(int)
        edges[:-1] += lane * problem.rules.change
        for aim, first, last in zip(sorted(ways, key=middle), edges, edges[1:], strict=False):
            one = _best(problem, ways[aim], int(first), int(last), made)
            made += [one] if one else []
    return made


def even_split(problem: Problem) -> list[Stretch]:
    """Every night in equal parts, in the order in which the targets pass."""
    return _even(problem, range(len(problem.aims)))


def one_target(problem: Problem) -> list[Stretch]:
    """One target for the whole night, the one that gains most by it."""
    return max((_even(problem, [int(aim) for aim in aims]) for aims in problem.panels), key=problem.value, default=[])


def best_first(problem: Problem) -> list[Stretch]:
    """Whatever gives most signal has all of its window; the others get what is left."""
    made: list[Stretch] = []
    free = {lane: [(problem.first, problem.minute(problem.slots))] for lane in range(problem.lanes)}
    shot: set[tuple[int, int]] = set()
    while True:
        offers = [
            (problem.hours(one) * problem.pictures[problem.aims[way.aim].picture].weight, one, room)
            for number, way in enumerate(problem.ways)
            if (way.lane, way.aim) not in shot
            for room in free[way.lane]
            if (one := _fitted(problem, number, *room, made)) is not None
        ]
        if not offers:
            return sorted(made, key=lambda one: (problem.ways[one.way].lane, one.first))
        _, one, room = max(offers, key=lambda offer: offer[0])
        way = problem.ways[one.way]
        made.append(one)
        shot.add((way.lane, way.aim))
        free[way.lane].remove(room)
        free[way.lane] += [(room[0], one.first), (one.last, room[1])]


def by_setting(problem: Problem) -> list[Stretch]:
    """Each until it sets, the one that sets first at the beginning."""
    made: list[Stretch] = []
    for lane in range(problem.lanes):
        ways = _ways(problem, lane, range(len(problem.aims)))
        if not ways:
            continue
        at, end = _span(problem, [number for numbers in ways.values() for number in numbers])
        at += lane * problem.rules.change
        for aim in sorted(ways, key=lambda aim, ways=ways: _span(problem, ways[aim])[1]):  # type: ignore[misc]
            one = _best(problem, ways[aim], at, end, made)
            if one is not None:
                made.append(one)
                at = one.last
    return made


SCHOOLS: dict[str, Callable[[Problem], list[Stretch]]] = {
    "an even split": even_split,
    "one target all night": one_target,
    "the best first, the others after": best_first,
    "in order of setting": by_setting,
}
