"""What was kept before nights were records of their own is still there after the change, and what a night keeps now."""

from collections import Counter
from datetime import date, timedelta

import pytest
from django.core.management import call_command
from django.db import connection
from django.db.migrations.executor import MigrationExecutor

from tests.web.conftest import context_of, listed
from widedusk.records.nights.models import Night, Run, Trip

OWNED = "id bigint PRIMARY KEY, name text, created_at timestamptz, updated_at timestamptz, deleted_at timestamptz, owner_id integer"
BEFORE = (
    f"CREATE TABLE plans_plan ({OWNED}, night date, choices jsonb, rig_id bigint, spot_id bigint, target_id bigint)",
    "CREATE UNIQUE INDEX one_plan_of_a_name ON plans_plan (owner_id, name) WHERE deleted_at IS NULL",
    f"""CREATE TABLE gathered_session ({OWNED}, night date, frames integer, exposure_s float8, f_number float8, iso integer,
        sky_mag float8, filter_name text, target_id bigint)""",
    f"CREATE TABLE trips_outing ({OWNED}, night date, ticked jsonb, forgotten jsonb, spot_id bigint, targets jsonb)",
    "CREATE TABLE trips_outing_rigs (id bigint PRIMARY KEY, outing_id bigint, rig_id bigint)",
    f"CREATE TABLE trips_run_of_nights ({OWNED}, first_night date, wake_time time, drive_h float8)",
    "CREATE UNIQUE INDEX one_trip_of_a_name ON trips_run_of_nights (owner_id, name) WHERE deleted_at IS NULL",
    "CREATE TABLE trips_run_of_nights_rigs (id bigint PRIMARY KEY, trip_id bigint, rig_id bigint)",
    "CREATE TABLE trips_run_of_nights_targets (id bigint PRIMARY KEY, trip_id bigint, target_id bigint)",
    "CREATE TABLE trips_tripnight (id bigint PRIMARY KEY, number smallint, spot_id bigint, trip_id bigint)",
)
FIRST = date(2027, 1, 1)
MANY = 500


@pytest.fixture
def before(empty_tables):
    """The demo's database as it was before this change, without what the change is about."""
    call_command("load_demo", verbosity=0)
    executor = MigrationExecutor(connection)
    latest = executor.loader.graph.leaf_nodes()
    executor.migrate([("nights", None)])
    with connection.cursor() as cursor:
        for statement in BEFORE:
            cursor.execute(statement)
        yield cursor
    executor = MigrationExecutor(connection)
    executor.migrate(latest)


@pytest.mark.nightly
def test_plans_outings_trips_and_what_was_gathered_become_nights_with_runs(before):
    before.execute("SELECT o.id, r.id, s.id, t.id FROM auth_user o, kit_rig r, grounds_spot s, targets_target t LIMIT 1")
    owner, rig, spot, target = before.fetchone()
    stamps = ["2026-11-01T20:00Z", "2026-11-02T20:00Z"]
    gone = [None if number % 7 else "2026-11-03T20:00Z" for number in range(MANY)]
    nights = [FIRST + timedelta(days=number // 3 * 2) for number in range(MANY)]  # three plans and sessions a night

    def fill(table: str, rows: list[tuple]) -> None:
        before.executemany(f"INSERT INTO {table} VALUES ({', '.join(['%s'] * len(rows[0]))})", rows)  # noqa: S608 - of this test

    owned = [(number + 11, f"number {number}", *stamps, gone[number], owner) for number in range(MANY)]
    fill("plans_plan", [(*one, nights[k], '{"gap_s": 3}', rig, spot, target) for k, one in enumerate(owned)])
    fill("gathered_session", [(*one, nights[k], k + 1, 60.0, 2.8, 1600, None, "", target) for k, one in enumerate(owned)])
    fill(
        "trips_outing",
        [(*one, FIRST + timedelta(days=k), f'["{k}"]', '{"cap": "Cap"}', spot, f"[{target}]") for k, one in enumerate(owned)],
    )
    fill("trips_outing_rigs", [(k + 1, k + 11, rig) for k in range(MANY)])
    fill("trips_run_of_nights", [(5, "week", *stamps, None, owner, FIRST - timedelta(days=2), "07:00", 4.5)])
    fill("trips_run_of_nights_rigs", [(1, 5, rig)])
    fill("trips_run_of_nights_targets", [(1, 5, target)])
    fill("trips_tripnight", [(k + 1, k, spot, 5) for k in range(7)])
    executor = MigrationExecutor(connection)
    executor.migrate(executor.loader.graph.leaf_nodes())

    plans = {row.pk: row for row in Run.objects.filter(state="planned").select_related("night")}
    assert sorted(plans) == [one[0] for one in owned]  # an address with plan=12 opens plan 12
    for k, one in enumerate(owned):
        row = plans[one[0]]
        assert (row.name, row.night.date, row.night.spot_id, row.rig_id, row.target_id) == (one[1], nights[k], spot, rig, target)
        assert row.choices == {"gap_s": 3} and (row.deleted_at is None) == (gone[k] is None)
        assert f"{row.created_at:%Y-%m-%dT%H:%MZ} {row.updated_at:%Y-%m-%dT%H:%MZ}" == " ".join(stamps)
    noted = list(Run.objects.filter(state="noted").order_by("id").select_related("night"))
    assert [(row.frames, row.night.date, row.night.spot_id, row.rig_id, row.iso) for row in noted] == [
        (k + 1, nights[k], None, None, 1600) for k in range(MANY)
    ]
    assert [row.deleted_at is None for row in noted] == [one is None for one in gone]
    outings = Night.objects.filter(pk__in=[one[0] for one in owned]).order_by("pk")
    assert [(row.date, row.ticked, row.forgotten, row.targets) for row in outings] == [
        (FIRST + timedelta(days=k), [str(k)], {"cap": "Cap"}, [target]) for k in range(MANY)
    ]
    assert Night.rigs.through.objects.count() == MANY
    alive = Counter(Night.objects.filter(deleted_at=None).values_list("owner_id", "spot_id", "date"))
    assert max(alive.values()) == 1 and set(alive) >= {(owner, spot, one) for one in nights}
    trip = Trip.objects.get()
    week = [FIRST + timedelta(days=k - 2) for k in range(7)]
    assert [row.date for row in trip.nights.order_by("date")] == week
    assert (trip.pk, trip.rigs.get().pk, trip.targets.get().pk, trip.drive_h) == (5, rig, target, 4.5)
    before.execute(
        "SELECT count(*) FROM information_schema.tables WHERE table_name = 'plans_plan' OR table_schema = 'before_nights'"
    )
    assert before.fetchone() == (0,)
    assert Run.objects.create(owner_id=owner, name="new", night=outings[0], target_id=target, rig_id=rig).pk > MANY * 2


def test_a_trip_that_is_put_off_takes_its_nights_along_and_leaves_those_that_hold_something(ours):
    context = context_of(ours)
    trip = {"name": "week", "first_night": "2027-03-01", "spots": [context["spot"]] * 3, "targets": [], "wake_time": "07:00"}
    made = ours.post("/api/trips", trip, "application/json").json()
    packed = {"spot": context["spot"], "night": "2027-03-02", "rigs": [], "ticked": ["tape"], "forgotten": []}
    ours.put("/api/packing", packed, "application/json")
    ours.put(f"/api/trips/{made['id']}", {**trip, "first_night": "2027-03-10"}, "application/json")
    spring = Night.objects.filter(date__range=("2027-03-01", "2027-03-31")).order_by("date")
    assert [row.date.day for row in spring] == [2, 10, 11, 12]
    assert [row.date.day for row in Trip.objects.get(pk=made["id"]).nights.order_by("date")] == [10, 11, 12]


def test_an_earlier_night_is_weighed_with_the_rig_that_took_it(ours):
    """A second night of the same figures counts as much with the same rig; after the camera's pixels are corrected, no less."""
    context = context_of(ours)

    def counted() -> list[float]:
        return [row["weighted_hours"] for row in ours.get("/api/exposure", context).json()["many"]["added"]]

    where = {"target": context["target"], "spot": context["spot"], "night": "2026-10-01"}
    night = {**where, "frames": 60, "exposure_s": 60, "f_number": 4}
    ours.post("/api/sessions", {**night, "rig": context["rig"]}, "application/json")
    ours.post("/api/sessions", {**night, "night": "2026-10-02"}, "application/json")
    taken, unsaid = counted()
    assert taken == pytest.approx(unsaid, rel=1e-9)
    rig = next(row for row in listed(ours, "rigs") if row["id"] == context["rig"])
    part = next(row for row in listed(ours, "parts") if row["kind"] == "camera" and rig["name"] in row["used_by"])
    values = {**part["values"], "response_nm": part["values"]["response_nm"] * 2, "name": part["name"]}
    told = ours.put(f"/api/parts/{part['id']}", {"kind": "camera", "values": values}, "application/json")
    assert told.status_code == 200, told.content
    with_snapshot, without = counted()
    # Twice the light tonight halves what an hour of then counts for; the night that has no rig is taken to have had it too.
    assert with_snapshot == pytest.approx(unsaid / 2, rel=0.1) and without > 1.5 * with_snapshot
    other = ours.post("/api/sessions", {**night, "rig": 999_999}, "application/json")
    assert other.status_code == 422 and "You have no rig number 999999" in other.json()["faults"][0]["message"]


def test_ticks_and_targets_of_one_night_do_not_disturb_each_other(ours):
    context = context_of(ours)
    night = {"spot": context["spot"], "night": "2027-03-01"}
    ours.put("/api/packing", {**night, "rigs": [context["rig"]], "ticked": ["tape"], "forgotten": []}, "application/json")
    ours.put("/api/nights/targets", {**night, "targets": [context["target"]]}, "application/json")
    packed = ours.get("/api/packing", night).json()
    assert packed["ticked"] == ["tape"] and packed["rigs"] == [context["rig"]]
    lanes = ours.get("/api/nights/lanes", {**night, "target": context["target"]}).json()
    assert lanes["chosen"] and lanes["targets"] == [context["target"]]


def test_a_deleted_target_leaves_its_nights_and_returns_to_them(ours):
    context = context_of(ours)
    first, second = (row["id"] for row in listed(ours, "targets")[:2])
    night = {"spot": context["spot"], "night": "2027-03-02"}
    ours.put("/api/nights/targets", {**night, "targets": [first, second]}, "application/json")
    assert ours.delete(f"/api/targets/{first}").status_code == 200
    assert ours.get("/api/nights/lanes", {**night, "target": second}).json()["targets"] == [second]
    ours.post(f"/api/targets/{first}/restore")
    assert ours.get("/api/nights/lanes", {**night, "target": second}).json()["targets"] == [first, second]


def test_strangers_reach_nothing_of_grounds_and_nights(ours, client_of):
    context, stranger = context_of(ours), client_of("stranger")
    query = {name: context[name] for name in ("spot", "night", "target")}
    for path in ("lanes", "panorama", "spots", "year", "fortnight"):
        assert stranger.get(f"/api/nights/{path}", query).status_code == 422, path
    for path in ("suits", "cues"):
        assert stranger.get(f"/api/nights/{path}", {**query, "rig": context["rig"]}).status_code == 422, path
    assert stranger.put("/api/nights/targets", {**query, "targets": []}, "application/json").status_code == 422
    trip = listed(ours, "trips")[0]
    assert stranger.put(f"/api/trips/{trip['id']}", trip, "application/json").status_code == 404
    assert stranger.delete(f"/api/trips/{trip['id']}").status_code == 404
    assert listed(stranger, "trips") == []
    borrowed = {**trip, "name": "Borrowed"}
    refused = stranger.post("/api/trips", borrowed, "application/json").json()["faults"]
    assert {fault["field"] for fault in refused} == {"spots", "rigs", "targets"}
