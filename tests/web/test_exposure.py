"""The Exposure pages' answers: settings, alternatives, earlier nights, test pictures and the camera's table."""

from datetime import datetime
from pathlib import Path

import numpy as np
import pytest

from tests.invented import EVENING, write_test_picture
from tests.web.conftest import begin, bring, faults, listed, send, shot
from widedusk.core.simulate.camera import CardHeader, as_fits
from widedusk.core.simulate.lens import InventedLens, Shot, picture
from widedusk.core.simulate.readout import Readout
from widedusk.jobs.queue import measure_pictures
from widedusk.records.pictures.models import Measurement, Picture


def exposure(client, asked: dict, **changes) -> dict:
    answer = client.get("/api/exposure", {**asked, **changes})
    assert answer.status_code == 200, answer.content
    return answer.json()


def test_one_answer_holds_every_question_and_agrees_with_tonight(ours, asked):
    found = exposure(ours, asked)
    tonight = ours.get("/api/tonight", asked).json()
    assert found["card"] == tonight["card"] and found["verdicts"][0] == tonight["verdicts"][3]
    held = found["stops"][found["at"]]
    assert held["reading"]["exposure_s"] == found["advised_s"] and held["frames"] == found["card"]["frames"]
    assert [one["name"] for one in found["filters"]] == ["No filter", "Dual-band filter", "An Hα filter of 7 nm"]
    assert found["schools"][0]["price"]["against"] == 1 and sum(row["chosen"] for row in found["isos"]) == 1
    lost = exposure(
        ours, asked, sub_school="fixed", fixed_sub_s=600, alignment_arcmin=600
    )  # nothing is kept, so no figure may be infinite
    assert lost["many"]["goal_frames"] is None and lost["many"]["rows"][0]["adds"] is None
    bound = exposure(ours, asked, sub_school="fixed", fixed_sub_s=47, iso=566, filter_name="Dual-band filter", wind_level="fresh")
    assert bound["advised_s"] == 47 and "drawn in between" in bound["verdicts"][0]["advice"]
    assert next(row for row in bound["filters"] if row["chosen"])["name"] == "Dual-band filter"
    assert next(row for row in bound["isos"] if row["chosen"])["between"]


@pytest.mark.parametrize(
    ("wrong", "field", "words"),
    [
        ({"sub_school": "fixed", "fixed_sub_s": 0}, "fixed_sub_s", "from 0.1 to 1200"),
        ({"sub_school": "fixed", "fixed_sub_s": 10_800}, "fixed_sub_s", "from 0.1 to 1200"),
        ({"keep_percent": 0}, "keep_percent", "from 1 to 99.9"),
        ({"keep_percent": 100}, "keep_percent", "from 1 to 99.9"),
        ({"iso": 50}, "iso", "lies outside the table"),
        ({"filter_name": "Moon glass"}, "filter_name", "You have no filter"),
        ({"goal_snr": 0}, "goal_snr", "from 0.5"),
        ({"mirror_s": -1}, "mirror_s", "from 0 to 30"),
        ({"wind_level": "hurricane"}, "wind_level", "none"),
    ],
)
def test_wrong_settings_are_named_at_their_field(ours, asked, wrong, field, words):
    assert words in faults(ours.get("/api/exposure", {**asked, **wrong}))[field]


def test_earlier_nights_are_kept_added_up_and_private(ours, asked, client_of):
    before = exposure(ours, asked)["many"]
    body = {"target": asked["target"], "night": "2026-11-02", "frames": 120, "exposure_s": 60, "f_number": 5.6, "iso": 800}
    made = send(ours, "sessions", body)
    assert made.status_code == 201 and made.json()["name"] == "2 Nov 2026"
    after = exposure(ours, asked)["many"]
    assert after["gathered"]["kept_hours"] == 2 and after["gathered"]["equivalent_hours"] == pytest.approx(2 * (4 / 5.6) ** 2)
    assert after["goal_frames"] < before["goal_frames"] and len(after["added"]) == 1
    number = made.json()["id"]
    assert send(ours, f"sessions/{number}", {**body, "frames": 60}, "put").json()["frames"] == 60
    through = {**body, "filter_name": "Dual-band filter"}
    assert send(ours, f"sessions/{number}", through, "put").json()["filter_name"] == "Dual-band filter"
    assert exposure(ours, asked)["many"]["gathered"]["snr"] != pytest.approx(after["gathered"]["snr"], rel=0.05)
    assert "no filter" in faults(send(ours, "sessions", {**body, "filter_name": "Glass"}))["filter_name"]
    assert send(ours, f"sessions/{number}", {**body, "frames": 60}, "put").json()["frames"] == 60
    wrong = faults(send(ours, "sessions", {**body, "frames": 0, "exposure_s": -5}))
    assert {"frames", "exposure_s"} <= set(wrong)
    assert "no target number 999999" in faults(send(ours, "sessions", {**body, "target": 999_999}))["target"]
    stranger = client_of("stranger")
    assert listed(stranger, "sessions") == [] and stranger.delete(f"/api/sessions/{number}").status_code == 404
    assert ours.delete(f"/api/sessions/{number}").status_code == 200 and listed(ours, "sessions") == []
    assert ours.post(f"/api/sessions/{number}/restore").status_code == 200
    assert exposure(ours, asked)["many"]["gathered"]["frames"] == 60


@pytest.fixture(scope="module")
def brighter(tmp_path_factory) -> Path:
    """A test picture at the demo's place, under a sky a magnitude brighter than the place is said to have."""
    return write_test_picture(tmp_path_factory.mktemp("trial") / "test-picture.jpg", EVENING)


def test_a_test_picture_is_held_against_the_plan_and_corrects_it(ours, asked, here, brighter):
    picture = bring(ours, brighter)
    made = begin(ours, asked, [shot(picture, exposure_s=15)], "trial").json()
    early = faults(ours.get(f"/api/exposure/test-picture/{made['id']}", asked))
    assert "not measured yet" in early["picture"]
    measure_pictures(measurement=made["id"])
    assert Measurement.objects.get(pk=made["id"]).state == "done", Measurement.objects.get(pk=made["id"]).faults
    told = ours.get(f"/api/exposure/test-picture/{made['id']}", asked).json()
    assert "brighter than planned" in told["verdict"]["sentence"] and told["rows"][0]["agrees"] is False
    offer = told["offer"]
    assert offer["zenith_mag"] == pytest.approx(20.6 + 21.85 - 21.6, abs=0.25)  # the field stands a little brighter than the zenith
    before = exposure(ours, asked)
    given = {"rig": asked["rig"], "spot": asked["spot"]}
    was = send(ours, "exposure/learn", {**given, "sky_mag": offer["zenith_mag"], "star_fwhm_px": 3.1})
    assert was.status_code == 200 and was.json() == {"sky_mag": 21.85, "star_fwhm_px": 2.7, "star_origin": "by hand"}
    after = exposure(ours, asked)
    assert after["window"]["spans"][0]["from_s"] < before["window"]["spans"][0]["from_s"]  # brighter: sky-limited sooner
    again = ours.get(f"/api/exposure/test-picture/{made['id']}", asked).json()
    assert again["rows"][0]["agrees"] and again["offer"]["zenith_mag"] is None
    assert send(ours, "exposure/learn", {**given, **was.json()}).status_code == 200
    assert exposure(ours, asked)["window"] == before["window"]
    assert "sky_mag" in faults(send(ours, "exposure/learn", {**given, "sky_mag": 5.0}))


def test_a_test_picture_without_iso_asks_for_it(ours, asked, here, brighter):
    picture = bring(ours, brighter)
    made = begin(ours, asked, [shot(picture, exposure_s=15)], "trial").json()
    measure_pictures(measurement=made["id"])
    row = Measurement.objects.get(pk=made["id"])
    bare = Picture.objects.get(pk=picture["id"])
    bare.header = {**bare.header, "iso": None}
    bare.save()
    assert "does not say it" in faults(ours.get(f"/api/exposure/test-picture/{row.pk}", asked))["iso"]
    assert "Give one picture" in faults(begin(ours, asked, [shot(picture), shot(picture)], "trial"))["pictures"]


def test_a_camera_is_measured_from_flats_and_kept(ours, asked, here, tmp_path):
    readout, rng = Readout(640, 500, 0.45, 2.2, iso=800), np.random.default_rng(21)
    counts = (*readout.flats(3_000, rng), readout.bias(rng), readout.bias(rng))
    pictures = []
    for place, frame in enumerate(counts):
        path = tmp_path / f"frame-{place}.fits"
        path.write_bytes(readout.as_fits(frame, 0.5 if place < 2 else 0.0001))
        pictures.append(bring(ours, path))
    assert [one["iso"] for one in pictures] == [800] * 4
    shots = [shot(one, exposure_s=one["exposure_s"]) for one in pictures]
    made = begin(ours, asked, shots, "camera").json()
    measure_pictures(measurement=made["id"])
    done = ours.get(f"/api/pictures/measurements/{made['id']}").json()
    assert done["state"] == "done", done["faults"]
    assert done["transfer"]["gain_e"] == pytest.approx(0.45, rel=0.03) and done["iso"] == 800
    row = {"rig": asked["rig"], "iso": 800, "read_noise_e": 2.21, "full_well_e": 7142}
    was = send(ours, "exposure/camera", row).json()
    assert was == {"camera": "Crop-sensor body", "read_noise_e": 1.8, "full_well_e": 6100, "origin": "by hand"}
    assert next(one for one in exposure(ours, asked)["isos"] if one["iso"] == 800)["read_noise_e"] == 2.21
    new = send(ours, "exposure/camera", {**row, "iso": 3200}).json()
    assert new["read_noise_e"] is None
    assert send(ours, "exposure/camera", {"rig": asked["rig"], "iso": 3200}).status_code == 200  # the way back
    assert [one["iso"] for one in exposure(ours, asked)["isos"]] == [200, 400, 800, 1600]
    assert "read_noise_e" in faults(send(ours, "exposure/camera", {**row, "read_noise_e": 900}))
    # Swapped, one too few, a JPEG among them: each says so.
    swapped = begin(ours, asked, shots, "camera", iso=800)
    assert "was let go" in faults(swapped)["pictures.0.picture"]
    assert "two flats, then two bias frames" in faults(begin(ours, asked, shots[:3], "camera"))["pictures"]


def test_a_lens_is_measured_kept_and_goes_back(ours, asked, here, tmp_path, client_of):
    lens = InventedLens(open_f=2.8, coma_px=2.4, fall=0.4)
    pictures = []
    for place, stop in enumerate((2.8, 5.6)):
        drawn = picture(lens, Shot(stop, 1500, 1000, 700, exposed=1.0 + place), np.random.default_rng(place))
        path = tmp_path / f"at-{stop}.fits"
        path.write_bytes(as_fits(drawn, 60_000.0, CardHeader(datetime(2026, 12, 1), 8.0, 180.0, f_number=stop if place else None)))
        pictures.append(bring(ours, path))
    shots = [shot(one, f_number=one["f_number"], stopped_by="ring", taken=None) for one in pictures]
    refused = faults(begin(ours, asked, shots, "lens"))
    assert refused == {"pictures.0.f_number": "“at-2.8.fits” does not say its f-number; type it."}
    shots[0]["f_number"] = 2.8
    made = begin(ours, asked, shots, "lens").json()
    assert "not measured yet" in faults(ours.get(f"/api/lenses/{made['id']}", asked))["pictures"]
    measure_pictures(measurement=made["id"])
    done = ours.get(f"/api/pictures/measurements/{made['id']}").json()
    assert done["state"] == "done", done["faults"]
    (seen,) = listed(ours, "lenses")
    assert seen["id"] == made["id"] and seen["stops"] == [2.8, 5.6]
    told = ours.get(f"/api/lenses/{made['id']}", asked).json()
    assert told["stops"][0]["faults"] == ["coma"] and not told["stops"][0]["broad"]["good"] and told["broad"] == 5.6
    # What a stop costs is what Exposure says of it.
    rows = {row["f_number"]: row for row in exposure(ours, asked)["apertures"]}
    for stop, cost in zip(told["stops"], told["costs"], strict=True):
        assert cost["price"]["hours"] == rows[stop["f_number"]]["price"]["hours"]
    # The limits are those of now.
    assert ours.get(f"/api/lenses/{made['id']}", {**asked, "elongation_limit": 2.5, "width_limit": 3.0}).json()["broad"] == 2.8
    was = send(ours, "lenses/good-stops", {"rig": asked["rig"], "broad": told["broad"], "narrow": told["narrow"]}).json()
    assert was == {"broad": 4.0, "narrow": 3.2, "origin": "by hand"}
    now = ours.get(f"/api/lenses/{made['id']}", asked).json()["in_use"]
    assert now["broad"] == 5.6 and now["origin"] == "learned"
    assert exposure(ours, asked)["f_number"] == 5.6
    assert send(ours, "lenses/good-stops", {"rig": asked["rig"], **was}).status_code == 200
    assert ours.get(f"/api/lenses/{made['id']}", asked).json()["in_use"] == was
    assert "wider than the lens opens" in faults(send(ours, "lenses/good-stops", {"rig": asked["rig"], "broad": 1.0}))["f_best"]
    other = client_of("somebody-else")
    assert other.get(f"/api/lenses/{made['id']}", asked).status_code == 404 and listed(other, "lenses") == []
    assert send(other, "lenses/good-stops", {"rig": asked["rig"], "broad": 4.0}).status_code == 404


def test_a_measured_axis_bears_on_the_sub(ours, asked):
    plain = exposure(ours, asked)
    assert "as you expect" in plain["axis"]
    send(ours, "alignments", {"context": asked, "method": "rough", "touched": ""})
    left = exposure(ours, asked)
    assert "usually leaves it, within 5.0°; nobody measured it" in left["axis"]
    assert left["window"]["reading"]["tracked"] < plain["window"]["reading"]["tracked"] or left["at"] < plain["at"]
    stars = [{"altitude_deg": 60, "azimuth_deg": 0, "amount": 4, "towards": "north", "minutes": 4}]
    stars += [{"altitude_deg": 25, "azimuth_deg": 90, "amount": 3, "towards": "south", "minutes": 4}]
    assert send(ours, "pole/drift", {"context": asked, "stars": stars, "keep": True}).json()["kept"]
    measured = exposure(ours, asked)
    assert "as measured tonight" in measured["axis"]
    assert ours.get("/api/tonight", asked).json()["verdicts"][3] == measured["verdicts"][0]


def test_nobody_reaches_another_persons_measurements(asked, client_of):
    stranger = client_of("stranger")
    assert stranger.get("/api/exposure/test-picture/1", asked).status_code == 404
    assert send(stranger, "exposure/learn", {"rig": asked["rig"], "spot": asked["spot"], "sky_mag": 20}).status_code == 404


def test_measurements_are_found_again_by_what_they_are_about(ours, asked, here, brighter):
    picture = bring(ours, brighter)
    trial = begin(ours, asked, [shot(picture, exposure_s=15)], "trial").json()
    looked = begin(ours, asked, [shot(picture, taken=None)], "pointing").json()

    def found(about: str) -> list[int]:
        answer = ours.get("/api/pictures/measurements", {"night": asked["night"], "about": about})
        return [one["id"] for one in answer.json()["items"]]

    assert (found("trial"), found("pole"), found("camera")) == ([trial["id"]], [looked["id"]], [])
    assert "about" in faults(ours.get("/api/pictures/measurements", {"about": "weather"}))


def test_a_filter_for_the_night_leaves_the_bench_as_it_is(ours, asked):
    """It goes with the plan: tonight, the pole and the cues reckon with it, the rig on the Bench keeps its own."""
    rig = next(one for one in listed(ours, "rigs") if one["id"] == asked["rig"])
    through = {**asked, "filter_name": "Dual-band filter"}
    bare, filtered = (ours.get("/api/tonight", query).json()["verdicts"][3] for query in (asked, through))
    assert bare["sentence"] != filtered["sentence"]
    assert ours.get("/api/pole/need", through).status_code == ours.get("/api/nights/cues", through).status_code == 200
    plan = {**{name: asked[name] for name in ("rig", "spot", "target", "night")}, "name": "Through glass"}
    made = send(ours, "plans", {**plan, "choices": {"filter_name": "Dual-band filter"}})
    assert made.status_code == 201 and made.json()["choices"]["filter_name"] == "Dual-band filter"
    assert (
        "You have no filter"
        in faults(send(ours, "plans", {**plan, "name": "b", "choices": {"filter_name": "Glass"}}))["filter_name"]
    )
    assert next(one for one in listed(ours, "rigs") if one["id"] == asked["rig"]) == rig
    # Remembered schools hold no filter: it belongs to one night.
    assert send(ours, "habits/schools", {"filter_name": "Dual-band filter", "gap_s": 5}, "put").status_code == 200
    assert ours.get("/api/habits").json()["choices"].get("filter_name") is None
