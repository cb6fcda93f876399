"""Plans, results and facts of runs that are there already, and which run an event is about.

Frames were of a run of their own beside the planned one: where that named a planned run which is still there, the two become one, and the
planned one keeps its number. Nothing else is put together, and nothing is left out.
"""

import re
from collections import defaultdict
from datetime import UTC, datetime, timedelta

from django.db import migrations

RESULTS = ("exposure_s", "f_number", "iso", "sky_mag")
AT_ONCE = 500


def _order(moment):
    return int(moment.timestamp() * 1e6)


def _facts(RunFact, run, source, order, values):
    rows = []
    for figure, value in values.items():
        if value is None or value == "":
            continue
        said = {"moment": value} if isinstance(value, datetime) else {"words": value} if isinstance(value, str) else {"number": float(value)}
        rows.append(RunFact(run_id=run, source=source, figure=figure, order=order, **said))
    return rows


def _moment(told):
    return datetime.fromisoformat(told) if told else None


def _merges(apps):
    """By number of a run of frames, the planned run that it belongs to: of several the one with most frames."""
    Run, Frame = apps.get_model("nights", "Run"), apps.get_model("frames", "Frame")
    claims = defaultdict(list)
    shot = Run.objects.filter(expected__planned__isnull=False, deleted_at=None).exclude(state="planned")
    for run in shot.order_by("id"):
        planned = Run.objects.filter(pk=run.expected["planned"], night=run.night_id, rig=run.rig_id, owner=run.owner_id)
        if planned.filter(state="planned", deleted_at=None).exists():
            claims[run.expected["planned"]].append((Frame.objects.filter(run=run).count(), -run.pk))
    return {-max(claimants)[1]: planned for planned, claimants in claims.items()}


def _fill_plan(apps, run):
    RunPlan, RunFact = apps.get_model("nights", "RunPlan"), apps.get_model("nights", "RunFact")
    expected = run.expected
    RunPlan.objects.create(
        run_id=run.pk,
        choices=run.choices,
        changed_at=run.created_at,
        begins_at=run.begins_at,
        ends_at=run.ends_at,
        pinned=run.held,
        change_at=_moment(expected.get("change_at")),
        last_frame_ends_at=_moment(expected.get("ends_at")),
        frames=expected.get("frames"),
        exposure_s=expected.get("exposure_s"),
        signal=expected.get("signal", 0.0),
    )
    values = {"planned": True, "frames": expected.get("frames"), "exposure_s": expected.get("exposure_s")}
    RunFact.objects.bulk_create(_facts(RunFact, run.pk, "plan", _order(run.updated_at), values))


def _fill_shot(apps, run, into):
    """What was found in files or noted by hand, into a run of its own or the planned one."""
    RunResult, RunFact, Frame = (apps.get_model(*name) for name in (("nights", "RunResult"), ("nights", "RunFact"), ("frames", "Frame")))
    noted = run.state == "noted"
    taken = Frame.objects.filter(run=run, state="done").count()
    counted = {name: getattr(run, name) for name in RESULTS}
    values = {**counted, "kept": run.frames, "filter_name": run.filter_name}
    if not noted:
        values |= {"begins_at": run.begins_at, "ends_at": run.ends_at, "frames": taken or None}
    source = "user" if noted else "files"
    RunFact.objects.bulk_create(_facts(RunFact, into, source, _order(run.updated_at), values), ignore_conflicts=True)
    recognition = "" if noted else "other field" if run.expected.get("elsewhere") else "planned" if into != run.pk else "target"
    RunResult.objects.create(
        run_id=into,
        **counted,
        kept=run.frames,
        filter_name=run.filter_name,
        begins_at=None if noted else run.begins_at,
        ends_at=None if noted else run.ends_at,
        frames=None if noted else taken or None,
        recognition=recognition,
    )


def _keys(apps, night):
    """The runs of a night by the keys that packs of the last release gave them."""
    Run = apps.get_model("nights", "Run")
    found, seen = {}, defaultdict(int)
    rows = Run.objects.filter(night=night, deleted_at=None, state="planned").select_related("framing").order_by("begins_at", "id")
    for run in rows:
        if not run.scheduled:
            found[f"plan-{run.pk}"] = run.pk
            continue
        place, framing = 0, run.framing
        if run.panel and framing is not None:
            laid = [[row, column] for row in range(framing.rows) for column in range(framing.columns)]
            kept = [one for one in laid if one not in framing.dropped]
            place = kept.index(run.panel) if run.panel in kept else 0
        key = f"{run.rig_id}-{run.target_id}.{run.framing_id or 0}-{place}"
        seen[key] += 1
        found[f"{key}.{seen[key]}"] = run.pk
    return found


def _fill_events(apps, night):
    """Which run each event is about, and what the phones say of it: the last word on its beginning and on its end."""
    Event, RunFact, Run = (apps.get_model("nights", name) for name in ("Event", "RunFact", "Run"))
    keys = _keys(apps, night)
    rows = list(Event.objects.filter(night=night).order_by("at", "id"))
    silenced = {str(row.data.get("event")) for row in rows if row.kind == "taken back"}
    values = defaultdict(dict)
    for row in rows:
        key = re.fullmatch(r"(?:run|step:run):([^:]+)(?::\w+)?", row.subject)
        run = keys.get(key[1]) if key else None
        if run is None:
            continue
        Event.objects.filter(pk=row.pk).update(run=run)
        if row.event_id in silenced or row.kind not in {"begun", "ended"}:
            continue
        try:
            said = datetime.fromisoformat(str(row.data["at"])).astimezone(UTC) - timedelta(seconds=row.offset_s)
        except (KeyError, ValueError, OverflowError):
            continue  # one that an older release kept and nobody can read
        values[run]["begins_at" if row.kind == "begun" else "ends_at"] = said
        if row.kind == "ended" and isinstance(row.data.get("frames"), int):
            values[run]["frames"] = row.data["frames"]
    for run, told in values.items():
        RunFact.objects.bulk_create(_facts(RunFact, run, "phone", len(rows), told))
        row = Run.objects.get(pk=run)
        row.state = "done" if "ends_at" in told else "running"
        row.save(update_fields=("state",))
        apps.get_model("nights", "RunResult").objects.create(run_id=run, **told)


def fill(apps, schema_editor):
    Run, Frame = apps.get_model("nights", "Run"), apps.get_model("frames", "Frame")
    Judgement = apps.get_model("frames", "Judgement")
    merges = _merges(apps)
    ordinals = defaultdict(int)
    for run in Run.objects.order_by("night", "begins_at", "id").iterator(chunk_size=AT_ONCE):
        planned = run.state == "planned"
        run.origin = "schedule" if run.scheduled else "plan" if planned else "noted" if run.state == "noted" else "files"
        if run.panel:
            run.panel_row, run.panel_column = run.panel
        if run.origin == "schedule" and run.deleted_at is None:
            key = (run.night_id, run.rig_id, run.target_id, run.framing_id, run.panel_row, run.panel_column)
            ordinals[key] += 1
            run.ordinal = ordinals[key]
        Run.objects.bulk_update([run], ["origin", "panel_row", "panel_column", "ordinal"])
        if planned:
            _fill_plan(apps, run)
        elif run.pk not in merges:
            _fill_shot(apps, run, run.pk)
    for night in apps.get_model("nights", "Event").objects.values_list("night", flat=True).distinct().order_by("night"):
        _fill_events(apps, night)
    for shot, into in merges.items():
        run, plan = Run.objects.get(pk=shot), Run.objects.get(pk=into)
        apps.get_model("nights", "RunResult").objects.filter(run=plan).delete()  # of the phone; files come before it
        _fill_shot(apps, run, into)
        Run.objects.filter(pk=into).update(state="done" if run.state == "done" else "running", snapshot=run.snapshot)
        Frame.objects.filter(run=shot).update(run=into)
        Judgement.objects.filter(run=shot).delete()
        run.delete()


def give_back(apps, schema_editor):
    """The columns of the last release, from plan and result. A run that has both stays one."""
    Run = apps.get_model("nights", "Run")
    RunPlan, RunResult = apps.get_model("nights", "RunPlan"), apps.get_model("nights", "RunResult")
    Frame = apps.get_model("frames", "Frame")
    for run in Run.objects.order_by("id"):
        plan, result = RunPlan.objects.filter(run=run).first(), RunResult.objects.filter(run=run).first()
        run.scheduled = run.origin == "schedule"
        run.panel = [run.panel_row, run.panel_column] if run.panel_row is not None else None
        first = Frame.objects.filter(run=run).first()
        run.expected = {"folder": first.folder_id} if first is not None else {}
        if plan is not None:
            run.choices, run.held, run.begins_at, run.ends_at = plan.choices, plan.pinned, plan.begins_at, plan.ends_at
            told = {"frames": plan.frames, "exposure_s": plan.exposure_s, "signal": plan.signal}
            run.expected |= {name: value for name, value in told.items() if value}
        if result is not None:
            for name in RESULTS:
                setattr(run, name, getattr(result, name))
            run.frames, run.filter_name = result.kept, result.filter_name
            run.begins_at, run.ends_at = result.begins_at or run.begins_at, result.ends_at or run.ends_at
        if run.state in {"done", "noted"} and None in {run.frames, run.exposure_s, run.f_number}:
            run.state = "running"
        run.save()


class Migration(migrations.Migration):
    dependencies = [("nights", "0011_one_run")]
    operations = [migrations.RunPython(fill, give_back)]
