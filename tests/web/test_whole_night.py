"""A whole night through the API: planned, moved, kept, opened again; what cannot be is said at the field, and nothing is lost."""

from datetime import datetime, timedelta
from threading import Event

import pytest
from django.db import connection
from django.test.utils import CaptureQueriesContext

from tests.web.conftest import faults, listed, send
from widedusk.front import DISCONNECTED

URL = "/api/nights/whole"


@pytest.fixture(autouse=True)
def _soon(settings):
    """Nothing here asks how good an order is."""
    settings.WIDE_DUSK_SEARCH_S = 1.0


@pytest.fixture
def night(ours):
    start = ours.get("/api/tonight/start").json()
    rigs = {one["name"].split(",")[0]: one["id"] for one in listed(ours, "rigs")}
    targets = {one["name"].split(",")[0]: one["id"] for one in listed(ours, "targets")}
    wishes = [{"target": targets["Vela remnant filaments"]}, {"target": targets["Chamaeleon dark clouds"]}]
    wishes.append({"target": targets["NGC 1532 and NGC 1531"]})
    return {"spot": start["spot"], "night": start["night"], "rigs": [rigs["Heron"], rigs["Sparrow"]], "wishes": wishes}


def planned(client, night, **more):
    answer = send(client, "nights/whole", {**night, **more})
    assert answer.status_code == 200, answer.content
    return answer.json()["whole"]


def as_sent(one, **more):
    run = one["run"]
    told = {"rig": run["stand"], "wish": run["wish"], "panel": run["panel"]}
    return {**told, "begins_at": run["held_from"], "ends_at": run["held_to"], "held": run["held"], **more}


def later(moment, minutes):
    return (datetime.fromisoformat(moment) + timedelta(minutes=minutes)).isoformat()


def test_a_run_that_is_moved_stays_and_the_rest_is_filled_in_around_it(ours, night):
    whole = planned(ours, night)
    first, *others = [one for one in whole["runs"] if one["run"]["stand"] == 0]
    assert others
    assert whole["gap_percent"] is not None
    held = as_sent(first, held=True, ends_at=later(first["run"]["held_to"], -60))
    last = [as_sent(one) for one in whole["runs"] if one is not first]
    quick = planned(ours, night, runs=[held, *last], moved=0)
    best = planned(ours, night, runs=[held])
    for answer in (quick, best):
        stays = next(one for one in answer["runs"] if one["run"]["held"])
        assert [stays["run"][name] for name in ("stand", "wish")] == [0, first["run"]["wish"]]
        assert abs(datetime.fromisoformat(stays["run"]["held_from"]) - datetime.fromisoformat(held["begins_at"])) < timedelta(
            minutes=3
        )
        assert stays["run"]["begins_with"] == "you fixed it"
    assert quick["gap_percent"] is None
    untouched = {one["run"]["held_from"] for one in whole["runs"] if one["run"]["stand"] == 1}
    assert {one["run"]["held_from"] for one in quick["runs"] if one["run"]["stand"] == 1} == untouched


def test_a_plan_is_kept_opened_again_given_as_cues_and_taken_back(ours, client_of, night):
    whole = planned(ours, night, limits={"sleep_from": "01:00", "sleep_to": "04:00"})
    for one in whole["runs"]:
        assert not whole["asleep"]["first"] < one["run"]["first"] < whole["asleep"]["last"] + 10
    limits = {"sleep_from": "01:00", "sleep_to": "04:00"}
    runs = [as_sent(one) for one in whole["runs"]]
    answer = ours.put(URL, {**night, "limits": limits, "runs": runs}, content_type="application/json")
    assert answer.status_code == 200, answer.content
    where = {"spot": night["spot"], "night": night["night"]}
    kept = ours.get(URL, where).json()
    assert kept["asked"]["limits"] == limits
    assert sorted(one["begins_at"][:16] for one in kept["runs"]) == sorted(one["begins_at"][:16] for one in runs)
    assert not any(
        plan["name"].endswith(night["night"]) for plan in listed(ours, "plans")
    )  # a night's runs are no plans of their own
    lanes = ours.get("/api/nights/lanes", {**where, "target": night["wishes"][0]["target"]}).json()
    assert lanes["targets"] == [one["target"] for one in night["wishes"]]
    (line,) = [one for one in ours.get("/api/nights").json()["items"] if one["night"] == night["night"]]
    scheduled = [run for run in listed(ours, f"runs?night={night['night']}&spot={night['spot']}") if run["origin"] == "schedule"]
    alone = [plan for plan in listed(ours, "plans") if plan["night"] == night["night"]]
    assert len(scheduled) == len(runs) == line["runs"] - len(alone)
    assert sum(run["planned_frames"] for run in scheduled) == sum(one["run"]["frames"] for one in whole["runs"])
    assert {run["target_name"] for run in scheduled} <= set(line["targets"])
    text = ours.get(f"{URL}/cues", where).json()["text"]
    assert text.count("BEGIN:VEVENT") == 2 * len(runs)
    assert text.count("BEGIN:VALARM") == 2 * len(runs)
    assert len({line for line in text.splitlines() if line.startswith("UID")}) == 2 * len(runs)
    assert ours.delete(f"{URL}?spot={night['spot']}&night={night['night']}").status_code == 200
    assert ours.get(URL, where).json()["runs"] == []
    assert "No plan is kept" in faults(ours.get(f"{URL}/cues", where))["night"]
    stranger = client_of("somebody else")
    assert "spot" in faults(send(stranger, "nights/whole", night))
    assert "spot" in faults(stranger.get(URL, where))
    assert stranger.get("/api/nights").json() == {"items": [], "count": 0}


def test_panels_of_a_framing_are_wished_for_one_by_one_and_kept_by_row_and_column(ours, night):
    target = next(one for one in listed(ours, "targets") if one["id"] == night["wishes"][0]["target"])
    body = {"name": "Three of it", "ra_deg": target["ra_deg"], "dec_deg": target["dec_deg"], "angle_deg": 0.0, "columns": 3}
    framing = send(ours, "framings", {**body, "target": target["id"]}).json()["id"]
    mosaic = {**night, "rigs": night["rigs"][:1], "wishes": [{"target": target["id"], "framing": framing}]}
    whole = planned(ours, mosaic)
    assert [one["name"].split(", ")[-1] for one in whole["totals"]] == ["panel 1·1", "panel 1·2", "panel 1·3"]
    hours = [one["hours"] for one in whole["totals"]]
    assert max(hours) - min(hours) < 0.1
    runs = [as_sent(one) for one in whole["runs"]]
    assert ours.put(URL, {**mosaic, "runs": runs}, content_type="application/json").status_code == 200
    kept = ours.get(URL, {"spot": night["spot"], "night": night["night"]}).json()["runs"]
    assert sorted(one.get("panel", 0) for one in kept) == sorted(one["panel"] for one in runs)
    off = planned(ours, mosaic, dropped=[{"rig": 0, "wish": 0, "panel": 1}])
    assert [one["reason"] for one in off["left"]] == ["You dropped it."]
    assert {one["run"]["panel"] for one in off["runs"]} == {0, 2}


def test_what_cannot_be_is_said_where_it_was_asked(ours, night):
    def told(**change):
        return faults(send(ours, "nights/whole", {**night, **change}))

    weightless = [{**night["wishes"][0], "weight": 0.0}, *night["wishes"][1:]]
    assert "0.01 to 100" in told(wishes=weightless)["wishes.0.weight"]
    assert "at least one target" in told(wishes=[])["wishes"]
    assert "at least one rig" in told(rigs=[])["rigs"]
    assert "no rig number" in told(rigs=[987_654])["rigs.0"]
    assert "no target number" in told(wishes=[{"target": 987_654}])["wishes.0.target"]
    assert "no time of day" in told(limits={"sleep_from": "25:00", "sleep_to": "04:00"})["sleep_from"]
    assert "from when to when" in told(limits={"sleep_from": "01:00"})["sleep_to"]
    assert "later time" in told(limits={"sleep_from": "04:00", "sleep_to": "01:00"})["sleep_to"]
    assert "not after" in told(limits={"not_before": "23:00", "not_after": "22:00"})["not_after"]

    whole = planned(ours, night)
    one = next(each for each in whole["runs"] if each["run"]["stand"] == 0)
    run = as_sent(one, held=True)
    assert "has that time" in told(runs=[run, run])["held.1"]
    early = {**run, "begins_at": later(whole["start"], -120), "ends_at": later(whole["start"], 30)}
    assert "leaves the hours" in told(runs=[early])["held.0"]
    assert "too short" in told(runs=[{**run, "ends_at": later(run["begins_at"], 5)}])["held.0"]
    assert "not part of the night" in told(runs=[{**run, "panel": 7}])["held.0"]
    assert "set up two rigs at once" in told(runs=[run, {**run, "rig": 1}])["held.1"]
    backwards = {**night, "runs": [{**run, "ends_at": later(run["begins_at"], -5)}]}
    assert "ends before it begins" in faults(ours.put(URL, backwards, content_type="application/json"))["runs.0"]


def test_a_night_in_which_nothing_can_be_taken_says_why_and_when_it_can_again(ours, night):
    bright = planned(ours, {**night, "night": "2026-12-24"})  # full Moon
    assert bright["runs"] == []
    assert bright["verdict"]["level"] == "stop"
    assert any(one["returns"] for one in bright["left"])
    long = planned(ours, night, choices={"shortest_min": 600})
    assert long["runs"] == []
    assert long["verdict"]["level"] == "stop"


def test_a_least_is_kept_or_the_target_left_out_with_its_reason(ours, night):
    greedy = [{**night["wishes"][0]}, {**night["wishes"][1], "least_h": 20.0}]
    whole = planned(ours, {**night, "wishes": greedy})
    assert {one["run"]["wish"] for one in whole["runs"]} == {0}
    assert "20 h or nothing" in whole["left"][0]["reason"]


def test_the_sub_of_a_run_is_the_one_every_page_tells_and_questions_do_not_grow_with_runs(ours, night):
    whole = planned(ours, night)
    run = whole["runs"][0]["run"]
    asked = {"spot": night["spot"], "night": night["night"], "rig": night["rigs"][run["stand"]]}
    tonight = ours.get("/api/tonight", {**asked, "target": night["wishes"][run["wish"]]["target"]}).json()
    assert [run["exposure_s"], run["iso"], run["f_number"]] == [tonight["card"]["exposure_s"], tonight["iso"], tonight["f_number"]]
    runs = [as_sent(one) for one in whole["runs"]]
    where = {"spot": night["spot"], "night": night["night"]}
    counts = []
    for kept in (runs[:1], runs):
        ours.put(URL, {**night, "runs": kept}, content_type="application/json")

        with CaptureQueriesContext(connection) as counted:
            ours.get(URL, where)
        counts.append(len(counted))
    assert counts[0] == counts[1]


def test_a_search_ends_when_whoever_asked_has_left(ours, night):
    """As when a page asks anew at each step of a drag: the connection of the earlier question is closed."""
    gone = Event()
    assert ours.post("/api/nights/whole", night, content_type="application/json", **{DISCONNECTED: gone}).status_code == 200
    gone.set()
    assert ours.post("/api/nights/whole", night, content_type="application/json", **{DISCONNECTED: gone}).status_code == 503
