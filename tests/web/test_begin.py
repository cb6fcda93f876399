"""From an empty account to a rig and a place, however the numbers are written."""

import pytest

from tests.web.conftest import context_of, faults, listed, send

HAND = {"camera": "full frame", "focal_mm": 135, "f_number": 2.8, "tracker": "light tracker"}
GROUND = {"coordinates": "24.58 S, 16.42 E", "sky": "dark country"}


def begin(client, **given):
    return client.post("/api/begin", given, content_type="application/json")


@pytest.mark.parametrize(
    ("focal", "stop", "lens"),
    [
        ("135", "2,8", {"focal_mm": 135, "f_widest": 2.8}),
        ("135 mm", "f/2.8", {"focal_mm": 135, "f_widest": 2.8}),
        ("14-24", "2.8", {"focal_mm": 14, "focal_long_mm": 24, "f_widest": 2.8}),
        ("18\u201355mm", "f/3,5-5,6", {"focal_mm": 18, "focal_long_mm": 55, "f_widest": 3.5, "f_widest_long": 5.6}),
    ],
)
def test_a_lens_is_read_as_it_is_written_on_it(client_of, focal, stop, lens):
    client = client_of("new here")
    made = begin(client, hand={**HAND, "focal_mm": focal, "f_number": stop})
    assert made.status_code == 200, made.content
    kept = next(part for part in listed(client, "parts") if part["kind"] == "lens")
    assert {name: kept["values"][name] for name in lens} == lens
    assert kept["values"].get("focal_long_mm") == lens.get("focal_long_mm")


def test_a_second_rig_is_like_the_first_with_another_lens(client_of):
    client = client_of("new here")
    first = begin(client, hand=HAND, ground=GROUND).json()["rig"]
    made = begin(client, hand={"like": first, "focal_mm": "85", "f_number": "1,8"})
    assert made.status_code == 200, made.content
    old, new = (next(row for row in listed(client, "rigs") if row["id"] == number) for number in (first, made.json()["rig"]))
    parts = {part["id"]: part for part in listed(client, "parts")}
    placed = [[one["part"] for one in row["placed"]] for row in (old, new)]
    apart = [parts[one] for one in set(placed[0]) ^ set(placed[1])]
    assert {one["kind"] for one in apart} == {"lens"} and len(apart) == 2 and len(placed[0]) == len(placed[1])
    assert sorted(one["values"]["focal_mm"] for one in apart) == [85, 135] and new["name"].endswith(", 85 mm")
    assert ours_is_worked_out(client, new["id"])
    told = faults(begin(client, hand={"like": 999_999, "focal_mm": "85", "f_number": "1.8"}))
    assert "not there any more" in told["hand.like"]
    assert set(faults(begin(client, hand={"focal_mm": "85", "f_number": "1.8"}))) == {"hand.camera", "hand.tracker"}


def ours_is_worked_out(client, rig: int) -> bool:
    start = client.get("/api/tonight/start").json()
    target = send(client, "targets", {"name": "Field", "ra_deg": 80, "dec_deg": -5, "extent_deg": 1, "surface_mag": 22}).json()[
        "id"
    ]
    asked = {"rig": rig, "spot": start["spot"], "night": start["night"], "target": target}
    return client.get("/api/tonight", asked).status_code == 200


@pytest.mark.parametrize(
    ("camera", "megapixels", "pitch"), [("full frame", "24", 6.0), ("crop sensor", "24,2 MP", 3.89), ("four thirds", "20", 3.35)]
)
def test_pixels_are_as_large_as_their_number_leaves_room_for(client_of, camera, megapixels, pitch):
    """Area of the sensor over the number of pixels; 6.0, 3.9 and 3.3 µm are what such bodies are sold with, from memory."""
    client = client_of("new here")
    assert begin(client, hand={**HAND, "camera": camera, "megapixels": megapixels}).status_code == 200
    body = next(part for part in listed(client, "parts") if part["kind"] == "camera")
    assert body["values"]["pitch_um"] == pytest.approx(pitch, abs=0.01)
    assert "megapixels" in str(faults(begin(client, hand={**HAND, "megapixels": "9000"})))


def test_what_cannot_be_read_is_told_at_the_field_of_the_form_and_nothing_is_made(client_of):
    client = client_of("new here")
    told = faults(begin(client, hand={**HAND, "focal_mm": "", "f_number": "wide"}, ground={**GROUND, "coordinates": "Zurich"}))
    assert set(told) == {"hand.focal_mm", "hand.f_number", "ground.coordinates"}
    assert "like 2.8" in told["hand.f_number"]
    told = faults(begin(client, hand={**HAND, "f_number": "2.8-4"}))
    assert set(told) == {"hand.f_number"} and "one f-number" in told["hand.f_number"]
    assert not listed(client, "rigs") and not listed(client, "places")


def test_choices_in_the_address_may_have_a_comma_and_their_unit(ours):
    context = context_of(ours)
    asked = {"f_number": "4", "goal_snr": "12.5", "fixed_sub_s": "90", "sub_school": "fixed"}
    written = {"f_number": "f/4,0", "goal_snr": "12,5", "fixed_sub_s": "90 s", "sub_school": "fixed"}
    first, second = (ours.get("/api/tonight", {**context, **choices}).json() for choices in (asked, written))
    assert first["card"] == second["card"] and first["card"]["exposure_s"] == 90.0
    assert "1250 or 1.250" in faults(ours.get("/api/tonight", {**context, "goal_snr": "1,250"}))["goal_snr"]


PLACE = {
    "name": "Rim",
    "latitude_deg": "-24,62",
    "longitude_deg": "16.94\u00b0",
    "sky_mag": 21.5,
    "spots": [{"name": "gate", "horizon": []}],
}


def test_a_place_has_the_time_zone_of_its_coordinates_and_moves_with_them(ours):
    """Zones by the time zone boundaries of timezonefinder; the offsets are those of the tz database."""

    def keep(**given):
        made = ours.post("/api/places", {**PLACE, **given}, content_type="application/json")
        assert made.status_code == 201, made.content
        return made.json()

    def change(place, **given):
        kept = {name: place[name] for name in ("name", "latitude_deg", "longitude_deg", "time_zone", "sky_mag", "spots")}
        answer = ours.put(f"/api/places/{place['id']}", {**kept, **given}, content_type="application/json")
        assert answer.status_code == 200, answer.content
        return answer.json()

    place = keep()
    assert (place["latitude_deg"], place["time_zone"], place["height_m"]) == (-24.62, "Africa/Windhoek", None)
    moved = change(place, latitude_deg=58.63, longitude_deg=25.38)
    assert moved["time_zone"] == "Europe/Tallinn"
    corrected = change(moved, time_zone="Europe/Helsinki")
    assert corrected["time_zone"] == "Europe/Helsinki"
    assert change(corrected, latitude_deg=58.64)["time_zone"] == "Europe/Helsinki"  # a step aside leaves a correction
    assert change(corrected, time_zone=None)["time_zone"] == "Europe/Tallinn"
    assert keep(name="Afar", time_zone="Asia/Tokyo")["time_zone"] == "Asia/Tokyo"
    told = faults(ours.post("/api/places", {**PLACE, "name": "Wrong", "latitude_deg": 95}, content_type="application/json"))
    assert "latitude_deg" in told


def test_what_nobody_told_of_a_place_is_named_beside_what_rests_on_it(ours):
    made = begin(ours, ground=GROUND).json()
    context = {**context_of(ours), "spot": made["spot"]}
    assumed = {one["key"]: one["what"] for one in ours.get("/api/tonight/better", context).json()["assumed"]}
    assert set(assumed) == {"horizon", "elevation"}
    window = next(one for one in ours.get("/api/tonight", context).json()["verdicts"] if one["topic"] == "Window")
    assert "assuming an open horizon" in window["sentence"]
    drawn = {"horizon": [{"azimuth_deg": 0, "altitude_deg": 0}, {"azimuth_deg": 180, "altitude_deg": 0}]}
    ours.put(f"/api/places/spots/{made['spot']}/horizon", drawn, content_type="application/json")
    place = next(one for one in listed(ours, "places") if one["spots"][0]["id"] == made["spot"])
    ours.put(f"/api/places/{place['id']}", {**place, "height_m": "1 420 m"}, content_type="application/json")
    assert ours.get("/api/tonight/better", context).json()["assumed"] == []
    window = next(one for one in ours.get("/api/tonight", context).json()["verdicts"] if one["topic"] == "Window")
    assert "assuming" not in window["sentence"]
