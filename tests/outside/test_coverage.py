"""CoverageJSON and the collections of OGC API – Environmental Data Retrieval, by the shapes of covjson-pydantic and of
edr-pydantic, and units by pint."""

from datetime import UTC, datetime, timedelta

import numpy as np
import pint
import pytest
from covjson_pydantic.coverage import Coverage
from edr_pydantic.collections import Collection

from standins.forecast import collection, coverage
from widedusk.core.errors import InvalidInput
from widedusk.core.night.weather import read_forecast
from widedusk.outside.coverage import document_of

FIRST = datetime(2026, 12, 8, 10, tzinfo=UTC)
ASKED = {"coords": "POINT(16.94 -24.62)", "datetime": "2026-12-08T10:00:00Z/2026-12-09T15:00:00Z"}
NAMES = "http://vocab.nerc.ac.uk/standard_name/"
QUANTITY = pint.UnitRegistry(autoconvert_offset_to_baseunit=True).Quantity


def test_the_stand_in_speaks_as_the_standards_have_it():
    told = Collection.model_validate(collection("http://127.0.0.1:8087"))
    assert told.data_queries.position.link.href.endswith("/collections/weather/position")
    found = Coverage.model_validate(coverage(ASKED))
    assert found.domain.domainType == "PointSeries" and len(found.domain.axes.t.values) == 30
    assert set(found.parameters.root) == set(found.ranges) == set(told.parameter_names.root)


def made(series: dict[str, tuple[str, list[float | None]]], hours: int = 3) -> dict:
    """A coverage of some quantities, each by the last part of its address, with its unit."""
    moments = [f"{FIRST + timedelta(hours=hour):%Y-%m-%dT%H:%M:%SZ}" for hour in range(hours)]
    axes = {"x": {"values": [16.9]}, "y": {"values": [-24.6]}, "t": {"values": moments}}
    return {
        "type": "Coverage",
        "domain": {"type": "Domain", "domainType": "PointSeries", "axes": axes},
        "parameters": {
            f"p{place}": {
                "type": "Parameter",
                "observedProperty": {"id": f"{NAMES}{name}/", "label": {"en": "whatever"}},
                "unit": {"symbol": {"value": unit, "type": "http://www.opengis.net/def/uom/UCUM/"}},
            }
            for place, (name, (unit, _)) in enumerate(series.items())
        },
        "ranges": {
            f"p{place}": {
                "type": "NdArray",
                "dataType": "float",
                "axisNames": ["t", "y", "x"],
                "shape": [hours, 1, 1],
                "values": values,
            }
            for place, (_, values) in enumerate(series.values())
        },
    }


USUAL = {
    "air_temperature": ("K", [283.15, 281.15, 279.15]),
    "relative_humidity": ("1", [0.5, 0.6, 0.7]),
    "wind_speed": ("m/s", [3.0, 4.0, 5.0]),
    "cloud_area_fraction": ("1", [0.0, 0.5, 1.0]),
}


@pytest.mark.parametrize(
    ("name", "unit", "pints", "field", "ours"),
    [
        ("air_temperature", "K", "kelvin", "temperature_c", "degC"),
        ("air_temperature", "[degF]", "degF", "temperature_c", "degC"),
        ("wind_speed", "km/h", "km/hour", "wind_m_s", "m/s"),
        ("wind_speed", "[kn_i]", "knot", "wind_m_s", "m/s"),
        ("precipitation_flux", "kg.m-2.s-1", "mm/s", "rain_mm_h", "mm/hour"),
        ("visibility_in_air", "km", "km", "visibility_m", "m"),
    ],
)
def test_units_are_those_of_pint(name, unit, pints, field, ours):
    values = [280.0, 281.0, 282.0] if unit == "K" else [30.0, 40.0, 50.0]
    values = [one / 10_000 for one in values] if "precip" in name else values
    document = document_of(made({**USUAL, name: (unit, values)}), "test", FIRST)
    expected = [QUANTITY(one, pints).to(ours).magnitude for one in values]
    assert getattr(read_forecast(document), field) == pytest.approx(expected, abs=2e-3)


def test_what_is_told_in_another_way_comes_to_the_same():
    """Dew point for humidity, two components for the wind, oktas by layer for all cloud, a collection of coverages, gaps."""
    usual = read_forecast(document_of(made(USUAL), "test", None))
    assert usual.issued is None and usual.cloud_percent(usual.mjd) == pytest.approx([0, 50, 100])
    wind = {"eastward_wind": ("m/s", [3.0, 0.0, 4.0]), "northward_wind": ("m/s", [0.0, -4.0, 3.0])}
    points = [273.15 + one for one in (0.066, 0.711, 0.939)]  # psychrolib, 10 °C at 50 %, 8 °C at 60 %, 6 °C at 70 %
    apart = {
        "air_temperature": USUAL["air_temperature"],
        "dew_point_temperature": ("K", points),
        **wind,
        "low_type_cloud_area_fraction": ("okta", [0.0, 4.0, 8.0]),
    }
    first, second = dict(list(apart.items())[:2]), dict(list(apart.items())[2:])
    many = {"type": "CoverageCollection", "coverages": [made(first), made(second)]}
    found = read_forecast(document_of(many, "test", FIRST))
    assert found.humidity_percent == pytest.approx(usual.humidity_percent, abs=0.3)
    assert found.wind_m_s == pytest.approx([3, 4, 5]) and found.cloud_percent(found.mjd) == pytest.approx([0, 50, 100])
    gap = read_forecast(document_of(made({**USUAL, "wind_speed": ("m/s", [3.0, None, 5.0])}), "test", FIRST))
    assert gap.wind_m_s == pytest.approx([3, 4, 5])
    assert np.all(np.diff(found.mjd) > 0)


def test_what_no_night_can_be_judged_without_is_named():
    lacking = {name: one for name, one in USUAL.items() if name == "relative_humidity"}
    with pytest.raises(InvalidInput, match="air_temperature, wind_speed, cloud_area_fraction"):
        document_of(made(lacking), "test", FIRST)
