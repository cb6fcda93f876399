"""Places and horizon profiles out of files: what comes back, and what is refused with the reason."""

import json

import gpxpy
import pytest

from widedusk.core.errors import InvalidInput
from widedusk.core.grounds.horizon_file import read_horizon, write_horizon
from widedusk.core.grounds.place import PlaceInput, SpotInput
from widedusk.core.grounds.places_file import read_places, write_places
from widedusk.core.sky.horizon import HorizonProfile

TREES = ((0.0, 3.0), (90.0, 40.5), (200.0, 4.0))
PLACE = PlaceInput(
    "Flats & <gate>", -24.62, 16.94, 1420, "Africa/Windhoek", 21.85, (SpotInput(None, "tank", TREES),), "Ask first", "Sand"
)


def gpx(points: str) -> bytes:
    return f'<gpx version="1.1" creator="t" xmlns="http://www.topografix.com/GPX/1/1">{points}</gpx>'.encode()


def test_geojson_brings_everything_back_and_gpx_what_it_can_hold():
    assert read_places(write_places([PLACE], "geojson").encode()) == (PLACE,)
    feature = json.loads(write_places([PLACE], "geojson"))["features"][0]
    assert feature["geometry"]["coordinates"][:2] == [16.94, -24.62]  # RFC 7946: longitude first
    point = gpxpy.parse(write_places([PLACE], "gpx")).waypoints[0]
    assert (point.name, point.latitude, point.longitude, point.elevation) == ("Flats & <gate>", -24.62, 16.94, 1420)
    (back,) = read_places(write_places([PLACE], "gpx").encode())
    assert (back.name, back.time_zone, back.spots[0].horizon, back.access) == (PLACE.name, "Africa/Windhoek", (), "Ask first; Sand")


@pytest.mark.parametrize(
    ("content", "words"),
    [
        (gpx(""), "no waypoint"),
        (gpx('<trk><trkseg><trkpt lat="1" lon="2"/><trkpt lat="1" lon="3"/></trkseg></trk>'), "a track of 2 points"),
        (gpx('<wpt lat="116.9" lon="-24.6"/>'), "Are they swapped?"),
        (gpx('<wpt lat="-24,6" lon="16.9"/>'), "no readable GPX"),
        (gpx('<wpt lat="1" lon="2"/>' * 2001), "2,001 waypoints"),
        (gpx('<wpt lat="1" lon="2"/>' * 1_000_000), "bytes; give at most"),
        (b'<?xml version="1.0"?><!DOCTYPE g [<!ENTITY a "aaaa"><!ENTITY b "&a;&a;&a;">]><gpx>&b;</gpx>', "its own entities"),
        (b"<gpx", "no readable XML"),
        (b'{"type": "FeatureCollection", "features": []}', "holds no point"),
        (b'{"type": "Feature", "geometry": {"type": "Point", "coordinates": [5]}}', "longitude and latitude"),
        (b'{"type": "Feature", "geometry": {"type": "Point", "coordinates": [-24.6, 116.9]}}', "Are they swapped?"),
        (b"[" * 100_000, "no JSON"),
        (b"latitude;longitude", "neither GPX nor GeoJSON"),
    ],
)
def test_files_without_a_place_say_why(content, words):
    with pytest.raises(InvalidInput) as caught:
        read_places(content)
    assert words in str(caught.value)


def test_a_horizon_profile_comes_back_from_its_table_and_from_other_peoples():
    assert read_horizon(write_horizon(HorizonProfile(TREES)).encode()).points_deg == TREES
    for other in ("az;alt\n0;3\n90;40.5\n200;4\n", "# measured\n0\t3\n90\t40.5\n\n200\t4", "0 3  # gate\n90 40.5\n200 4"):
        assert read_horizon(other.encode()).points_deg == TREES


@pytest.mark.parametrize(
    ("text", "field"),
    [
        ("az,alt\n0,5\n90,91", "line 3, altitude_deg"),
        ("0,5\n400,2", "line 2, azimuth_deg"),
        ("0 5", "horizon"),
        ("0 5\n90 12 5", "line 2"),
        ("", "file"),
        ("\n".join(f"{step / 4} 5" for step in range(1000)), "file"),
    ],
)
def test_a_table_that_is_no_horizon_profile_is_refused_by_line(text, field):
    with pytest.raises(InvalidInput) as caught:
        read_horizon(text.encode())
    assert caught.value.faults[0].field == field
