"""The worked-out night through the API: both skies, wrong input, plans, and years beyond any table."""

import json
from dataclasses import fields

import pytest

from tests.web.conftest import context_of, faults, listed
from widedusk.api.strict_json import Written
from widedusk.api.tonight import ChoicesShape
from widedusk.core.choices import Choices
from widedusk.core.verdict import Quantity

TOPICS = ["Payload", "Window", "Pole", "Exposure", "Card"]


def test_five_verdicts_strip_dial_and_card_for_both_hemispheres(ours):
    context = context_of(ours)
    for place in listed(ours, "places"):
        for target in listed(ours, "targets"):
            answer = ours.get("/api/tonight", {**context, "spot": place["spots"][0]["id"], "target": target["id"]})
            assert answer.status_code == 200, answer.content
            night = answer.json()
            assert [verdict["topic"] for verdict in night["verdicts"]] == TOPICS
            assert all(verdict["workings"] for verdict in night["verdicts"])
            strip = night["strip"]
            lengths = {len(strip[name]) for name in ("sky_mag", "target_altitude", "obstruction", "moon_altitude", "state")}
            assert len(lengths) == 1 and 500 < lengths.pop() < 1300
            assert night["dial"]["south"] is (place["latitude_deg"] < 0)
            assert len(night["dial"]["marks"]) == (4 if place["latitude_deg"] < 0 else 1)
            usable = strip["state"].count("usable")
            assert (night["card"]["frames"] > 0) == (usable > 5)
            assert night["card"]["total_s"] <= usable * 60


@pytest.mark.parametrize(
    ("wrong", "field", "words"),
    [
        ({"night": "1850-06-01"}, "night", "choose one from 1973 to 2099"),
        ({"night": "soon"}, "night", "write it like 9 Dec 2026"),
        ({"f_number": "0.5"}, "f_number", "from 0.7"),
        ({"f_number": "1.0"}, "f_number", "is wider than"),
        ({"f_number": "two"}, "f_number", "Give a number, like 2.8."),
        ({"iso": "100"}, "iso", "lies outside the table"),
        ({"sub_school": "fixed"}, "fixed_sub_s", "in seconds"),
        ({"payload_school": "own", "payload_percent": "900"}, "payload_percent", "from 10 to 100"),
        ({"setup_time": "26:00"}, "setup_time", "write it like 20:30"),
        ({"rig": "99999"}, "rig", "You have no rig number 99999"),
        ({"keep_percent": "nan"}, "keep_percent", "finite"),
    ],
)
def test_wrong_input_is_answered_at_its_field(ours, wrong, field, words):
    assert words in faults(ours.get("/api/tonight", {**context_of(ours), **wrong}))[field]


def test_a_card_without_a_frame_tells_no_time_to_press(ours):
    none = {"sub_school": "fixed", "fixed_sub_s": "1200", "most_hours": "0.05"}
    night = ours.get("/api/tonight", {**context_of(ours), **none}).json()
    assert (night["card"]["frames"], night["start_clock"], night["end_clock"]) == (0, "", "")
    exposure = ours.get("/api/exposure", {**context_of(ours), **none}).json()
    assert (exposure["start_clock"], exposure["end_clock"]) == ("", "")


def test_choices_change_the_answer(ours):
    def verdicts(**choices):
        answer = ours.get("/api/tonight", {**context_of(ours), **choices}).json()
        return {verdict["topic"]: verdict for verdict in answer["verdicts"]}, answer

    usual, _ = verdicts()
    habit, answer = verdicts(sub_school="fixed", fixed_sub_s=45, iso=1600, f_number=5.6, gap_s=5)
    assert habit["Exposure"]["sentence"].startswith("f/5.6, 45 s, ISO 1600")
    assert (answer["card"]["interval_gap_s"], answer["card"]["interval_start_s"]) == (5, 50)
    assert habit["Exposure"]["binding"] == "your fixed habit" != usual["Exposure"]["binding"]
    strict, _ = verdicts(payload_school="own", payload_percent=20)
    assert (usual["Payload"]["level"], strict["Payload"]["level"]) == ("go", "care")
    late, answer = verdicts(setup_time="23:30")
    assert answer["setup_clock"] == "23:30"
    assert late["Pole"]["figures"] != usual["Pole"]["figures"]


def test_the_same_again_is_answered_alike_until_anything_it_hangs_on_is_another(ours):
    context = context_of(ours)

    def verdicts():
        return ours.get("/api/tonight", context).json()["verdicts"]

    first, again = verdicts(), verdicts()
    assert first == again
    learnt = {"rig": context["rig"], "spot": context["spot"], "sky_mag": 19.0}
    assert ours.post("/api/exposure/learn", learnt, content_type="application/json").status_code == 200
    brighter = verdicts()
    assert brighter != first
    units = {"mass_unit": "lb", "length_unit": "in", "carry_limit": "26 lb"}
    assert ours.put("/api/habits/units", units, "application/json").status_code == 200
    pounds = verdicts()
    assert "lb" in pounds[0]["sentence"] and pounds[3] == brighter[3]


def test_a_number_that_json_does_not_have_is_never_written(caplog):
    class Told(Written):
        figures: list[float]
        words: str

    assert json.loads(Told.answer({"figures": [0.5], "words": "of all:NaN"}).content) == {"figures": [0.5], "words": "of all:NaN"}
    for figure in (float("nan"), float("inf"), float("-inf")):
        with caplog.at_level("ERROR"):
            assert json.loads(Told.answer({"figures": [0.5, figure], "words": ""}).content)["figures"] == [0.5, None]
        assert f"answer.figures.1 is {figure}" in caplog.text, "a fault of ours, by its place"
        told = Quantity("Sub", figure, "s")
        assert told.value is None and told.text


def test_the_shape_of_choices_has_the_core_s_names_and_defaults():
    assert {name: field.default for name, field in ChoicesShape.model_fields.items()} == {
        field.name: field.default for field in fields(Choices)
    }


def test_a_plan_is_kept_opened_changed_and_brought_back(ours):
    def send(method, url, data):
        return getattr(ours, method)(url, json.dumps(data), content_type="application/json")

    context = context_of(ours)
    assert "find it again" in faults(send("post", "/api/plans", {"name": " ", **context, "choices": {}}))["name"]
    assert "0.7" in faults(send("post", "/api/plans", {"name": "x", **context, "choices": {"f_number": 0.3}}))["f_number"]
    made = send("post", "/api/plans", {"name": "Windless", **context, "choices": {"f_number": 5.6, "gap_s": 2.0}})
    assert made.status_code == 201
    url = f"/api/plans/{made.json()['id']}"
    kept = ours.get(url).json()
    assert (kept["night"], kept["target"]) == (context["night"], context["target"])
    assert kept["choices"] == {"f_number": 5.6}  # a default is not stored, so that a better one reaches old plans
    assert send("put", url, {"name": "Windless", **context, "night": "2026-12-11", "choices": {}}).status_code == 200
    assert ours.get(url).json()["night"] == "2026-12-11"
    assert ours.delete(url).status_code == 200 and ours.get(url).status_code == 404
    assert send("post", f"{url}/restore", {}).status_code == 200 and ours.get(url).status_code == 200


def test_a_plan_whose_rig_was_deleted_says_so(ours):
    plan = listed(ours, "plans")[0]
    ours.delete(f"/api/rigs/{plan['rig']}")
    asked = {name: plan[name] for name in ("rig", "spot", "target", "night")}
    assert "choose one from the list" in faults(ours.get("/api/tonight", asked))["rig"]
    assert ours.get("/api/tonight/start").json()["rig"] != plan["rig"]


def test_the_clock_may_stand_at_2033(ours, settings):
    settings.WIDE_DUSK_NOW = "2033-02-01T12:00:00+00:00"
    start = ours.get("/api/tonight/start").json()
    assert start["night"] == "2033-02-01"
    answer = ours.get("/api/tonight", {**context_of(ours), "night": start["night"]})
    assert answer.status_code == 200 and answer.json()["card"]["frames"] > 0
