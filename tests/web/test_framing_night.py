"""A framing in its night, through the API: whose centre every page uses, panels' windows, ways, nudges, files, another night."""

from datetime import date

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile

from tests.web.conftest import faults, listed, send
from widedusk.records.pictures.models import Measurement

NIGHT = "2026-12-08"


@pytest.fixture
def scene(ours):
    """Rig, spot, night and target of the plan one begins with, the target's own place, and a framing 5° from it."""
    start = ours.get("/api/tonight/start").json()
    context = {name: start[name] for name in ("rig", "spot", "night", "target")}
    target = next(one for one in listed(ours, "targets") if one["id"] == context["target"])
    rig = next(one for one in listed(ours, "rigs") if one["name"].startswith("Heron"))["id"]
    body = {"name": target["name"], "ra_deg": target["ra_deg"], "dec_deg": target["dec_deg"] + 5.0, "angle_deg": 20.0}
    return {**context, "rig": rig}, target, body


def kept(ours, scene):
    _, target, body = scene
    return send(ours, "framings", {**body, "target": target["id"]}).json()


def sides(ours, scene):
    context, _, body = scene
    frame = send(ours, "framings/panels", {**body, "rig": context["rig"]}).json()["panels"][0]["frame"]
    return frame["width_deg"], frame["height_deg"]


def looked(ours, scene, ra, dec, angle, night=NIGHT, lens=1.0):
    """A picture of this person's that was measured, as the worker leaves it."""
    context, target, _ = scene
    owner = ours.session["_auth_user_id"]
    wide, high = (lens * one for one in sides(ours, scene))
    pointing = {"ra_deg": ra, "dec_deg": dec, "angle_deg": angle, "scale_arcsec_px": 6.9, "width_deg": wide, "height_deg": high}
    result = {"pictures": [{"picture": 1, "name": "a.jpg", "pointing": {**pointing, "mirrored": False, "stars": 40}}]}
    asked = {"pictures": [{"picture": 1, "taken": f"{night}T21:00:00+00:00", "exposure_s": 10.0}], "pole": "refracted"}
    told = {"task": "pointing", "state": "done", "night": date.fromisoformat(night), "result": result, "asked": asked}
    row = Measurement.objects.create(owner_id=owner, rig_id=context["rig"], spot_id=context["spot"], target_id=target["id"], **told)
    return row.pk


def test_every_page_of_the_night_uses_the_centre_of_the_framing(ours, scene):
    context, target, body = scene
    framing = kept(ours, scene)
    moved = send(
        ours,
        "targets",
        {
            **{name: target[name] for name in ("extent_deg", "surface_mag", "kind", "light")},
            **{
                "name": "Where the framing looks",
                "ra_deg": body["ra_deg"],
                "dec_deg": body["dec_deg"],
                "width_deg": target["width_deg"],
                "angle_deg": target["angle_deg"],
            },
        },
    ).json()

    def told(page, **change):
        answer = ours.get(f"/api/{page}", {**context, **change})
        assert answer.status_code == 200, (page, answer.content)
        return answer.json()

    for page in ("tonight", "exposure", "pole/need"):
        framed, there = told(page, framing=framing["id"]), told(page, target=moved["id"])
        plain = told(page)

        def curve(found, page=page):
            if page == "tonight":
                return found["strip"]["target_altitude"]
            return found["need"]["tolerance_arcmin"] if page == "pole/need" else found["card"]

        assert curve(framed) == curve(there), page
        if page == "tonight":
            assert curve(framed) != curve(plain)
    year = ours.get("/api/nights/year", {**context, "framing": framing["id"]}).json()
    assert year != ours.get("/api/nights/year", context).json()
    plan = send(ours, "plans", {**context, "framing": framing["id"], "name": "Framed", "choices": {}}).json()
    assert plan["framing"] == framing["id"]
    assert ours.delete(f"/api/framings/{framing['id']}").status_code == 200
    assert ours.get(f"/api/plans/{plan['id']}").json().get("framing") is None
    refused = ours.get("/api/tonight", {**context, "framing": framing["id"]})
    assert "its own middle" in faults(refused)["framing"]


def test_each_panel_has_a_window_of_its_own(ours, scene):
    context, target, body = scene
    asked = {
        **body,
        "rig": context["rig"],
        "context": context,
        "columns": 2,
        "rows": 5,
        "overlap": 0.1,
        "dropped": [{"row": 0, "column": 0}],
    }
    found = send(ours, "framings/nights", asked).json()
    assert len(found["panels"]) == 9 and found["verdict"]["workings"]
    # One panel is a target of its own: Tonight gives its place the same window.
    one = found["panels"][-1]
    laid = next(
        each
        for each in send(ours, "framings/panels", asked).json()["panels"]
        if (each["row"], each["column"]) == (one["row"], one["column"])
    )
    there = send(
        ours, "framings", {**body, "target": target["id"], "ra_deg": laid["frame"]["ra_deg"], "dec_deg": laid["frame"]["dec_deg"]}
    ).json()
    tonight = ours.get("/api/tonight", {**context, "framing": there["id"]}).json()
    window = next(each for each in tonight["verdicts"] if each["topic"] == "Window")
    clocks = {each["name"]: each["text"] for each in window["figures"] if each.get("text")}
    assert (clocks["Opens"], clocks["Closes"]) == (one["opens"], one["closes"])
    assert len({each["highest_deg"] for each in found["panels"]}) == 9
    apart = send(ours, "framings/nights", {**asked, "choices": {"panel_school": "one"}}).json()
    assert "A panel a night: 9 nights" in apart["verdict"]["sentence"] and "Every panel" in found["verdict"]["sentence"]


def test_four_ways_each_with_its_steps_and_what_is_wrong_with_a_time(ours, scene):
    context, _, body = scene
    found = send(
        ours, "framings/ways", {**body, "context": context, "at": "23:30", "choices": {"way": "hop", "finder": "frame"}}
    ).json()
    assert (
        found["clock"] == "23:30"
        and found["chosen"] == "hop"
        and [one["key"] for one in found["ways"]] == ["picture", "star", "hop", "compass"]
    )
    for one in found["ways"]:
        assert one["steps"] and one["error_deg"] > 0 and one["verdict"]["workings"]
    opens = send(ours, "framings/ways", {**body, "context": context}).json()
    tonight = ours.get("/api/tonight", {**context, "framing": kept(ours, scene)["id"]}).json()
    window = next(each for each in tonight["verdicts"] if each["topic"] == "Window")
    assert opens["clock"] in {each["text"] for each in window["figures"]}
    assert "23:30" in faults(send(ours, "framings/ways", {**body, "context": context, "at": "half"}))["at"]
    over = ours.get("/api/framings/above", {"spot": context["spot"], "night": NIGHT, "at": "23:30"}).json()
    assert len(over["horizon"]) > 100 and 0 <= over["moon_lit_percent"] <= 100 and over["clock"] == "23:30"
    lines = ours.get("/api/framings/figures").json()
    assert len(lines["labels"]) == 88 and len(lines["lines"]) > 400 and len(lines["ecliptic"]) == 73


def test_a_picture_three_degrees_off_one_that_is_there_and_another_night(ours, scene):
    context, _, body = scene
    framing = kept(ours, scene)
    ra, dec = body["ra_deg"], body["dec_deg"]
    asked = {**body, "rig": context["rig"], "id": framing["id"]}
    off = send(ours, "framings/nudge", {**asked, "measurement": looked(ours, scene, ra, dec - 3.0, 20.5)}).json()
    assert off["north_deg"] == pytest.approx(3.0, abs=0.02) and not off["there"] and off["again"] is None
    assert "3.00° to go" in off["verdict"]["sentence"] and off["verdict"]["workings"]
    near = looked(ours, scene, ra, dec + 0.1, 20.5)
    assert send(ours, "framings/nudge", {**asked, "measurement": near}).json()["there"]
    assert send(ours, "framings/arrived", {"framing": framing["id"], "rig": context["rig"], "measurement": near}).status_code == 200
    # Of the same night it is still what was composed; another night it is where the camera stood.
    next_night = looked(ours, scene, ra, dec + 0.1 + 0.3, 20.5, "2026-12-09")
    again = send(ours, "framings/nudge", {**asked, "measurement": next_night}).json()
    assert again["again"] == NIGHT and again["north_deg"] == pytest.approx(-0.3, abs=0.01) and not again["there"]
    back = looked(ours, scene, ra, dec + 0.1 + 0.05, 20.3, "2026-12-09")
    arrived = send(ours, "framings/nudge", {**asked, "measurement": back}).json()
    assert arrived["there"] and "as on 8 Dec 2026" in arrived["verdict"]["sentence"]
    # Composed anew far from there, the old place counts no more.
    elsewhere = send(ours, "framings/nudge", {**asked, "dec_deg": dec - 4.0, "measurement": next_night}).json()
    assert elsewhere["again"] is None
    other_lens = looked(ours, scene, ra, dec, 20.0, lens=2.5)
    assert "another lens" in faults(send(ours, "framings/nudge", {**asked, "measurement": other_lens}))["measurement"]
    assert "wait for it" in faults(send(ours, "framings/nudge", {**asked, "measurement": 10**9}))["measurement"]
    kept_still = next(one for one in listed(ours, "framings") if one["id"] == framing["id"])
    assert kept_still["version"] == framing["version"]  # remembering is nothing anybody typed


def test_panels_go_into_a_second_account_by_file(ours, client_of, scene):
    context, _, body = scene
    asked = {**body, "rig": context["rig"], "columns": 3, "rows": 2, "dropped": [{"row": 1, "column": 2}], "wanted": [
        {"name": "all of it", "ra_deg": body["ra_deg"], "dec_deg": body["dec_deg"], "long_deg": 15.0}
    ]}  # fmt: skip
    other = client_of("somebody")
    target = send(other, "targets/catalogue", {"key": "NGC1499"}).json()
    for form in ("csv", "ecsv"):
        told = send(ours, f"framings/file/{form}", asked).json()
        for name in (body["name"], f"{body['name']} (2)"):
            given = SimpleUploadedFile(told["name"], told["text"].encode())
            taken = other.post(f"/api/framings/file?target={target['id']}", {"file": given})
            assert taken.status_code == 201, taken.content
            found = taken.json()
            assert (found["columns"], found["rows"], found["dropped"]) == (3, 2, [{"row": 1, "column": 2}])
            assert found["ra_deg"] == body["ra_deg"] and bool(found["wanted"]) == (form == "ecsv")
            if form == "csv":
                assert found["name"] == name
    outlines = send(ours, "framings/file/outlines", asked).json()["text"]
    assert outlines.count("POLYGON ICRS") == 5
    broken = SimpleUploadedFile("panels.csv", b"a,b\n1,2\n")
    assert "is missing" in faults(other.post(f"/api/framings/file?target={target['id']}", {"file": broken}))["file"]


def test_two_cameras_on_one_mount(ours, scene):
    context, _, body = scene
    wide = next(one for one in listed(ours, "rigs") if one["name"].startswith("Sparrow"))["id"]
    place = {name: body[name] for name in ("ra_deg", "dec_deg", "angle_deg")}
    same = send(ours, "framings/pair", {**place, "rig": context["rig"], "other": wide}).json()
    assert same["of_first_percent"] == pytest.approx(100) and same["of_second_percent"] < 40
    beside = send(
        ours, "framings/pair", {**place, "rig": context["rig"], "other": context["rig"], "right_deg": sides(ours, scene)[0] / 2}
    ).json()
    assert beside["of_first_percent"] == pytest.approx(50, abs=2) and beside["either_deg2"] > beside["both_deg2"]
    assert "up_deg" in faults(send(ours, "framings/pair", {**place, "rig": context["rig"], "other": wide, "up_deg": 90}))


def test_what_fits_together_can_be_framed_and_stands_over_the_ground(ours, scene):
    context, _, _ = scene
    asked = {name: context[name] for name in ("rig", "spot", "night")}
    found = ours.get("/api/nights/together", {**asked, "limit": 3}).json()
    assert found["count"] > 3 and len(found["items"]) == 3
    first = found["items"][0]
    assert len(first["names"]) == len(first["keys"]) == len(first["subjects"]) >= 2 and first["margin_deg"] > 0
    # The composer says the same of the same things.
    again = send(ours, "framings/compose", {"rig": context["rig"], "subjects": first["subjects"], "turn": "any"}).json()
    assert again["margin_deg"] == pytest.approx(first["margin_deg"]) and not again["cut"]
    second = ours.get("/api/nights/together", {**asked, "limit": 3, "offset": 1}).json()
    assert second["items"][0]["keys"] == found["items"][1]["keys"]
    target = send(ours, "targets/catalogue", {"key": first["keys"][0]}).json()
    middle = {name: first[name] for name in ("ra_deg", "dec_deg", "angle_deg")}
    framing = send(ours, "framings", {**middle, "name": "Together", "target": target["id"], "wanted": first["subjects"]}).json()
    over = ours.get("/api/nights/frame", {**asked, "target": target["id"], "framing": framing["id"]}).json()["frames"]
    assert len(over) == 3 and all(len(one["outline"]) == 49 and one["outline"][0] == one["outline"][-1] for one in over)
    assert "no rig number" in faults(ours.get("/api/nights/frame", {**asked, "target": target["id"], "rig": 10**6}))["rig"]


def test_a_bright_star_is_kept_out_and_what_a_rig_can_turn_is_told(ours, scene):
    context, _, _ = scene
    subjects = [
        {"name": "one", "ra_deg": 63.0, "dec_deg": -32.9, "long_deg": 0.3},
        {"name": "two", "ra_deg": 64.5, "dec_deg": -31.5, "long_deg": 0.3},
    ]
    star = {"name": "bright", "ra_deg": 66.0, "dec_deg": -32.2, "long_deg": 0.5}
    free = send(ours, "framings/compose", {"rig": context["rig"], "subjects": subjects}).json()
    clear = send(ours, "framings/compose", {"rig": context["rig"], "subjects": subjects, "avoided": [star]}).json()
    assert clear["let_in"] == [] and not clear["cut"] and clear["margin_deg"] < free["margin_deg"]
    amid = {**star, "ra_deg": 63.75, "dec_deg": -32.2}
    stuck = send(ours, "framings/compose", {"rig": context["rig"], "subjects": subjects, "avoided": [amid]}).json()
    assert stuck["let_in"] == ["bright"] and "cannot be kept out" in stuck["verdict"]["advice"]
    told = ours.get("/api/framings/angles", {"rig": context["rig"]}).json()
    assert told["why"] and (told["only_deg"] is None or told["only_deg"] == [0, 90])
