"""Spots of one place side by side: how much of the night each leaves to each target."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date

from widedusk.core.choices import Choices
from widedusk.core.exposure.response import Through
from widedusk.core.night.windows import night_at, track
from widedusk.core.scene import Spot, Target
from widedusk.core.verdict import Quantity, Verdict, Working, duration_words


@dataclass(frozen=True)
class SpotTime:
    """What one spot gives one target."""

    minutes: int
    words: str
    runs: str  # "21:00 to 23:10, 01:05 to 04:20"


@dataclass(frozen=True)
class SpotRow:
    target: str
    times: tuple[SpotTime, ...]  # in the order of the spots
    best: int | None  # which of them; none when it makes no difference
    wins_minutes: int  # over the next best


@dataclass(frozen=True)
class SpotComparison:
    spots: tuple[str, ...]
    rows: tuple[SpotRow, ...]
    totals: tuple[SpotTime, ...]
    verdict: Verdict


def _words(minutes: int) -> str:
    return duration_words(minutes * 60) if minutes else "none"


def compare_spots(
    spots: Sequence[Spot], evening: date, targets: Sequence[Target], choices: Choices, through: Through | None = None
) -> SpotComparison:
    """Usable time by spot and target in one night. All spots share the place's sky. Raises InvalidInput."""
    times: list[list[SpotTime]] = []
    for spot in spots:
        night = night_at(spot, evening)
        column = []
        for target in targets:
            path = track(night, target, choices, through)
            clocks = [f"{spot.clock(float(night.mjd[first]))} to {spot.clock(float(night.mjd[last]))}" for first, last in path.runs]
            column.append(SpotTime(path.usable_minutes, _words(path.usable_minutes), ", ".join(clocks)))
        times.append(column)
    rows = []
    for number, target in enumerate(targets):
        of_all = tuple(column[number] for column in times)
        ordered = sorted(range(len(spots)), key=lambda one, each=of_all: -each[one].minutes)  # type: ignore[misc]
        wins = of_all[ordered[0]].minutes - of_all[ordered[1]].minutes if len(ordered) > 1 else 0
        rows.append(SpotRow(target.name, of_all, ordered[0] if wins else None, wins))
    totals = [sum(one.minutes for one in column) for column in times]
    answer = tuple(SpotTime(minutes, _words(minutes), "") for minutes in totals)
    return SpotComparison(tuple(one.name for one in spots), tuple(rows), answer, _verdict(spots, rows, totals))


def _verdict(spots: Sequence[Spot], rows: Sequence[SpotRow], totals: Sequence[int]) -> Verdict:
    best = max(range(len(spots)), key=lambda one: totals[one])
    rest = max((total for number, total in enumerate(totals) if number != best), default=0)
    wins = totals[best] - rest
    if len(spots) < 2:
        sentence = f"{spots[0].name} is the only spot of this place; add another to compare."
    elif not wins:
        sentence = "It makes no difference where you stand tonight."
    elif len(rows) == 1:
        sentence = f"Standing at “{spots[best].name}” wins {_words(wins)} of {rows[0].target}."
    else:
        sentence = f"Standing at “{spots[best].name}” wins {_words(wins)} over all {len(rows)} targets together."
    working = Working(
        "spots",
        "Usable time at a spot",
        "Σ minutes dark ∩ above this spot's horizon profile ∩ above the lowest altitude ∩ Moon bearable",
        tuple(Quantity(spot.name, text=_words(total)) for spot, total in zip(spots, totals, strict=True)),
        Quantity("Difference to the next best", text=_words(wins)),
        "The window of each target, minute by minute, with each spot's own horizon profile",
        "definition",
        "Time of several targets is added up, although one camera can only follow one of them at a time.",
    )
    return Verdict(
        "Where to stand",
        "go" if totals[best] else "stop",
        sentence,
        "what stands in the way",
        figures=(Quantity("Won", text=_words(wins), working="spots"),),
        workings=(working,),
    )
