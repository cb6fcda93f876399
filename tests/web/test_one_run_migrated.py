"""A database that the last release filled: every night, run, frame, event and total is there after runs became one row."""

from datetime import UTC, date, datetime, timedelta

import pytest
from django.contrib.auth import get_user_model
from django.core.management import call_command
from django.db import connection
from django.db.migrations.executor import MigrationExecutor

from widedusk.records.frames.models import Frame
from widedusk.records.nights.models import Event, Night, Run
from widedusk.records.nights.runs import counted_frames, noted_of

LAST_RELEASE = [("nights", "0010_best_from_every_ten_minutes")]
DUSK = datetime(2026, 11, 20, 18, 0, tzinfo=UTC)


def as_it_was(apps) -> dict[str, int]:
    """A night with a schedule of three runs, one of them shot and counted, one under way on a phone; a run of files alone; two
    nights noted by hand; a plan of its own that a phone began; and one that was deleted."""
    models = (
        "nights.Night",
        "nights.Run",
        "nights.Event",
        "frames.Folder",
        "frames.Frame",
        "kit.Rig",
        "grounds.Spot",
        "targets.Target",
    )
    rows = {name: apps.get_model(*name.split(".")).objects for name in models}
    owner = get_user_model().objects.get(username="demo").pk
    rig, spot = rows["kit.Rig"].first(), rows["grounds.Spot"].first()
    first, second = rows["targets.Target"].order_by("id")[:2]
    night = rows["nights.Night"].create(owner_id=owner, name="n", spot=spot, date=date(2026, 11, 20), whole={"rigs": [rig.pk]})
    other = rows["nights.Night"].create(owner_id=owner, name="o", spot=spot, date=date(2026, 11, 21))
    common = {"owner_id": owner, "night": night, "rig": rig}

    def run(name: str, target, **more):
        return rows["nights.Run"].create(**{**common, "name": name, "target": target, **more})

    slots = [{"begins_at": DUSK + timedelta(hours=hour), "ends_at": DUSK + timedelta(hours=hour + 1)} for hour in range(3)]
    expected = [{"frames": 40 + place, "exposure_s": 60.0, "signal": 1.5} for place in range(3)]
    planned = [
        run(f"s{place}", target, scheduled=True, held=place == 0, expected=expected[place], choices={"gap_s": 3}, **slots[place])
        for place, target in enumerate((first, second, first))
    ]
    alone = run("alone", first, choices={"gap_s": 2})
    gone = run("gone", first, choices={}, deleted_at=DUSK)
    folder = rows["frames.Folder"].create(owner_id=owner, name="f", night=night, rig=rig, target=first, path="f")
    taken = {"exposure_s": 60.0, "f_number": 4.0, "iso": 800, "snapshot": {"name": "as it was"}}
    counted = run("shot", second, state="done", frames=31, sky_mag=21.4, expected={"folder": folder.pk, "planned": planned[1].pk},
                  **taken, **slots[1])  # fmt: skip
    found = run(
        "found", first, state="running", expected={"folder": folder.pk, "elsewhere": True, "planned": 999_999}, **taken, **slots[2]
    )
    for row, count in ((counted, 35), (found, 7)):
        for number in range(count):
            rows["frames.Frame"].create(
                owner_id=owner, folder=folder, run=row, name=f"{row.name} {number}", size_bytes=1, changed_ns=1, state="done"
            )
    for place in range(2):
        run(
            f"noted {place}",
            first,
            state="noted",
            night=other,
            frames=50 + place,
            exposure_s=30.0,
            f_number=2.8,
            filter_name="none",
        )
    keys = [f"{rig.pk}-{first.pk}.0-0.2", f"plan-{alone.pk}"]
    said = [("begun", 0, {"at": DUSK.isoformat()}), ("begun", 1, {"at": DUSK.isoformat()})]
    said += [("ended", 1, {"at": (DUSK + timedelta(hours=1)).isoformat(), "frames": 55}), ("noted", None, {"words": "dew"})]
    for number, (kind, key, data) in enumerate(said):
        subject = f"run:{keys[key]}:{kind}" if key is not None else "noted:1"
        told = {"event_id": f"e{number}", "device": "phone", "number": number, "offset_s": 60.0, "received_at": DUSK}
        rows["nights.Event"].create(
            owner_id=owner, night=night, at=DUSK + timedelta(minutes=number), kind=kind, subject=subject, data=data, **told
        )
    scheduled = dict(zip(("pinned", "shot", "begun"), (row.pk for row in planned), strict=True))
    return scheduled | {"alone": alone.pk, "gone": gone.pk, "found": found.pk, "merged": counted.pk}


@pytest.fixture
def migrated(empty_tables):
    """Numbers of what was there, and the counts before and after."""
    call_command("load_demo", verbosity=0)
    executor = MigrationExecutor(connection)
    executor.migrate(LAST_RELEASE)
    apps = executor.loader.project_state([*LAST_RELEASE, ("frames", "0007_runs_that_fell_silent")]).apps
    numbers = as_it_was(apps)
    before = {name: apps.get_model(*name.split(".")).objects.count() for name in ("nights.Night", "nights.Event", "frames.Frame")}
    executor = MigrationExecutor(connection)
    executor.migrate(executor.loader.graph.leaf_nodes())
    return numbers, before


def test_nothing_is_lost_and_nothing_counts_twice(migrated):
    numbers, before = migrated
    assert before == {
        "nights.Night": Night.objects.count(),
        "nights.Event": Event.objects.count(),
        "frames.Frame": Frame.objects.count(),
    }
    runs = {name: Run.objects.select_related("plan", "result").filter(pk=number).first() for name, number in numbers.items()}
    assert runs["merged"] is None  # it is the planned run now
    shot = runs["shot"]
    assert (shot.state, shot.plan.frames, shot.result.frames, shot.result.kept, shot.taken.count()) == ("done", 41, 35, 31, 35)
    assert (shot.result.sky_mag, shot.result.f_number, shot.snapshot) == (21.4, 4.0, {"name": "as it was"})
    pinned = runs["pinned"]
    assert (pinned.state, pinned.origin, pinned.plan.pinned, pinned.plan.signal, pinned.ordinal) == (
        "planned",
        "schedule",
        True,
        1.5,
        1,
    )
    assert pinned.plan.choices == {"gap_s": 3} and pinned.plan.ends_at == DUSK + timedelta(hours=1)
    begun = runs["begun"]
    assert (begun.state, begun.ordinal, begun.result.begins_at) == ("running", 2, DUSK - timedelta(minutes=1))
    alone = runs["alone"]
    assert (alone.state, alone.origin, alone.result.frames, alone.events.count()) == ("done", "plan", 55, 2)
    assert runs["gone"].deleted_at == DUSK
    found = runs["found"]
    assert (found.state, found.origin, found.result.recognition, found.taken.count()) == ("running", "files", "other field", 7)
    assert Event.objects.filter(run=begun).count() == 1 and Event.objects.filter(run=None).count() == 1
    owner = get_user_model().objects.get(username="demo")
    assert sorted(counted_frames(run) for run in noted_of(owner)) == [31, 50, 51]


def test_migrating_again_is_harmless_and_the_way_back_keeps_the_runs(migrated):
    numbers, _ = migrated
    call_command("migrate", verbosity=0)
    count = Run.objects.count()
    executor = MigrationExecutor(connection)
    executor.migrate(LAST_RELEASE)
    old = executor.loader.project_state(LAST_RELEASE).apps.get_model("nights", "Run").objects
    assert old.count() == count
    pinned, shot = old.get(pk=numbers["pinned"]), old.get(pk=numbers["shot"])
    assert pinned.scheduled and pinned.held and pinned.choices == {"gap_s": 3} and pinned.expected["frames"] == 40
    assert (shot.state, shot.frames, shot.sky_mag) == ("done", 31, 21.4)
    executor = MigrationExecutor(connection)
    executor.migrate(executor.loader.graph.leaf_nodes())
    assert Run.objects.count() == count
