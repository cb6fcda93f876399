"""Trips planned as one and what ifs through the API, their work done as the worker does it."""

from datetime import date, timedelta

import pytest

from tests.nightly import nightly
from tests.web.conftest import faults, listed, send
from widedusk.jobs import planning
from widedusk.jobs.planning import run
from widedusk.records.nights.models import Night, Planning, Run
from widedusk.records.work import Cancelled, claim

WHOLE = "/api/nights/whole"


@pytest.fixture(autouse=True)
def _soon(settings):
    settings.WIDE_DUSK_SEARCH_S = 1.0  # nothing here asks how good an order is


@pytest.fixture
def asked(ours):
    rigs = {one["name"].split(",")[0]: one["id"] for one in listed(ours, "rigs")}
    targets = {one["name"].split(",")[0]: one["id"] for one in listed(ours, "targets")}
    wishes = [{"target": targets[name]} for name in ("Vela remnant filaments", "Chamaeleon dark clouds")]
    return {"rigs": [rigs["Heron"], rigs["Sparrow"]], "wishes": wishes}


@pytest.fixture
def trip(ours, asked):
    start = ours.get("/api/tonight/start").json()
    told = {"name": "Three nights", "first_night": start["night"], "spots": [start["spot"]] * 3, "wake_time": "07:00"}
    answer = send(ours, "trips", {**told, "rigs": asked["rigs"], "targets": [one["target"] for one in asked["wishes"]]})
    assert answer.status_code == 201, answer.content
    return answer.json()


def worked(client, trip, asked, **more):
    answer = send(client, f"trips/{trip['id']}/plan", {**asked, **more})
    assert answer.status_code == 200, answer.content
    assert answer.json()["work"]["state"] == "waiting"
    run(Planning.objects.get(trip=trip["id"]).pk)
    found = client.get(f"/api/trips/{trip['id']}/plan").json()
    assert found["work"]["state"] == "done", found
    return found["plan"]


def evenings(trip):
    first = date.fromisoformat(trip["first_night"])
    return [str(first + timedelta(days=number)) for number in range(3)]


def test_a_trip_is_planned_kept_and_a_lost_night_is_spread_over_the_others(ours, client_of, trip, asked):
    plan = worked(ours, trip, asked)
    assert [one["evening"] for one in plan["nights"]] == evenings(trip)
    for number, panel in enumerate(plan["panels"]):
        by_night = [sum(run["frames"] for run in night["runs"] if run["wish"] == number) for night in plan["nights"]]
        assert by_night == [sum(rigs) for rigs in panel["frames"]]
        assert panel["in_all"] == sum(by_night) > 0
    assert send(ours, f"trips/{trip['id']}/plan/keep", {}).json() == {"nights": 3}
    spot, second = trip["spots"][1], evenings(trip)[1]
    kept = ours.get(WHOLE, {"spot": spot, "night": second}).json()
    assert kept["asked"]["trip"] == trip["id"]
    assert len(kept["runs"]) == len(plan["nights"][1]["runs"])

    less = worked(ours, trip, asked, lost=[second])
    assert [one["evening"] for one in less["nights"]] == [one for one in evenings(trip) if one != second]
    assert sum(one["hours"] for one in less["panels"]) < sum(one["hours"] for one in plan["panels"])
    send(ours, f"trips/{trip['id']}/plan/keep", {})
    assert ours.get(WHOLE, {"spot": spot, "night": second}).json()["asked"] is None
    assert client_of("someone@example.org").get(f"/api/trips/{trip['id']}/plan").status_code == 404


def test_the_second_night_is_planned_from_what_the_first_leaves_missing(ours, trip, asked):
    """By the marginal worth of the root: what has much already gets less of the night, and no less where nothing counts."""
    first, second = ({"spot": trip["spots"][n], "night": evenings(trip)[n]} for n in (0, 1))
    one_wish = {"rigs": asked["rigs"], "wishes": asked["wishes"][:1]}
    whole = send(ours, "nights/whole", {**first, **one_wish}).json()["whole"]
    runs = [
        {"rig": one["run"]["stand"], "wish": 0, "begins_at": one["run"]["held_from"], "ends_at": one["run"]["held_to"]}
        for one in whole["runs"]
    ]
    assert ours.put(WHOLE, {**first, **one_wish, "runs": runs}, content_type="application/json").status_code == 200
    expected = [one.plan.frames for one in Run.objects.filter(night__date=first["night"], origin="schedule", plan__planned=True)]
    assert sorted(expected) == sorted(one["run"]["frames"] for one in whole["runs"])
    alone, missing = (
        send(ours, "nights/whole", {**second, **asked, **more}).json()["whole"] for more in ({}, {"trip": trip["id"]})
    )
    had = [one["gathered_h"] for one in missing["totals"]]
    brought = sum(one["hours"] for one in whole["totals"])
    assert had[0] == pytest.approx(brought + alone["totals"][0]["gathered_h"], rel=1e-3)
    assert missing["totals"][0]["hours"] < alone["totals"][0]["hours"]
    assert missing["totals"][1]["hours"] > alone["totals"][1]["hours"]


def test_what_ifs_stay_with_the_night_and_say_when_it_was_changed_since(ours, asked):
    start = ours.get("/api/tonight/start").json()
    where = {"spot": start["spot"], "night": start["night"]}
    nothing = ours.get(f"{WHOLE}/what-ifs", where)
    assert "keep one first" in faults(nothing)["night"]
    whole = send(ours, "nights/whole", {**where, **asked}).json()["whole"]
    runs = [
        {"rig": each["stand"], "wish": each["wish"], "begins_at": each["held_from"], "ends_at": each["held_to"]}
        for each in (one["run"] for one in whole["runs"])
    ]
    ours.put(WHOLE, {**where, **asked, "runs": runs}, content_type="application/json")
    wrong = send(ours, "nights/whole/what-ifs", {**where, "cloud_until": "25:00", "late_h": 40})
    assert set(faults(wrong)) == {"cloud_until", "late_h"}
    send(ours, "nights/whole/what-ifs", {**where, "late_h": 2.0, "cloud_until": "01:00"})
    row = Planning.objects.get(night__date=start["night"])
    run(row.pk)
    found = ours.get(f"{WHOLE}/what-ifs", where).json()
    assert found["work"]["state"] == "done", found
    told = {one["name"]: one for one in found["what_ifs"]}
    assert list(told) == [
        "2 h late",
        "Cloud until 01:00",
        "Fresh wind",
        *(f"{name} fails" for name in whole_rigs(ours, asked)),
        "Home 1 h earlier",
    ]
    assert all(one["loses_percent"] > 0.0 for one in told.values())
    for one in told.values():
        assert ("less than planned" in one["verdict"]["sentence"]) == (one["loses_percent"] >= 0.5), one
    assert all(one["runs"] for one in told.values())
    clouded = told["Cloud until 01:00"]["runs"]
    assert min(one["begins_clock"] for one in clouded) >= "01:00"
    for number, name in enumerate(whole_rigs(ours, asked)):
        assert {one["stand"] for one in told[f"{name} fails"]["runs"]} == {1 - number}
    assert not found["outdated"]
    ours.put(WHOLE, {**where, **asked, "runs": runs[:1]}, content_type="application/json")
    assert ours.get(f"{WHOLE}/what-ifs", where).json()["outdated"]


def whole_rigs(client, asked):
    names = {one["id"]: one["name"] for one in listed(client, "rigs")}
    return [names[one] for one in asked["rigs"]]


def test_work_that_is_cancelled_or_asked_anew_is_heard_no_more(ours, trip, asked):
    send(ours, f"trips/{trip['id']}/plan", asked)
    row = claim(Planning, Planning.objects.get(trip=trip["id"]).pk)
    found = send(ours, f"trips/{trip['id']}/plan/cancel", {}).json()
    assert found["work"]["state"] == "running"  # until the worker's next step
    with pytest.raises(Cancelled):
        planning._tell(row, 0.5, "on and on")
    send(ours, f"trips/{trip['id']}/plan", asked)
    assert not Planning.objects.filter(pk=row.pk).exists()
    run(row.pk)
    send(ours, f"trips/{trip['id']}/plan/cancel", {})
    assert ours.get(f"/api/trips/{trip['id']}/plan").json()["work"]["state"] == "cancelled"
    assert "plan its nights first" in faults(send(ours, f"trips/{trip['id']}/plan/keep", {}))["trip"]
    every = [str(one) for one in evenings(trip)]
    assert "take one back" in faults(send(ours, f"trips/{trip['id']}/plan", {**asked, "lost": every}))["lost"]
    assert "rigs.0" in faults(send(ours, f"trips/{trip['id']}/plan", {**asked, "rigs": [999_999]}))
    assert Night.objects.filter(trips=trip["id"]).count() == 3


def test_nights_are_listed_those_to_come_first_with_all_that_is_in_them(ours, trip, asked):
    worked(ours, trip, asked)
    send(ours, f"trips/{trip['id']}/plan/keep", {})
    found = ours.get("/api/nights").json()
    when = [one["night"] for one in found["items"] if one["coming"]]
    assert when == sorted(when)
    first = next(one for one in found["items"] if one["night"] == evenings(trip)[0])
    runs = Run.objects.filter(night__date=first["night"], origin="schedule", plan__planned=True)
    assert first["runs"] >= runs.count() > 0 and first["frames_planned"] == sum(run.plan.frames for run in runs)
    assert {plan["night"] for plan in listed(ours, "plans")} <= {one["night"] for one in found["items"]}
    past = [one["night"] for one in found["items"] if not one["coming"]]
    assert past == sorted(past, reverse=True)
    page = [ours.get("/api/nights", {"limit": 1, "offset": n}).json()["items"][0]["night"] for n in range(found["count"])]
    assert page == [one["night"] for one in found["items"]]
    Planning.objects.update(result={"of": "an earlier version"})
    assert ours.get(f"/api/trips/{trip['id']}/plan").json()["work"] is None


def test_the_sheet_holds_every_run_and_where_to_begin(ours, asked):
    start = ours.get("/api/tonight/start").json()
    where = {"spot": start["spot"], "night": start["night"]}
    assert "keep one first" in faults(ours.get(f"{WHOLE}/sheet", where))["night"]
    whole = send(ours, "nights/whole", {**where, **asked}).json()["whole"]
    runs = [
        {"rig": each["stand"], "wish": each["wish"], "begins_at": each["held_from"], "ends_at": each["held_to"]}
        for each in (one["run"] for one in whole["runs"])
    ]
    ours.put(WHOLE, {**where, **asked, "runs": runs}, content_type="application/json")
    sheet = ours.get(f"{WHOLE}/sheet", where).json()
    told = {
        (one["rig"], one["change_clock"], one["frames"], one["interval_start_s"] - one["interval_gap_s"]) for one in sheet["runs"]
    }
    names, each_run = whole_rigs(ours, asked), [one["run"] for one in whole["runs"]]
    assert told == {(names[each["stand"]], each["change_clock"], each["frames"], each["exposure_s"]) for each in each_run}
    assert all(one["steps"] for one in sheet["runs"])
    subs = {(each["stand"], each["exposure_s"], each["iso"]) for each in each_run}
    assert sum(line.count("darks of") for line in sheet["calibration"]) == len(subs)
    assert [one["moment"] for one in sheet["cues"]] == sorted(one["moment"] for one in sheet["cues"])


@pytest.mark.parametrize("school", ["all", nightly("one")])
def test_a_night_of_a_kept_trip_tells_the_same_frames_on_every_page(ours, trip, asked, school):
    target = next(one for one in listed(ours, "targets") if one["id"] == asked["wishes"][0]["target"])
    body = {"name": "Three of it", "ra_deg": target["ra_deg"], "dec_deg": target["dec_deg"], "angle_deg": 0.0, "columns": 3}
    framing = send(ours, "framings", {**body, "target": target["id"]}).json()["id"]
    wishes = [{**asked["wishes"][0], "framing": framing}, asked["wishes"][1]]
    plan = worked(ours, trip, {**asked, "wishes": wishes, "choices": {"panel_school": school}})
    send(ours, f"trips/{trip['id']}/plan/keep", {})
    lines = {one["night"]: one for one in ours.get("/api/nights").json()["items"]}
    for night, spot in zip(plan["nights"], trip["spots"], strict=True):
        where = {"spot": spot, "night": night["evening"]}
        kept = ours.get(WHOLE, where).json()
        answer = send(ours, "nights/whole", {**where, **kept["asked"], "runs": kept["runs"], "kept": True})
        assert answer.status_code == 200, answer.content
        page = answer.json()["whole"]
        told = sorted((one["stand"], one["change_clock"], one["frames"]) for one in night["runs"])
        assert sorted((one["run"]["stand"], one["run"]["change_clock"], one["run"]["frames"]) for one in page["runs"]) == told
        sheet = ours.get(f"{WHOLE}/sheet", where).json()
        assert sorted(one["frames"] for one in sheet["runs"]) == sorted(frames for _, _, frames in told)
        framed = sorted(one["run"]["change_at"][:16] for one in page["runs"])
        assert sorted(one["change_at"][:16] for one in kept["runs"]) == framed
        there = listed(ours, f"runs?night={where['night']}&spot={spot}")
        there = [run for run in there if run["origin"] == "schedule" and run["in_plan"]]
        assert sorted(run["planned_frames"] for run in there) == sorted(frames for _, _, frames in told)
        for name, of in (("planned_from", "begins_at"), ("planned_to", "ends_at"), ("planned_exposure_s", "exposure_s")):
            assert sorted(str(run[name])[:16] for run in there) == sorted(str(one["run"][of])[:16] for one in page["runs"])
        cues = ours.get(f"{WHOLE}/cues", where).json()["text"].replace("-", "").replace(":", "")
        for moment in framed + [one["run"]["ends_at"][:16] for one in page["runs"]]:
            assert f"DTSTART{moment.replace('-', '').replace(':', '')}" in cues
        assert lines[night["evening"]]["frames_planned"] == night["frames"] == sum(frames for _, _, frames in told)
    ours.delete(f"/api/trips/{trip['id']}")  # its nights stay, and stand by themselves
    assert "trip" not in ours.get(WHOLE, where).json()["asked"]
    assert ours.get(f"{WHOLE}/sheet", where).json()["runs"] == sheet["runs"]
