"""The key of a run in the field: in packs, and in the subjects of events.

Packs of earlier releases named the runs of a planned night by rig, picture and order, and plans by their number. Phones may still
hold such packs, and events are stored as they came.
"""

from collections import Counter
from dataclasses import replace

from widedusk.core.errors import InvalidInput
from widedusk.core.field.events import Event
from widedusk.records.nights.models import Night, Run
from widedusk.records.targets.framings import framing_of

ANY_SIDES_DEG = (0.1, 0.1)  # of a frame, where only the order of panels matters


def key_of_run(run: int) -> str:
    """By the number of its record."""
    return f"run-{run}"


def _panel_place(run: Run) -> int:
    """The place of its panel among those that the framing keeps."""
    framing = framing_of(run.framing) if run.framing is not None else None
    if framing is None or run.panel is None:
        return 0
    try:
        places = [(panel.row, panel.column) for panel in framing.kept(framing.panels(*ANY_SIDES_DEG))]
    except InvalidInput:
        return 0
    return places.index(run.panel) if run.panel in places else 0


def runs_by_key(night: Night) -> dict[str, Run]:
    """The runs of a night by every key that a pack may have given them."""
    found: dict[str, Run] = {}
    seen: Counter[str] = Counter()
    rows = Run.objects.filter(night=night, deleted_at=None).select_related("framing", "target", "rig", "plan", "result")
    for run in rows.order_by("plan__change_at", "plan__begins_at", "id"):
        found[key_of_run(run.pk)] = run
        if run.origin == "plan":
            found[f"plan-{run.pk}"] = run
        elif run.origin == "schedule":
            picture = f"{run.rig_id}-{run.target_id}.{run.framing_id or 0}-{_panel_place(run)}"
            seen[picture] += 1
            found[f"{picture}.{seen[picture]}"] = run
    return found


def run_names(runs: dict[str, Run]) -> dict[str, str]:
    """Runs as they are known here: target, panel, rig, and which of several."""
    found = {}
    for key, run in runs.items():
        panel = f", panel {_panel_place(run) + 1}" if run.panel else ""
        again = f", {run.ordinal}" if run.ordinal > 1 else ""
        found[key] = f"{run.target.name}{panel}, {run.rig.name if run.rig else ''}".rstrip(", ") + again
    return found


def run_key_in(subject: str) -> str:
    """What stands for a run in the subject of an event: "run:KEY:begun", "cue:KEY:done", "step:find:KEY"; else empty."""
    parts = subject.split(":")
    if len(parts) != 3:
        return ""
    return {"run": parts[1], "cue": parts[1], "step": parts[2]}.get(parts[0], "")


def run_of(subject: str, runs: dict[str, Run]) -> Run | None:
    """The run that an event is about, among those of its night."""
    return runs.get(run_key_in(subject))


def by_its_record(event: Event, runs: dict[str, Run]) -> Event:
    """An event with its run's present key in place of an older one, so that all that is said of a run has one name."""
    run, key = run_of(event.subject, runs), run_key_in(event.subject)
    if run is None or key == key_of_run(run.pk):
        return event
    return replace(event, subject=event.subject.replace(f":{key}", f":{key_of_run(run.pk)}", 1))
