"""Lanes, year, spots, trips and weather against brute force and laws that must hold."""

from dataclasses import replace
from datetime import UTC, date, datetime, time, timedelta

import numpy as np
import psychrolib
import pytest

from tests.conftest import a_rig, a_spot
from widedusk.core.catalogue.catalogue import catalogue
from widedusk.core.choices import Choices
from widedusk.core.errors import InvalidInput
from widedusk.core.kit.dew import dew_point_c
from widedusk.core.kit.dew_verdict import dew_verdict
from widedusk.core.kit.parts import Band, Filter
from widedusk.core.night.calendar import year_calendar
from widedusk.core.night.lanes import SLOT_MIN, best_slot, fortnight, lane, lanes
from widedusk.core.night.panorama import panorama
from widedusk.core.night.spots import compare_spots
from widedusk.core.night.weather import FIELDS, Cover, air_of, read_forecast, typed_over, weather_of, with_forecast
from widedusk.core.night.windows import STATES, night_at, strip_span, track
from widedusk.core.plan.ranking import NARROW_ON_CONTINUUM, Wanted, fit, rank
from widedusk.core.plan.tonight import tonight
from widedusk.core.plan.trip import overview
from widedusk.core.scene import Target
from widedusk.core.sky.brightness import airmass
from widedusk.core.sky.horizon import HorizonProfile
from widedusk.core.sky.time import mjd_from_datetime
from widedusk.core.verdict import Quantity

NIGHT = date(2026, 12, 9)
CLOUD = Target("Large cloud", 80.9, -69.76, 10.0, 21.5, kind="galaxy")
VELA = Target("Vela", 128.8, -45.6, 7.5, 22.9)
WALL = HorizonProfile(((90, 5), (100, 60), (170, 60), (180, 5)))


def test_lanes_tell_every_minute_once_and_the_best_hours_cost_least():
    night = night_at(a_spot(-24.6, 16.9, horizon=WALL), NIGHT)
    found = lane(night, VELA, Choices())
    path = track(night, VELA, Choices())
    first, last = strip_span(night)
    assert sum(found.minutes_by_state.values()) == last - first + 1
    assert found.minutes_by_state["blocked"] > 60 and len(found.state) == len(found.altitude) == (last - first) // 2 + 1
    night = night_at(a_spot(-24.6, 16.9), NIGHT)
    found, path = lane(night, VELA, Choices()), track(night, VELA, Choices())
    best, run = best_slot(path), path.best_run
    assert best and run and best[1] - best[0] == SLOT_MIN
    # Time for a given signal to noise: sky over the square of what the air lets through, summed over every possible start.
    cost = 10 ** (-0.4 * path.sky_mag) / 10 ** (-0.4 * 0.2 * airmass(path.altitude) * 2)
    sums = {start: cost[start : start + SLOT_MIN + 1].sum() for start in range(run[0], run[1] - SLOT_MIN + 1)}
    assert sums[best[0]] == min(sums.values())
    assert found.best and found.best.from_clock == night.spot.clock(float(night.mjd[best[0]]))


def test_a_northern_summer_night_is_not_dark_and_says_what_to_do():
    night = night_at(a_spot(60.2, 24.9), date(2026, 6, 20))
    found = lanes(night, [Target("Ring", 283.4, 33.0, 0.1, 18)], Choices()).lanes[0]
    assert found.usable_words == "none" and found.best is None and found.usable == ()
    assert "No astronomical darkness" in found.verdict.sentence and "It is dark again from" in found.verdict.advice
    assert [one.dark_words for one in fortnight(night.spot, date(2026, 6, 20), Choices(), 3)] == ["no darkness"] * 3
    assert rank(catalogue(), a_rig(), night, Choices(), Wanted()).rows == ()
    nautical = rank(catalogue(), a_rig(), night, Choices(darkness="nautical"), Wanted(smallest_percent=1))
    assert nautical.dark_minutes == 0  # even −12° is not reached on that night
    winter = a_spot(89.9, 15.0)
    assert fortnight(winter, date(2026, 12, 20), Choices(), 1)[0].dark_words == "24 h 00 min"
    assert overview([winter], date(2026, 12, 20), [VELA], Choices(), time(7), 2).verdict.level != "go"  # no dawn to wait for
    polar = panorama(night_at(a_spot(78.0, 15.0), date(2026, 6, 20)), [VELA], Choices())
    assert len(polar.sun.points) == 97 and polar.paths[0].points == ()  # up for the whole day; never up


@pytest.mark.parametrize("latitude", [-24.6, 50.1])
def test_the_year_agrees_with_single_nights(latitude):
    spot = a_spot(latitude, 16.9, horizon=WALL)
    target = VELA if latitude < 0 else Target("Lace", 312.0, 31.0, 3, 22.5)
    year = year_calendar(spot, target, NIGHT, Choices())
    assert len(year.nights) == 365
    for number in (0, 45, 133, 250):
        night = night_at(spot, NIGHT + timedelta(days=number))
        path = track(night, target, Choices())
        clear = np.isin(path.state, [STATES.index("usable"), STATES.index("moonlit")]).sum()
        assert year.nights[number].clear_minutes == pytest.approx(clear, abs=21)
        assert year.nights[number].usable_minutes == pytest.approx(path.usable_minutes, abs=31)
        assert year.nights[number].usable_minutes <= year.nights[number].clear_minutes <= year.nights[number].dark_minutes
    assert max(year.nights, key=lambda one: one.clear_minutes).night == year.best


def test_a_target_behind_the_roof_says_when_in_the_year_it_clears_it_before_midnight():
    roof = a_spot(-24.6, 16.9, horizon=HorizonProfile(((60, 5), (70, 55), (180, 55), (190, 5))))
    year = year_calendar(roof, VELA, date(2026, 11, 1), Choices())
    early = year.first_before_midnight
    assert early and early > date(2026, 12, 1) and f"{early:%-d %b %Y}" in year.verdict.sentence
    midnight = datetime.combine(early + timedelta(days=1), time(0), roof.zone)

    def clears(evening):
        night = night_at(roof, evening)
        path = track(night, VELA, Choices(moon_limit_mag=10))
        return [roof.local(float(night.mjd[first])) for first, _ in path.runs]

    assert min(clears(early)) < midnight
    assert all(start >= midnight - timedelta(days=5, minutes=11) for start in clears(early - timedelta(days=5)))
    never = year_calendar(a_spot(60.0, 16.9), VELA, NIGHT, Choices())
    assert never.best is None and "no night of the coming year" in never.verdict.sentence and never.verdict.level == "stop"


def test_ranking_prefers_what_fits_shows_and_passes_the_filter():
    assert fit(np.array([0.6]))[0] == 1 and np.all(np.diff(fit(np.array([0.02, 0.1, 0.3, 0.6]))) > 0)
    assert np.all(np.diff(fit(np.array([0.6, 1.0, 2.0, 4.0]))) < 0)
    night = night_at(a_spot(-24.6, 16.9), NIGHT)
    wide = rank(catalogue(), a_rig(), night, Choices(), Wanted(), limit=100)
    line = Filter("line", 30, bands=(Band(651, 661),))
    narrow = rank(catalogue(), replace(a_rig(), filters=(line,)), night, Choices(), Wanted(), limit=100)
    worth = {row.entry.key: row.worth for row in wide.rows}
    for row in narrow.rows:
        if row.entry.key not in worth:
            continue
        if row.entry.target.light == "continuum":
            assert row.worth == pytest.approx(worth[row.entry.key] * NARROW_ON_CONTINUUM)
        else:  # stands out the better
            assert row.worth >= worth[row.entry.key]
    assert all(row.entry.target.kind not in {"constellation", "star"} for row in wide.rows)
    two_pages = [
        row.entry.key for page in (0, 1) for row in rank(catalogue(), a_rig(), night, Choices(), Wanted(), page * 7, 7).rows
    ]
    assert two_pages == [row.entry.key for row in wide.rows[:14]]
    dark = rank(catalogue(), a_rig(), night, Choices(), Wanted(kinds=("dark cloud",), seasons=("at its best",), words="taurus"))
    assert {row.entry.target.name for row in dark.rows} == {"Taurus Molecular Cloud", "Lambda Orionis and the Taurus dust"}
    full = night_at(a_spot(-24.6, 16.9), date(2026, 12, 24))
    assert (
        rank(catalogue(), a_rig(), full, Choices(), Wanted()).count
        < rank(catalogue(), a_rig(), full, Choices(moon_limit_mag=9), Wanted()).count
    )


def test_the_spot_that_wins_is_the_one_with_more_minutes():
    free, walled = a_spot(-24.6, 16.9), a_spot(-24.6, 16.9, horizon=WALL)
    found = compare_spots([replace(walled, name="wall"), replace(free, name="field")], NIGHT, [VELA, CLOUD], Choices())
    assert found.spots == ("wall", "field") and all(row.best in (1, None) for row in found.rows)
    won = sum(row.times[1].minutes - row.times[0].minutes for row in found.rows)
    assert won > 60 and f"{won // 60} h {won % 60:02d} min" in found.verdict.sentence and "“field”" in found.verdict.sentence
    assert "only spot" in compare_spots([free], NIGHT, [VELA], Choices()).verdict.sentence
    hidden = panorama(night_at(replace(free, horizon=HorizonProfile(((170, 40), (190, 40)))), NIGHT), [VELA], Choices())
    assert hidden.pole.hidden and hidden.verdict.level == "stop" and "is hidden at test spot" in hidden.verdict.sentence
    clocks = [point.clock for point in hidden.paths[0].points if point.clock]
    assert clocks == sorted(clocks, key=lambda clock: (int(clock[:2]) + 12) % 24) and len(set(clocks)) == len(clocks) > 4


def test_a_trip_adds_up_its_nights_and_warns_of_the_drive():
    stops = [a_spot(-24.6, 16.9), a_spot(-24.6, 16.9, horizon=WALL)]
    found = overview(stops, NIGHT, [VELA], Choices(), time(7), 6)
    assert [row.night for row in found.nights] == [NIGHT, NIGHT + timedelta(days=1)]
    assert found.nights[0].targets[0].minutes > found.nights[1].targets[0].minutes
    last = night_at(stops[1], NIGHT + timedelta(days=1))
    woke = mjd_from_datetime(datetime(2026, 12, 10, 7, tzinfo=UTC))  # the spot's clock is UTC
    awake = (last.sun_crossing(np.radians(-18))[1] - woke) * 24 + 1  # an hour of packing
    assert found.verdict.figures[1].value == pytest.approx(awake)
    dark = sum(row.summary.dark_minutes for row in found.nights)
    assert found.verdict.figures[0].text == found.dark_words == f"{dark // 60} h {dark % 60:02d} min"
    assert found.verdict.level == "stop" and "Sleep there first" in found.verdict.advice and found.verdict.caution
    assert overview(stops[:1], NIGHT, [], Choices(), time(14), 0).verdict.level == "go"


def forecast(change=lambda hour: {}, hours=30, first=datetime(2026, 12, 9, 8, tzinfo=UTC)):
    usual = {
        "temperature_c": 12.0,
        "humidity_percent": 60,
        "wind_m_s": 3.0,
        **{name: 0 for name in FIELDS if name.startswith("cloud")},
    }
    rows = [{"time": f"{first + timedelta(hours=hour):%Y-%m-%dT%H:%MZ}", **usual, **change(hour)} for hour in range(hours)]
    return {"source": "test", "issued": "2026-12-09T06:00Z", "hours": rows}


def fogs(cover):
    air = air_of(cover.night, cover.forecast, Choices())
    return air.fogs_mjd(1.25) if air else None  # under a hood


def test_dew_comes_when_the_glass_meets_the_dew_point():
    night = night_at(a_spot(-24.6, 16.9), NIGHT)
    damp = Cover(read_forecast(forecast(lambda hour: {"humidity_percent": min(60 + 2 * hour, 99)})), night)
    at = fogs(damp)
    assert at is not None
    air, humidity = damp.forecast.at("temperature_c", np.array([at])), damp.forecast.at("humidity_percent", np.array([at]))
    assert air[0] - 1.25 == pytest.approx(dew_point_c(air, humidity)[0], abs=0.02)  # 1.25 °C under a hood
    assert fogs(Cover(read_forecast(forecast()), night)) is None
    answer = tonight(a_rig(), night.spot, NIGHT, VELA, Choices(), forecast=damp.forecast)
    assert answer.strip.weather and len(answer.strip.weather.cloud_percent) == len(answer.strip.state)
    assert [cue.clock for cue in answer.cues if cue.key == "dew"] == [night.spot.clock(at)]


def test_a_trip_and_the_strip_state_the_same_share_of_clear_sky():
    """The strip begins before sunset and ends after sunrise; by interpolation the cloud is above 30 % for 6.4 h between them."""
    spot = a_spot(-24.6, 16.9)
    overcast = read_forecast(forecast(lambda hour: {"cloud_low_percent": 100 if 12 < hour <= 18 else 0}))
    down, up = night_at(spot, NIGHT).sunset_and_sunrise()
    clear = 100 * (1 - 6.4 / (24 * (up - down)))
    strip = tonight(a_rig(), spot, NIGHT, VELA, Choices(), forecast=overcast).strip
    (row,) = overview([spot], NIGHT, [], Choices(), time(14), 0, forecasts=[overcast]).nights
    assert row.clear_percent == pytest.approx(clear, abs=0.3)  # minutes
    assert strip.weather.verdict.sentence.startswith(f"Clear for {row.clear_percent:.0f} % of the night")


def test_a_forecast_fills_in_what_was_not_typed_and_only_a_whole_one():
    night = night_at(a_spot(-24.6, 16.9), NIGHT)
    weather = weather_of(
        Cover(read_forecast(forecast(lambda hour: {"wind_m_s": 3 + hour / 10, "temperature_c": 20 - hour / 3})), night)
    )
    assert weather and weather.evening_c > weather.low_c and 4 < weather.wind_m_s < 6
    filled = with_forecast(Choices(), weather)
    assert (filled.air_evening_c, filled.air_low_c, filled.humidity_percent) == (weather.evening_c, weather.low_c, 60)
    typed = with_forecast(Choices(air_evening_c=2.0, wind_m_s=0.0), weather)
    assert (typed.air_evening_c, typed.air_low_c, typed.wind_m_s) == (2.0, None, 0.0)
    assert weather_of(Cover(read_forecast(forecast(hours=12)), night)) is None
    layers = read_forecast(forecast(lambda hour: {"cloud_low_percent": 50, "cloud_high_percent": 50}))
    assert layers.cloud_percent(layers.mjd) == pytest.approx(75)


def test_typed_figures_stand_in_the_forecasts_place_on_the_strip_too():
    night = night_at(a_spot(-24.6, 16.9), NIGHT)
    dry = Cover(read_forecast(forecast(lambda hour: {"cloud_low_percent": 40})), night)
    typed = Choices(air_evening_c=14.0, air_low_c=4.0, humidity_percent=70.0, wind_m_s=9.0)
    over = typed_over(dry, typed)
    ends = np.array(night.sunset_and_sunrise())
    assert over.forecast.at("temperature_c", ends) == pytest.approx([14, 4], abs=0.3)
    points = dew_point_c(over.forecast.temperature_c, over.forecast.humidity_percent)
    dewless = over.forecast.humidity_percent < 100
    assert dewless.sum() > 5 and np.ptp(points[dewless & (points > 0)]) < 0.02  # the water in the air stays
    assert over.forecast.at("wind_m_s", ends) == pytest.approx([9, 9])
    assert over.forecast.cloud_percent(ends) == pytest.approx(dry.forecast.cloud_percent(ends))
    assert fogs(dry) is None and fogs(over) is not None
    # Without a forecast the same figures fog the glass at the same moment.
    alone = air_of(night, None, typed)
    assert alone is not None and alone.fogs_mjd(1.25) == pytest.approx(fogs(over), abs=6 / 1440)
    assert typed_over(dry, Choices()) == dry
    # By hand: the air falls evenly from sunset to sunrise, the dew point stays that of the evening; psychrolib has it at 8.6 °C.
    psychrolib.SetUnitSystem(psychrolib.SI)
    share = (14.0 - 1.25 - psychrolib.GetTDewPointFromRelHum(14.0, 0.7)) / (14.0 - 4.0)
    assert alone.fogs_mjd(1.25) == pytest.approx(ends[0] + share * (ends[1] - ends[0]), abs=2 / 1440)


def test_the_dew_point_that_is_told_is_that_of_the_minute_in_which_the_glass_fogs():
    """Once the air is saturated its dew point falls with it; that of the coldest hour says nothing about the fog before."""
    night = night_at(a_spot(-24.6, 16.9), NIGHT)
    typed = Choices(air_evening_c=14.0, air_low_c=2.0, humidity_percent=70.0)
    over = typed_over(Cover(read_forecast(forecast()), night), typed)
    air = air_of(night, over.forecast, typed)
    told = dew_verdict(air, 77.0, [], "heater", lambda at: Quantity("", text=night.spot.clock(at)))
    assert min(air.point_c) < 4.0
    point = next(one for one in told.figures if one.name == "Dew point when it fogs")
    assert point.value == pytest.approx(psychrolib.GetTDewPointFromRelHum(14.0, 0.7), abs=0.1)


@pytest.mark.parametrize(
    ("document", "field"),
    [
        ("<html>", "forecast"),
        ({"hours": []}, "forecast"),
        ({"hours": [1, 2]}, "forecast.hours"),
        (forecast(lambda hour: {"temperature_c": float("nan")}), "forecast.hours.0.temperature_c"),
        (forecast(lambda hour: {"temperature_c": 285} if hour == 4 else {}), "forecast.hours.4.temperature_c"),
        (forecast(lambda hour: {"wind_m_s": None} if hour == 2 else {}), "forecast.hours.2.wind_m_s"),
        (forecast(lambda hour: {"time": "soon"}), "forecast.hours.0.time"),
        (forecast(lambda hour: {"time": "2026-12-09T08:00Z"}), "forecast.hours"),
        (forecast(hours=500), "forecast.hours"),
    ],
)
def test_a_forecast_that_is_not_one_is_refused_by_name(document, field):
    with pytest.raises(InvalidInput) as caught:
        read_forecast(document)
    assert caught.value.faults[0].field == field
