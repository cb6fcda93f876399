"""Writing what is said of a run, and what follows from it: the only place that sets a run's state and result."""

from collections.abc import Iterable, Mapping
from datetime import datetime
from typing import Any

from django.db import transaction

from widedusk.core.runs.facts import TAKEN_BY, Fact, Figure, RunRecord, Source, Value, advance, record_of
from widedusk.records.clock import true_now
from widedusk.records.kit.services import snapshot_of
from widedusk.records.nights.models import Run, RunFact, RunResult

YES_OR_NO = {"planned", "skipped"}
WHOLE = {"frames", "kept", "iso"}
SHOT_FIGURES: tuple[Figure, ...] = (
    "begins_at",
    "ends_at",
    "frames",
    "kept",
)  # which a plan has too, and which must not stand for it
SETTINGS: tuple[Figure, ...] = ("exposure_s", "f_number", "iso", "sky_mag", "filter_name")  # for which a plan may stand in


def record_of_run(run: Run) -> RunRecord:
    """All that is said of a run; uses prefetched facts."""
    return RunRecord(frozenset(fact_of(row) for row in run.facts.all()))  # one of each source and figure, checked as it was stored


def fact_of(row: RunFact) -> Fact:
    """As the core has it."""
    value: Value = row.words if row.words is not None else row.moment
    if row.number is not None:
        value = bool(row.number) if row.figure in YES_OR_NO else int(row.number) if row.figure in WHOLE else row.number
    return Fact(source=row.source, figure=row.figure, value=value, order=row.order)  # type: ignore[arg-type]


def fact_row(run: Run, fact: Fact) -> RunFact:
    """As it is stored."""
    value = fact.value
    return RunFact(
        run=run,
        source=fact.source,
        figure=fact.figure,
        order=fact.order,
        moment=value if isinstance(value, datetime) else None,
        words=value if isinstance(value, str) else None,
        number=float(value) if isinstance(value, bool | int | float) else None,
    )


def next_order() -> int:
    """Of a statement that is made now: microseconds."""
    return int(true_now().timestamp() * 1e6)


def facts_from(source: Source, values: Mapping[str, Value], order: int | None = None) -> list[Fact]:
    """Statements of one source made at once, by figure. order: None to count by time."""
    count = next_order() if order is None else order
    return [Fact(source=source, figure=figure, value=value, order=count) for figure, value in values.items()]  # type: ignore[arg-type]


@transaction.atomic
def save_facts(run: Run, facts: Iterable[Fact]) -> Run:
    """Let a source say something of a run, which must be stored already; its state and result follow.

    Raises InvalidInput for a value that the figure cannot have.
    """
    Run.objects.select_for_update(of=("self",)).get(pk=run.pk)  # two at once: one after the other
    before = record_of(fact_of(row) for row in RunFact.objects.filter(run=run))
    record = before
    for fact in facts:
        record = advance(record, fact)
    new = record.facts - before.facts
    RunFact.objects.bulk_create(
        [fact_row(run, fact) for fact in new],
        update_conflicts=True,
        unique_fields=["run", "source", "figure"],
        update_fields=["number", "moment", "words", "order"],
    )
    _follow(run, record)
    return run


def _follow(run: Run, record: RunRecord) -> None:
    changed = {"state"} if run.state != record.state else set()
    run.state = record.state
    if record.shot and not run.snapshot and run.rig is not None:
        run.snapshot = snapshot_of(run.rig)  # as it is now that it takes pictures
        changed.add("snapshot")
    if changed:
        run.save(update_fields=(*changed, "updated_at"))
    figures = result_figures(record)
    row = RunResult.objects.filter(run=run).first()
    if row is None and not record.shot and record.value("kept") is None:
        return
    row = row or RunResult(run=run)
    if row._state.adding or any(getattr(row, name) != value for name, value in figures.items()):
        for name, value in figures.items():
            setattr(row, name, value)
        row.save()
    run.result = row


def result_figures(record: RunRecord) -> dict[str, Any]:
    """The columns of a result that follow from a run's facts."""
    values: dict[str, Any] = {name: record.value(name, TAKEN_BY) for name in SHOT_FIGURES}
    values |= {name: record.value(name) for name in SETTINGS}
    return values | {"filter_name": record.value("filter_name") or ""}
