"""Framings through the API: composed, cut into panels, kept, and only ever one's own."""

import pytest

from tests.web.conftest import faults, listed, send

THREE = [
    {"name": "NGC 1532", "ra_deg": 63.02, "dec_deg": -32.87, "long_deg": 0.2, "short_deg": 0.06, "angle_deg": 33},
    {"name": "north of it", "ra_deg": 63.9, "dec_deg": -31.2, "long_deg": 0.1},
    {"name": "west of it", "ra_deg": 60.1, "dec_deg": -33.0, "long_deg": 0.1},
]


@pytest.fixture
def rig(ours):
    return next(one for one in listed(ours, "rigs") if one["name"].startswith("Heron"))["id"]


def test_three_things_are_composed_and_the_longest_lens_that_holds_them_is_told(ours, rig):
    found = send(ours, "framings/compose", {"rig": rig, "subjects": THREE}).json()
    assert found["margin_deg"] > 0 and not found["cut"] and found["verdict"]["sentence"].startswith("All 3 fit")
    assert found["longest_mm"] > found["focal_mm"] == 180
    upright = send(ours, "framings/compose", {"rig": rig, "subjects": THREE, "hold": "portrait"}).json()
    assert 45 <= upright["frame"]["angle_deg"] <= 135 and upright["margin_deg"] <= found["margin_deg"] + 1e-9
    bare = send(ours, "framings/compose", {"rig": rig, "subjects": THREE, "turn": "bracket"}).json()
    assert bare["frame"]["angle_deg"] in {0, 90}
    apart = [*THREE, {"name": "far off", "ra_deg": 75.0, "dec_deg": -32.0, "long_deg": 0.5}]
    cut = send(ours, "framings/compose", {"rig": rig, "subjects": apart}).json()
    assert cut["cut"] and "panels would hold it whole" in cut["verdict"]["advice"] and "Up to" in cut["verdict"]["advice"]
    far = [*THREE, {"name": "the other side", "ra_deg": 243, "dec_deg": 32}]
    refused = send(ours, "framings/compose", {"rig": rig, "subjects": far})
    assert refused.status_code == 422 and "the other side" in faults(refused)["subjects"]
    wrong = [{"name": "nowhere", "ra_deg": 400, "dec_deg": -95}]
    assert set(faults(send(ours, "framings/compose", {"rig": rig, "subjects": wrong}))) == {
        "subjects.0.ra_deg",
        "subjects.0.dec_deg",
    }


def test_panels_are_laid_left_out_and_refused_with_their_cost(ours, rig):
    wide = {
        "name": "cloud",
        "ra_deg": 80.0,
        "dec_deg": -70.0,
        "wanted": [{"name": "cloud", "ra_deg": 80, "dec_deg": -70, "long_deg": 11}],
    }
    some = send(ours, "framings/panels", {**wide, "rig": rig, "columns": 3, "rows": 2, "dropped": [{"row": 0, "column": 2}]}).json()
    assert [one["dropped"] for one in some["panels"]].count(True) == 1 and some["overlap_percent"] == pytest.approx(20)
    all_of_it = send(ours, "framings/panels", {**wide, "rig": rig, "fewest": True}).json()
    assert all_of_it["covered_percent"] == 100 > some["covered_percent"]
    for change, field, words in (
        ({"overlap": 0.6}, "overlap", "15 to 25 %"),
        ({"overlap": -0.05}, "overlap", "15 to 25 %"),
        ({"columns": 40, "rows": 40}, "columns", "160 nights"),
        ({"columns": 0}, "columns", "from 1 to"),
    ):
        refused = send(ours, "framings/panels", {**wide, "rig": rig, **change})
        assert refused.status_code == 422 and words in faults(refused)[field], change


def test_a_framing_is_kept_changed_deleted_and_only_ones_own(ours, client_of, rig):
    target = listed(ours, "targets")[0]
    body = {"name": target["name"], "target": target["id"], "ra_deg": 63.1, "dec_deg": -32.5, "angle_deg": 12.5, "wanted": THREE}
    kept = send(ours, "framings", {**body, "columns": 2, "dropped": [{"row": 0, "column": 1}]}).json()
    assert kept["target_id"] == target["id"] and kept["dropped"] == [{"row": 0, "column": 1}] and len(kept["wanted"]) == 3
    changed = send(ours, f"framings/{kept['id']}", {**body, "angle_deg": 20, "version": kept["version"]}, "put").json()
    assert changed["angle_deg"] == 20 and changed["version"] == kept["version"] + 1
    assert send(ours, f"framings/{kept['id']}", {**body, "version": kept["version"]}, "put").status_code == 409
    assert [one["id"] for one in listed(ours, "framings")] == [kept["id"]]
    other = client_of("somebody")
    assert listed(other, "framings") == []
    assert other.delete(f"/api/framings/{kept['id']}").status_code == 404
    assert "no target number" in faults(send(other, "framings", body))["target"]
    assert ours.delete(f"/api/framings/{kept['id']}").status_code == 200 and listed(ours, "framings") == []


def test_the_chart_has_what_the_field_has(ours):
    near = ours.get("/api/framings/sky", {"ra_deg": 83.8, "dec_deg": -5.4, "field_deg": 40}).json()
    assert len(near["ra_deg"]) == len(near["magnitude"]) == len(near["colour"]) > 5000
    assert near["magnitude"] == sorted(near["magnitude"]) and near["magnitude"][0] < 1
    assert any("Orion" in one["name"] for one in near["objects"])
    assert faults(ours.get("/api/framings/sky", {"ra_deg": 400, "dec_deg": 0}))["ra_deg"]
