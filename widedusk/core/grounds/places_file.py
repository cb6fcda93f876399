"""Places as files: GPX waypoints and GeoJSON points, in and out. What each carries is described in docs/formats.md."""

import json
from collections.abc import Sequence
from dataclasses import replace
from typing import Any

import gpxpy
import gpxpy.gpx

from widedusk.core.errors import Fault, InvalidInput, storable
from widedusk.core.files import PlacesFormat, bound_rows, refuse, text_of, xml_of
from widedusk.core.grounds.place import MOST_NOTE, MOST_SPOTS, PlaceInput, SpotInput
from widedusk.core.grounds.zone import time_zone_at
from widedusk.core.number_text import parse_number

USUAL_SKY_MAG = 21.0  # where a file does not say; to be put right by hand
USUAL_SPOT = "where I stand"


def write_places(places: Sequence[PlaceInput], form: PlacesFormat) -> str:
    """Places as the text of a file. A GPX waypoint has no room for horizon profiles; GeoJSON keeps everything."""
    if form == "gpx":
        document = gpxpy.gpx.GPX()
        document.creator = "Wide Dusk"
        for one in places:
            note = "; ".join(part for part in (one.access, one.caution) if part)
            document.waypoints.append(
                gpxpy.gpx.GPXWaypoint(
                    one.latitude_deg, one.longitude_deg, elevation=one.height_m, name=one.name, description=note or None
                )
            )
        return str(document.to_xml())
    features = [
        {
            "type": "Feature",
            "geometry": {
                "type": "Point",
                "coordinates": [*(one.longitude_deg, one.latitude_deg), *(() if one.height_m is None else (one.height_m,))],
            },
            "properties": {
                "name": one.name,
                "time_zone": one.time_zone,
                "sky_mag": one.sky_mag,
                "access": one.access,
                "caution": one.caution,
                "spots": [{"name": spot.name, "horizon": [list(point) for point in spot.horizon]} for spot in one.spots],
            },
        }
        for one in places
    ]
    return json.dumps({"type": "FeatureCollection", "features": features}, ensure_ascii=False, indent=1)


def _placed(name: str, latitude: object, longitude: object, height: object, path: str) -> PlaceInput:
    """A place with nothing but its whereabouts. Raises InvalidInput."""
    try:
        at = (parse_number(latitude), parse_number(longitude))
        height_m = None if height in (None, "") else min(max(parse_number(height), -430.0), 6500.0)
    except ValueError as caught:
        said = storable(f"{latitude}, {longitude}")[:80]
        raise refuse("A place needs a latitude and a longitude as numbers.", said, path) from caught
    if abs(at[0]) > 90 or abs(at[1]) > 180:
        told = f"{at[0]:g}, {at[1]:g} is no place: latitude runs from -90 to 90 and longitude from -180 to 180. Are they swapped?"
        raise refuse(told, f"{at[0]:g}, {at[1]:g}", path)
    spots = (SpotInput(None, USUAL_SPOT, ()),)
    return PlaceInput(storable(name)[:120], at[0], at[1], height_m, time_zone_at(at[0], at[1]), USUAL_SKY_MAG, spots)


def _from_gpx(content: bytes, text: str) -> list[PlaceInput]:
    xml_of(content)
    try:
        document = gpxpy.parse(text)
    except (gpxpy.gpx.GPXException, ValueError, AttributeError, TypeError, LookupError) as caught:
        raise refuse(f"This is no readable GPX: {storable(str(caught))[:160]}.") from caught
    bound_rows(len(document.waypoints), "waypoints")
    if not document.waypoints:
        tracks = document.get_points_no()
        what = (
            f"It holds a track of {tracks:,} points; mark the place you mean as a waypoint."
            if tracks
            else "It holds nothing else either."
        )
        raise refuse(f"The file has no waypoint. {what}")
    found = []
    for number, point in enumerate(document.waypoints, start=1):
        one = _placed(point.name or f"Waypoint {number}", point.latitude, point.longitude, point.elevation, f"waypoint {number}")
        found.append(replace(one, access=storable(point.description or point.comment or "")[:MOST_NOTE]))
    return found


def _horizon(given: object, path: str) -> tuple[tuple[float, float], ...]:
    try:
        return tuple((parse_number(point[0]), parse_number(point[1])) for point in given or ())  # type: ignore[attr-defined]
    except (TypeError, ValueError, IndexError, KeyError) as caught:
        raise refuse("A horizon is a list of pairs: azimuth and altitude in degrees.", str(given)[:80], path) from caught


def _sky(given: object, path: str) -> float:
    try:
        return parse_number(given)
    except ValueError as caught:
        raise refuse("The sky is a number in mag/arcsec², such as 21.3.", storable(str(given))[:40], f"{path}, sky_mag") from caught


def _from_feature(feature: dict[str, Any], number: int) -> PlaceInput | None:
    geometry, told = feature.get("geometry") or {}, feature.get("properties") or {}
    if not isinstance(geometry, dict) or not isinstance(told, dict) or geometry.get("type") != "Point":
        return None
    path, coordinates = f"feature {number}", geometry.get("coordinates")
    if not isinstance(coordinates, list) or len(coordinates) < 2:
        raise refuse("A point needs longitude and latitude, in this order.", str(coordinates)[:80], path)
    name = str(told.get("name") or told.get("title") or f"Point {number}")
    one = _placed(name, coordinates[1], coordinates[0], coordinates[2] if len(coordinates) > 2 else 0.0, path)
    spots = told.get("spots")
    if isinstance(spots, list) and spots:
        if len(spots) > MOST_SPOTS or not all(isinstance(spot, dict) for spot in spots):
            raise refuse(f"A place may have {MOST_SPOTS} spots, each with a name and a horizon.", len(spots), path)
        read = (
            SpotInput(None, storable(str(spot.get("name") or USUAL_SPOT))[:120], _horizon(spot.get("horizon"), path))
            for spot in spots
        )
        one = replace(one, spots=tuple(read))
    sky = told.get("sky_mag")
    return replace(
        one,
        time_zone=storable(str(told.get("time_zone") or one.time_zone))[:64],
        sky_mag=_sky(sky, path) if sky is not None else one.sky_mag,
        access=storable(str(told.get("access") or told.get("description") or ""))[:MOST_NOTE],
        caution=storable(str(told.get("caution") or ""))[:MOST_NOTE],
    )


def _from_geojson(text: str) -> list[PlaceInput]:
    try:
        document = json.loads(text)
    except (ValueError, RecursionError) as caught:
        raise refuse(f"This is no JSON: {caught}.") from caught
    features = document.get("features", [document]) if isinstance(document, dict) else None
    if not isinstance(features, list) or not all(isinstance(one, dict) for one in features):
        raise refuse("This is no GeoJSON: it should hold a list of features.")
    bound_rows(len(features), "features")
    found = [one for one in (_from_feature(feature, number) for number, feature in enumerate(features, start=1)) if one]
    if not found:
        raise refuse("The file holds no point; lines and areas are no place to stand.")
    return found


def read_places(content: bytes) -> tuple[PlaceInput, ...]:
    """Places out of a GPX or GeoJSON file; which of the two it is, is seen from its beginning. Raises InvalidInput."""
    text = text_of(content)
    if text.lstrip().startswith("<"):
        return tuple(_from_gpx(content, text))
    if text.lstrip()[:1] in {"{", "["}:
        return tuple(_from_geojson(text))
    raise InvalidInput([Fault("file", None, "This is neither GPX nor GeoJSON.")])
