"""The kit against a reference library and published units."""

import re
from datetime import date

import numpy as np
import pint
import psychrolib
import pytest

from tests.conftest import a_spot
from widedusk.core.choices import Choices
from widedusk.core.kit.dew import Air, dew_point_c, heater_needed_w, humidity_percent, sky_loss_w_m2
from widedusk.core.kit.units import GRAMS_PER_POUND, MM_PER_INCH, Units
from widedusk.core.night.weather import air_of
from widedusk.core.night.windows import night_at

psychrolib.SetUnitSystem(psychrolib.SI)


def test_dew_point_within_a_tenth_of_a_degree_of_psychrolib():
    """psychrolib follows the ASHRAE Handbook, Fundamentals 2017, which below freezing means humidity over ice."""
    air, humidity = np.meshgrid(np.arange(-20.0, 40.1, 1.0), np.arange(10.0, 100.1, 5.0))
    theirs = np.vectorize(psychrolib.GetTDewPointFromRelHum)(air, humidity / 100)
    assert np.max(np.abs(dew_point_c(air, humidity, "ice") - theirs)) < 0.1
    warm = air >= 0  # from here on everybody means the same
    assert np.max(np.abs(dew_point_c(air, humidity) - theirs)[warm]) < 0.1


def test_frosty_air_is_read_as_weather_services_mean_it():
    """Smithsonian Meteorological Tables, 6th edition, tables 94 and 96, from memory: over water 2.8627 hPa at -10 °C,
    over ice 2.5990 hPa: air of 90.8 % over water is just saturated over ice."""
    assert float(dew_point_c(-10.0, 100 * 2.5990 / 2.8627)) == pytest.approx(-10.0, abs=0.05)


def test_fog_comes_where_the_falling_air_meets_the_dew_point():
    night = night_at(a_spot(-24.6), date(2026, 12, 8))

    def air(low: float, humidity: float) -> Air:
        found = air_of(night, None, Choices(air_evening_c=20.0, air_low_c=low, humidity_percent=humidity))
        assert found is not None
        return found

    fogs = air(8.0, 50.0).fogs_mjd(1.25)
    assert fogs is not None
    glass = float(air(8.0, 50.0).at_c(np.array([fogs]))[0]) - 1.25
    assert glass == pytest.approx(psychrolib.GetTDewPointFromRelHum(20.0, 0.5), abs=0.1)
    assert air(8.0, 20.0).fogs_mjd(1.25) is None and air(8.0, 100.0).fogs_mjd(1.25) == air(8.0, 100.0).begin_mjd


def test_frosty_air_falls_through_its_frost_point_however_it_is_told():
    """Typed air with its water, hour by hour as humidity over water and back: Smithsonian tables as above say 90.8 % at -10 °C."""
    assert float(humidity_percent(-10.0, -10.0)) == pytest.approx(100 * 2.5990 / 2.8627, abs=0.3)  # Magnus is that near
    for point in (-30.0, -12.0, -0.5, 0.5, 14.0):
        warmer = np.linspace(point, point + 20.0, 9)
        assert dew_point_c(warmer, humidity_percent(warmer, point)) == pytest.approx(point, abs=0.02)


def test_a_heater_s_need_is_of_the_size_people_use():
    """Straps of 2 to 10 W are usual for 50 to 100 mm lenses: common practice, no source. A clear sky takes 60 to 110 W/m²."""
    assert 60 < sky_loss_w_m2(20.0) < 110 and 60 < sky_loss_w_m2(-5.0) < 110
    assert 0.5 < heater_needed_w(50, 5, 0) < heater_needed_w(100, 5, 0) < 10
    assert heater_needed_w(77, 5, 5) > heater_needed_w(77, 5, 0)


def test_units_are_those_of_1959_and_survive_a_form():
    pounds, metric = Units("lb", "in"), Units()
    assert pounds.read("9 lb", "mass") == pytest.approx(9 * 453.59237)
    assert pounds.read("2 lb 3 oz", "mass") == pytest.approx(35 * 28.349523125)
    registry = pint.UnitRegistry()
    assert registry.Quantity(1, "lb").to("g").magnitude == pytest.approx(GRAMS_PER_POUND, rel=1e-12)
    assert registry.Quantity(1, "in").to("mm").magnitude == pytest.approx(MM_PER_INCH, rel=1e-12)
    assert metric.read("1.2 kg", "mass") == 1200 and metric.read("480", "mass") == 480 and metric.read('2.5"', "length") == 63.5
    for grams in (3, 310, 453.59237, 1250.5, 9_999):
        assert pounds.read(pounds.field_text(grams, "mass"), "mass") == pytest.approx(grams, abs=0.2)
    assert pounds.mass_words(35 * 28.349523125) == "2 lb 3 oz" and metric.mass_words(-0.2) == "0 g"
    for wrong in ("heavy", "2 stone", "3 4", "lb", " "):
        with pytest.raises(ValueError, match=re.escape(wrong)):
            pounds.read(wrong, "mass")
