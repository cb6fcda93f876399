"""Numbers as people type them: common practice, no source. What could mean two numbers is refused."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from widedusk.core.grounds.horizon_file import pair_cells
from widedusk.core.kit.units import METRIC
from widedusk.core.number_text import NoNumber, parse_number, parse_range


@pytest.mark.parametrize(
    ("text", "unit", "number"),
    [
        ("2,8", "", 2.8),
        (" f/2.8 ", "", 2.8),
        ("F2,8", "", 2.8),
        ("ƒ/4", "", 4.0),
        ("1/250", "s", 0.004),
        ("1/250 s", "s", 0.004),
        ("135 mm", "mm", 135.0),
        ("\u221224,62", "°", -24.62),
        ("\u20131.5°", "°", -1.5),
        ("1\u202f250", "m", 1250.0),
        ("1 250,5", "m", 1250.5),
        ("0,125", "", 0.125),
        (",5", "", 0.5),
        ("1,25", "", 1.25),
        ("1e3", "", 1000.0),
        (7, "", 7.0),
    ],
)
def test_every_usual_way_to_write_a_number_is_read(text, unit, number):
    assert parse_number(text, unit) == pytest.approx(number, rel=1e-12)


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("1,250", "write 1250 or 1.250"),
        ("1,250.5", "Give a number"),
        ("14-24", "range"),
        ("2 min", "Give a number"),
        ("1/0", "Give a number"),
        ("two", "Give a number"),
        ("", "Give a number"),
        ("inf", "finite"),
        ("1e999", "finite"),
        (math.nan, "finite"),
        (10**400, "finite"),
        (True, "Give a number"),
        (None, "Give a number"),
    ],
)
def test_what_is_no_number_or_could_be_two_is_refused_with_the_reason(text, words):
    with pytest.raises(NoNumber, match=words):
        parse_number(text, "s")


@given(st.floats(-1e9, 1e9), st.sampled_from("-\u2212\u2013\u2010"))
def test_a_comma_and_any_minus_mean_the_same_as_a_point_and_a_hyphen(number, minus):
    text = f"{number:.2f}"
    assert parse_number(text.replace(".", ",").replace("-", minus)) == float(text)


def test_both_ends_of_a_zoom_and_pairs_and_masses_with_commas():
    assert parse_range("18\u201355 mm", "mm") == (18.0, 55.0) and parse_range("f/3,5-5,6") == (3.5, 5.6)
    assert parse_range("50", "mm") == (50.0, 50.0)
    assert [pair_cells(line) for line in ("0,5 12,3", "90, 20.5", "180;3", "90,20", "90 , 20")] == [
        *(["0,5", "12,3"], ["90", "20.5"], ["180", "3"], ["90", "20"], ["90", "20"])
    ]
    assert METRIC.read("1,2 kg", "mass") == 1200.0 and METRIC.read("\u22124,5 in", "length") == pytest.approx(-114.3)
