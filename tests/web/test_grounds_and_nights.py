"""Places, targets, nights and trips through the API, on PostgreSQL."""

import icalendar
import pytest
from django.core.files.uploadedfile import SimpleUploadedFile

from tests.web.conftest import context_of, faults, listed, send
from widedusk.records.targets.models import Target

JSON = "application/json"


@pytest.fixture
def asked(ours):
    context = context_of(ours)
    return {"spot": context["spot"], "night": context["night"], "target": context["target"]}


@pytest.fixture
def fresh(asked):
    """The same with a night for which nothing was chosen yet."""
    return {**asked, "night": "2027-02-06"}


def upload(client, url: str, name: str, text: str):
    return client.post(url, {"file": SimpleUploadedFile(name, text.encode())})


def choose(client, asked, targets):
    return client.put("/api/nights/targets", {**asked, "targets": targets}, JSON)


def test_lanes_begin_with_the_target_in_hand_and_follow_what_is_chosen(ours, fresh):
    first = ours.get("/api/nights/lanes", fresh).json()
    assert (first["chosen"], first["targets"]) == (False, [fresh["target"]])
    soon = ours.get("/api/nights/lanes", {**fresh, "night": "2026-12-20"}).json()  # twelve nights after the demo's own
    assert soon["chosen"] is False and len(soon["targets"]) == 3
    others = [row["id"] for row in listed(ours, "targets")][::-1]
    assert choose(ours, fresh, others[:3]).json() == {"targets": others[:3]}
    lanes = ours.get("/api/nights/lanes", fresh).json()
    assert lanes["chosen"] and lanes["targets"] == others[:3] and len(lanes["lanes"]["lanes"]) == 3
    names = [path["name"] for path in ours.get("/api/nights/panorama", fresh).json()["paths"]]
    assert names == [row["target"] for row in ours.get("/api/nights/spots", fresh).json()["comparison"]["rows"]]
    assert names == [lane["name"] for lane in lanes["lanes"]["lanes"]]


def test_a_night_takes_only_targets_of_ones_own_and_not_too_many(ours, client_of, fresh):
    stranger = client_of("stranger")
    assert faults(stranger.get("/api/nights/lanes", fresh))["spot"].startswith("You have no spot")
    assert faults(choose(ours, fresh, [10_000_000]))["targets"] == "You have no target number 10000000; choose one from the list."
    keys = [row["key"] for row in ours.get("/api/targets/catalogue", {"kind": "dark cloud", "limit": 13}).json()["items"]]
    ids = [ours.post("/api/targets/catalogue", {"key": key}, JSON).json()["id"] for key in keys]
    assert "These are too many." in faults(choose(ours, fresh, ids)).values()
    assert choose(ours, fresh, ids[:12]).status_code == 200


def test_a_trip_gives_its_nights_their_targets_and_can_be_brought_back(ours, client_of, fresh):
    targets = [row["id"] for row in listed(ours, "targets")][:2]
    given = {"name": "February", "first_night": "2027-02-05", "spots": [fresh["spot"]] * 3, "targets": targets, "drive_h": 5}
    trip = ours.post("/api/trips", given, JSON)
    assert trip.status_code == 201, trip.content
    assert sorted(ours.get("/api/nights/lanes", fresh).json()["targets"]) == sorted(targets)
    overview = ours.get(f"/api/trips/{trip.json()['id']}/overview").json()
    assert [row["night"] for row in overview["nights"]] == ["2027-02-05", "2027-02-06", "2027-02-07"]
    assert overview["verdict"]["level"] == "stop" and all(len(row["targets"]) == 2 for row in overview["nights"])
    wrong = ours.post("/api/trips", {**given, "name": " ", "spots": [], "drive_h": 30}, JSON)
    assert set(faults(wrong)) == {"name", "drive_h", "spots"}
    assert client_of("stranger").get(f"/api/trips/{trip.json()['id']}/overview").status_code == 404
    assert ours.delete(f"/api/trips/{trip.json()['id']}").status_code == 200
    assert ours.get("/api/nights/lanes", fresh).json()["chosen"] is False
    assert ours.post(f"/api/trips/{trip.json()['id']}/restore").json()["spots"] == given["spots"]


def test_what_suits_is_taken_once_and_stays_ones_own(ours, client_of, asked):
    query = {**asked, "rig": listed(ours, "rigs")[0]["id"], "limit": 5}
    page = ours.get("/api/nights/suits", query).json()
    assert len(page["items"]) == 5 < page["count"] and page["frame_long_deg"] > page["frame_short_deg"]
    key = page["items"][0]["entry"]["key"]
    first, again = (ours.post("/api/targets/catalogue", {"key": key}, JSON).json() for _ in range(2))
    assert first == again and first["catalogue_key"] == key
    assert Target.objects.filter(catalogue_key=key).count() == 1
    assert key not in [row["catalogue_key"] for row in listed(client_of("stranger"), "targets")]
    assert "key" in faults(ours.post("/api/targets/catalogue", {"key": "nonsense"}, JSON))
    assert set(faults(ours.get("/api/nights/suits", {**query, "limit": 1000}))) == {"limit"}
    assert faults(ours.get("/api/nights/suits", {**query, "night": "2200-01-01"}))["night"].startswith("The night of 1 Jan 2200")


def test_a_horizon_profile_is_kept_from_a_drawing_and_from_a_file(ours, client_of, asked):
    url = f"/api/places/spots/{asked['spot']}/horizon"
    before = ours.get("/api/nights/lanes", asked).json()["lanes"]["lanes"][1]["usable_minutes"]
    wall = [{"azimuth_deg": azimuth, "altitude_deg": 70} for azimuth in (90, 270)]
    assert ours.put(url, {"horizon": wall}, JSON).json()["horizon"] == wall
    assert ours.get("/api/nights/lanes", asked).json()["lanes"]["lanes"][1]["usable_minutes"] < before
    high = faults(ours.put(url, {"horizon": [*wall, {"azimuth_deg": 400, "altitude_deg": 95}]}, JSON))
    assert set(high) == {"horizon.2.azimuth_deg", "horizon.2.altitude_deg"}
    assert "horizon" in faults(ours.put(url, {"horizon": wall[:1]}, JSON))
    taken = upload(ours, f"{url}.csv", "trees.csv", "azimuth_deg,altitude_deg\n0,5\n90,20\n180,5\n")
    assert len(taken.json()["horizon"]) == 3
    assert "line 2, altitude_deg" in faults(upload(ours, f"{url}.csv", "bad.csv", "0 5\n90 95\n"))
    assert ours.get(f"{url}.csv").json()["text"].splitlines()[1:] == ["0.0,5.0", "90.0,20.0", "180.0,5.0"]
    assert client_of("stranger").put(url, {"horizon": []}, JSON).status_code == 404


@pytest.mark.parametrize(("noun", "forms"), [("places", ("geojson", "gpx")), ("targets", ("csv", "ecsv", "votable"))])
def test_files_go_out_and_come_in_for_another_person(ours, client_of, noun, forms):
    other = client_of("other")
    for form in forms:
        text = ours.get(f"/api/{noun}/file/{form}").json()["text"]
        assert upload(ours, f"/api/{noun}/file", "own", text).json()["added"] == []
        first = upload(other, f"/api/{noun}/file", "theirs", text).json()
        if form == forms[0]:
            assert [one["name"] for one in first["added"]] == [one["name"] for one in listed(ours, noun)]
        else:
            assert first["added"] == [] and first["there"] == len(listed(ours, noun))
    refused = upload(other, f"/api/{noun}/file", "page.html", "<html><body>no</body></html>")
    assert "file" in faults(refused)


def test_the_cues_are_a_calendar_of_this_night(ours):
    answer = ours.get("/api/nights/cues", context_of(ours)).json()
    calendar = icalendar.Calendar.from_ical(answer["text"])
    names = {str(event["summary"]) for event in calendar.walk("VEVENT")}
    assert answer["media"] == "text/calendar" and {"Set up and align", "Dark", "Window opens", "Window closes"} <= names


def test_year_and_fortnight_answer_for_the_north_too(ours, asked):
    north = next(place for place in listed(ours, "places") if place["latitude_deg"] > 0)["spots"][0]["id"]
    summer = {**asked, "spot": north, "night": "2027-06-20"}
    assert {night["dark_words"] for night in ours.get("/api/nights/fortnight", summer).json()["nights"]} == {"no darkness"}
    year = ours.get("/api/nights/year", summer).json()
    assert len(year["nights"]) == 365 and year["verdict"]["level"] == "stop"  # a southern cloud never rises there
    assert ours.get("/api/nights/lanes", summer).json()["lanes"]["lanes"][0]["usable"] == []


def test_a_sweep_with_a_phone_becomes_the_profile_turned_by_the_declination(ours):
    """At the demo's place a needle points some 14° west of north (WMM2025)."""
    spot = next(one for one in listed(ours, "places") if one["latitude_deg"] < 0)["spots"][0]["id"]
    readings = [{"azimuth_deg": float(bearing), "altitude_deg": 20.0 if 90 <= bearing < 120 else 2.0} for bearing in range(360)]
    told = send(ours, f"places/spots/{spot}/horizon/sweep", {"readings": readings}).json()["horizon"]
    tall = [one["azimuth_deg"] for one in told if one["altitude_deg"] == 20.0]
    assert 70.0 <= min(tall) < 80.0 and 100.0 < max(tall) <= 110.0
    few = send(ours, f"places/spots/{spot}/horizon/sweep", {"readings": readings[:5]})
    assert "sweep slowly" in faults(few)["readings"]
