"""What was kept before there were trips, targets with more to them, and forecasts is still there after the change."""

from datetime import date

from django.contrib.auth import get_user_model
from django.db import connection
from django.db.migrations.executor import MigrationExecutor

from tests.web.conftest import context_of, listed


def test_nights_out_of_earlier_times_become_outings_with_their_ticks(empty_tables):
    executor = MigrationExecutor(connection)
    latest = executor.loader.graph.leaf_nodes()
    try:
        executor.migrate([("trips", "0001_initial"), ("weather", None), ("grounds", "0001_initial"), ("targets", "0001_initial")])
        old = executor.loader.project_state([("trips", "0001_initial"), ("targets", "0001_initial")]).apps
        owner = get_user_model().objects.create(username="early")
        place = old.get_model("grounds", "Place").objects.create(
            owner_id=owner.pk, name="Hill", latitude_deg=-20, longitude_deg=20, height_m=0, time_zone="UTC", sky_mag=21
        )
        spot = old.get_model("grounds", "Spot").objects.create(place=place, name="top", horizon=[[0, 3], [90, 20]])
        old.get_model("trips", "Trip").objects.create(
            owner_id=owner.pk,
            name="Hill, top, 2026-12-08",
            spot=spot,
            night=date(2026, 12, 8),
            ticked=["tape"],
            forgotten={"cap": "Cap"},
        )
        old.get_model("targets", "Target").objects.create(
            owner_id=owner.pk, name="Cloud", ra_deg=80, dec_deg=-69, extent_deg=10, surface_mag=21.5
        )
    finally:
        executor = MigrationExecutor(connection)
        executor.migrate(latest)

    from widedusk.records.grounds.models import Place
    from widedusk.records.targets.models import Target
    from widedusk.records.targets.services import target_of
    from widedusk.records.trips.models import Outing, Trip

    outing = Outing.objects.get(owner=owner)
    assert (outing.ticked, outing.forgotten, outing.targets) == (["tape"], {"cap": "Cap"}, [])
    assert str(outing.spot) == "Hill, top" and Place.objects.get(owner=owner).access == ""
    core = target_of(Target.objects.get(owner=owner))
    assert (core.kind, core.light, core.width_deg) == ("other", "both", None)
    assert not Trip.objects.exists()


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
