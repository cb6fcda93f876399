"""Angles as people write them, against astropy's own reader."""

import pytest
from astropy import units
from astropy.coordinates import Angle

from widedusk.core.errors import InvalidInput
from widedusk.core.sky.sexagesimal import read_declination, read_right_ascension


@pytest.mark.parametrize(
    ("written", "plain", "unit"),
    [
        ("00h42m44.3s", "00h42m44.3s", "hourangle"),
        ("00:42:44.3", "00:42:44.3", "hourangle"),
        ("0 42 44.3", "0 42 44.3", "hourangle"),
        ("5h35.3m", "5h35.3m", "hourangle"),
        ("17h", "17h", "hourangle"),
        ("10.684", "10.684", "deg"),
        ("10.684°", "10.684", "deg"),
        ("83°49′30″", "83d49m30s", "deg"),
    ],
)
def test_right_ascension(written, plain, unit):
    assert read_right_ascension(written) == pytest.approx(Angle(plain, unit=unit).to_value(units.deg), abs=1e-9)


@pytest.mark.parametrize(
    ("written", "plain"),
    [
        ("+41°16′09″", "41d16m9s"),
        ("41:16:09", "41:16:09"),
        ("−5 15", "-5:15"),
        ("-00:30:00", "-0:30:00"),
        ("-69d45m", "-69d45m"),
        ("-5.25", "-5.25d"),
    ],
)
def test_declination(written, plain):
    assert read_declination(written) == pytest.approx(Angle(plain, unit="deg").to_value(units.deg), abs=1e-9)


@pytest.mark.parametrize("written", ["", "north", "12h60m", "5.5h 30m", "1 2 3 4", "41h"])
def test_what_cannot_be_read_is_refused_with_what_would_be_right(written):
    with pytest.raises(InvalidInput, match="Write it like"):
        read_declination(written)


def test_numbers_are_degrees():
    assert read_right_ascension(83.8) == 83.8 and read_declination(-5.4) == -5.4
    assert read_right_ascension("83,8") == 83.8 and read_declination("\u20135,4") == -5.4
