"""What each source says of one run, and what follows from all of it.

    plan   62 frames of 60 s ──┐
    phone  started 00:31 ──────┼──> facts ──> state, and of each figure the value that stands
    files  58 frames, 51 kept ─┤
    user   "drop it" ──────────┘

A source has one statement on each figure: its latest, by its own count of statements (`order`). What a source no longer says, it
states as None. The record of a run is a function of the set of its facts: their order, repetition and grouping
do not matter.

**Precedence**: the user over all, then files, then the phone, then the plan.
"""

from collections.abc import Iterable
from dataclasses import dataclass, replace
from datetime import datetime
from typing import Literal, get_args

from widedusk.core.errors import Checks

Source = Literal["user", "files", "phone", "plan"]
Figure = Literal[
    "planned",  # whether the plan has it; plan
    "skipped",  # whether it was given up; phone, user
    "begins_at",
    "ends_at",
    "frames",  # planned, taken
    "kept",  # of them, in the stack
    "exposure_s",
    "f_number",
    "iso",
    "sky_mag",
    "filter_name",
]
State = Literal["planned", "running", "done", "dropped", "noted"]
Value = bool | int | float | str | datetime | None

SOURCES: tuple[Source, ...] = get_args(Source)  # by precedence
FIGURES: tuple[Figure, ...] = get_args(Figure)
TAKEN_BY: tuple[Source, ...] = ("user", "files", "phone")  # who can say that something was shot
MAX_FRAMES = 1_000_000
MAX_FILTER_NAME = 120


@dataclass(frozen=True, kw_only=True)
class Fact:
    """One statement."""

    source: Source
    figure: Figure
    value: Value  # aware datetimes, seconds, mag/arcsec²; None: no longer said
    order: int  # of two statements of one source on one figure the higher stands


@dataclass(frozen=True)
class RunRecord:
    """A run as all sources together have it. facts: one of each source and figure at most."""

    facts: frozenset[Fact] = frozenset()

    def statement(self, source: Source, figure: Figure) -> Value:
        """What one source says, None where it says nothing."""
        return next((fact.value for fact in self.facts if (fact.source, fact.figure) == (source, figure)), None)

    def standing(self, figure: Figure, sources: Iterable[Source] = SOURCES) -> Fact | None:
        """The statement that stands, by precedence."""
        allowed = set(sources)
        statements = [fact for fact in self.facts if fact.figure == figure and fact.value is not None and fact.source in allowed]
        return min(statements, key=lambda fact: SOURCES.index(fact.source), default=None)

    def value(self, figure: Figure, sources: Iterable[Source] = SOURCES) -> Value:
        """The value that stands, None where nobody says."""
        fact = self.standing(figure, sources)
        return fact.value if fact is not None else None

    @property
    def shot(self) -> bool:
        """Whether anybody says that frames were taken."""
        return any(
            self.statement(source, "begins_at") is not None or bool(self.statement(source, "frames")) for source in TAKEN_BY
        ) or bool(self.value("kept"))

    @property
    def state(self) -> State:
        """What the run is now. The user's word that it is dropped outranks everything; otherwise what was shot is not dropped."""
        if self.statement("user", "skipped"):
            return "dropped"
        counted = self.statement("user", "kept") is not None
        elsewhere = any(self.statement(source, "begins_at") or self.statement(source, "frames") for source in ("files", "phone"))
        if counted and not elsewhere and self.statement("plan", "planned") is None:
            return "noted"
        over = any(self.statement(source, "ends_at") is not None for source in ("user", "phone"))
        goes_on = self.statement("phone", "begins_at") is not None and not over  # whatever files came in so far
        if counted or (self.shot and over) or (self.value("kept") is not None and not goes_on):
            return "done"
        if self.shot:
            return "running"
        if self.statement("phone", "skipped") or self.statement("plan", "planned") is False:
            return "dropped"
        return "planned"


def _rank(fact: Fact) -> tuple[int, str]:
    """Of two statements with one order, which no source makes, the same one always stands."""
    return fact.order, repr(fact.value)


def advance(run: RunRecord, fact: Fact) -> RunRecord:
    """The run with one more fact. Commutes with itself, and stating a fact twice changes nothing.

    Raises InvalidInput for a value that the figure cannot have.
    """
    check_fact(fact)
    other = next((one for one in run.facts if (one.source, one.figure) == (fact.source, fact.figure)), None)
    if other is not None and _rank(other) >= _rank(fact):
        return run
    return replace(run, facts=(run.facts - {other} if other is not None else run.facts) | {fact})


def record_of(facts: Iterable[Fact]) -> RunRecord:
    """All of them, in whatever order."""
    run = RunRecord()
    for fact in facts:
        run = advance(run, fact)
    return run


def check_fact(fact: Fact) -> None:
    """Raises InvalidInput naming the figure whose value cannot be."""
    checks = Checks()
    if fact.figure not in FIGURES or fact.source not in SOURCES:
        checks.fault("figure", f"{fact.source} {fact.figure}", "No run has such a figure, or nobody of that kind speaks of runs.")
    elif fact.value is not None:
        _check_value(fact, checks)
    checks.done()


def _check_value(fact: Fact, checks: Checks) -> None:
    name, value = fact.figure, fact.value
    if name in {"planned", "skipped"}:
        if not isinstance(value, bool):
            checks.fault(name, value, "Say yes or no.")
    elif name in {"begins_at", "ends_at"}:
        if not isinstance(value, datetime) or value.tzinfo is None:
            checks.fault(name, value, "Give the moment with its zone, like 2026-12-08T20:15:00Z.")
    elif name == "filter_name":
        checks.line(name, str(value), MAX_FILTER_NAME)
    elif isinstance(value, bool | str | datetime):
        checks.fault(name, value, "Give a number.")
    elif value is not None:
        if name in {"frames", "kept", "iso"} and int(value) != value:
            checks.fault(name, value, "Give a whole number.")
        checks.within(name, float(value), *BOUNDS[name])


BOUNDS: dict[str, tuple[float, float]] = {
    "frames": (0, MAX_FRAMES),
    "kept": (0, MAX_FRAMES),
    "exposure_s": (1e-4, 3600),
    "f_number": (0.7, 64),
    "iso": (1, 1_000_000),
    "sky_mag": (5, 25),
}
