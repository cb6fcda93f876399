"""Records through the API: kept, refused, deleted, brought back, and never anybody else's."""

import json

import pytest
from django.test import Client

from tests.web.conftest import context_of, faults, listed

NOUNS = ("rigs", "places", "targets", "plans", "parts")


def put(client, url, data):
    return client.put(url, json.dumps(data), content_type="application/json")


def post(client, url, data=None):
    return client.post(url, json.dumps(data or {}), content_type="application/json")


def test_the_demo_is_loaded_once_and_its_plan_is_on_the_coming_new_moon(ours):
    from django.core.management import call_command

    call_command("load_demo", verbosity=0)
    assert [len(listed(ours, noun)) for noun in NOUNS] == [2, 2, 4, 1, 35]
    # New Moon of 2026 December 9, 00:52 UTC, by the almanacs.
    assert listed(ours, "plans")[0]["night"] == "2026-12-08"
    start = ours.get("/api/tonight/start").json()
    assert start["night"] == "2026-12-08" and start["rig"] == listed(ours, "plans")[0]["rig"]


def test_unsigned_requests_are_refused_everywhere(demo, ours):
    api_paths = ours.get("/api/openapi.json").json()["paths"]
    nobody, tried = Client(), 0
    for path, methods in api_paths.items():
        for method in methods:
            if path.startswith("/api/session"):
                continue
            url = path.replace("{record_id}", "1").replace("{what}", "kit.json")
            assert getattr(nobody, method)(url, content_type="application/json").status_code == 401, (method, url)
            tried += 1
    assert tried > 30
    assert nobody.get("/tonight").status_code == 200  # the page itself holds nothing; its router leads to the sign-in


def test_a_second_person_sees_and_changes_nothing_of_the_first(ours, client_of):
    other = client_of("other")
    for noun in NOUNS:
        assert listed(other, noun) == []
        record = next(one for one in listed(ours, noun) if not one.get("used_by"))
        url = f"/api/{noun}/{record['id']}"
        if noun == "plans":
            assert other.get(url).status_code == 404
            record = {"name": "mine now", **context_of(ours), "choices": {}}
        assert put(other, url, record).status_code == 404
        assert other.delete(url).status_code == 404
        ours.delete(url)
        assert post(other, f"{url}/restore").status_code == 404
        assert post(ours, f"{url}/restore").status_code == 200
    context = context_of(ours)
    assert set(faults(other.get("/api/tonight", context))) == {"rig", "spot", "target"}
    assert set(faults(post(other, "/api/plans", {"name": "x", **context, "choices": {}}))) == {"rig", "spot", "target"}
    assert other.get("/api/tonight/start").json()["rig"] is None


def test_another_persons_spot_cannot_be_taken_over_by_its_id(ours, client_of):
    other = client_of("other")
    spot = listed(ours, "places")[0]["spots"][0]
    stolen = {
        "name": "Lookout",
        "latitude_deg": 10,
        "longitude_deg": 10,
        "time_zone": "Africa/Windhoek",
        "sky_mag": 21,
        "spots": [spot],
    }
    made = post(other, "/api/places", stolen)
    assert made.status_code == 201 and made.json()["spots"][0]["id"] != spot["id"]
    assert listed(ours, "places")[0]["spots"][0] == spot


def test_bad_records_name_their_fields_and_keep_nothing(ours):
    place = {"name": "Off the map", "latitude_deg": 95, "longitude_deg": 0, "time_zone": "Nowhere/Town", "sky_mag": 21}
    bad = faults(post(ours, "/api/places", {**place, "spots": []}))
    assert set(bad) == {"latitude_deg", "time_zone", "spots"} and "from -90 to 90" in bad["latitude_deg"]
    points = [{"azimuth_deg": 10, "altitude_deg": 5}, {"azimuth_deg": 400, "altitude_deg": 95}]
    bad = faults(
        post(
            ours,
            "/api/places",
            {**place, "latitude_deg": 5, "time_zone": "Europe/Tallinn", "spots": [{"name": "x", "horizon": points}]},
        )
    )
    assert set(bad) == {"spots.0.horizon.1.azimuth_deg", "spots.0.horizon.1.altitude_deg"}
    assert "already have" in faults(post(ours, "/api/targets", listed(ours, "targets")[0]))["name"]
    assert [len(listed(ours, noun)) for noun in NOUNS] == [2, 2, 4, 1, 35]


def test_changing_a_rig_keeps_its_number_and_plans(ours):
    plan = listed(ours, "plans")[0]
    rig = next(rig for rig in listed(ours, "rigs") if rig["id"] == plan["rig"])
    lens = next(one for one in listed(ours, "parts") if one["name"] == "85 mm portrait")
    before = ours.get("/api/tonight", {**context_of(ours), "rig": rig["id"]}).json()["verdicts"]
    for one in rig["placed"]:
        one["part"] = lens["id"] if one["kind"] == "lens" else one["part"]
    changed = put(ours, f"/api/rigs/{rig['id']}", rig).json()
    assert changed["id"] == plan["rig"] and [one["name"] for one in changed["placed"] if one["kind"] == "lens"] == [lens["name"]]
    assert ours.get("/api/tonight", {**context_of(ours), "rig": rig["id"]}).json()["verdicts"] != before


def test_a_deleted_name_can_be_used_again_and_then_the_way_back_says_so(ours):
    target = listed(ours, "targets")[0]
    ours.delete(f"/api/targets/{target['id']}")
    assert len(listed(ours, "targets")) == 3
    assert post(ours, "/api/targets", target).status_code == 201
    assert "already have" in faults(post(ours, f"/api/targets/{target['id']}/restore"))["name"]


def test_lists_come_in_pages(ours):
    page = ours.get("/api/targets", {"limit": 2, "offset": 2}).json()
    assert len(page["items"]) == 2 and page["count"] == 4
    assert ours.get("/api/targets", {"limit": 100000}).status_code in {200, 422}
    assert len(listed(ours, "targets")) <= 200


@pytest.mark.parametrize("size", [300 * 1024])
def test_an_oversized_body_is_refused(ours, size):
    answer = post(ours, "/api/targets", {"name": "x" * size, "ra_deg": 1, "dec_deg": 1, "extent_deg": 1, "surface_mag": 20})
    assert answer.status_code in {400, 413, 422} and len(listed(ours, "targets")) == 4


def test_a_place_is_read_from_what_was_pasted(ours):
    found = ours.get("/api/places/reading", {"coordinates": "58°37'48\"N 25°22'48\"E", "height_m": 48}).json()
    assert (found["latitude_deg"], found["longitude_deg"]) == pytest.approx((58.63, 25.38)) and found[
        "time_zone"
    ] == "Europe/Tallinn"
    assert found["compass"]["topic"] == "Compass" and "north pole" in found["compass"]["sentence"]
    assert "no pair of coordinates" in faults(ours.get("/api/places/reading", {"coordinates": "the mire"}))["coordinates"]
    assert ours.get("/api/places/sky", {"sky_class": 3}).json() == {"sky_mag": 21.5, "faintest_star": 6.4}
    assert 20 < ours.get("/api/places/sky", {"faintest_star": 6.0}).json()["sky_mag"] < 21.5
    assert set(faults(ours.get("/api/places/sky", {"sky_class": 0}))) == set(faults(ours.get("/api/places/sky"))) == {"sky_class"}


def test_a_later_change_is_not_saved_over_unseen(ours):
    """Every kind of record: the version it was opened with, or 409 with what stands there now."""
    context = context_of(ours)
    heron = next(row for row in listed(ours, "rigs") if row["id"] == context["rig"])
    lens = next(row for row in listed(ours, "parts") if row["kind"] == "lens")
    place, target, trip, plan = (listed(ours, name)[0] for name in ("places", "targets", "trips", "plans"))
    rig_body = {name: heron[name] for name in ("name", "star_fwhm_px", "focal_mm")} | {"placed": heron["placed"]}
    rig_body["placed"] = [{k: one[k] for k in ("part", "arm_mm", "along_mm", "carried", "fed_by")} for one in heron["placed"]]
    plan_body = {name: plan[name] for name in ("name", "rig", "spot", "night", "target", "choices")}
    cases = {
        f"rigs/{heron['id']}": (rig_body, heron),
        f"parts/{lens['id']}": ({"kind": "lens", "values": lens["values"]}, lens),
        f"places/{place['id']}": ({k: v for k, v in place.items() if k not in {"id", "version"}}, place),
        f"targets/{target['id']}": ({k: v for k, v in target.items() if k not in {"id", "version", "catalogue_key"}}, target),
        f"trips/{trip['id']}": ({k: v for k, v in trip.items() if k not in {"id", "version"}}, trip),
        f"plans/{plan['id']}": (plan_body, plan),
    }
    for path, (body, row) in cases.items():
        first = put(ours, f"/api/{path}", {**body, "version": row["version"]})
        assert first.status_code == 200 and first.json()["version"] > row["version"], (path, first.content)
        second = put(ours, f"/api/{path}", {**body, "version": row["version"]})
        assert second.status_code == 409, path
        assert second.json()["theirs"]["version"] == first.json()["version"] and "changed elsewhere" in str(second.json()["faults"])
        assert put(ours, f"/api/{path}", {**body, "version": first.json()["version"]}).status_code == 200
        assert put(ours, f"/api/{path}", body).status_code == 200
    # A drawn horizon profile is part of its place.
    opened = next(row for row in listed(ours, "places") if row["id"] == place["id"])
    drawn = [{"azimuth_deg": 10, "altitude_deg": 5}, {"azimuth_deg": 90, "altitude_deg": 2}]
    assert put(ours, f"/api/places/spots/{place['spots'][0]['id']}/horizon", {"horizon": drawn}).status_code == 200
    body = {k: v for k, v in opened.items() if k != "id"}
    assert put(ours, f"/api/places/{place['id']}", body).status_code == 409
