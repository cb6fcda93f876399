"""From an empty account to a rig and a place, however the numbers are written."""

import pytest

from tests.web.conftest import context_of, faults, listed

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
