"""The whole night as one answer: its parts must agree with one another, at any place, season and clock."""

from datetime import UTC, date, datetime, timedelta

import numpy as np
import pytest

from tests.conftest import a_rig, a_spot
from widedusk.core.choices import Choices
from widedusk.core.night.windows import STATES, night_at
from widedusk.core.plan.tonight import setup_mjd, tonight
from widedusk.core.scene import Target
from widedusk.core.sky.horizon import HorizonProfile
from widedusk.core.sky.time import datetime_from_mjd, mjd_from_datetime

CLOUD = Target("Large Magellanic Cloud", 80.9, -69.76, 10.0, 21.5)
NEBULA = Target("California Nebula", 60.2, 36.4, 2.5, 22.3)

SITES = [
    (a_spot(-24.6, 16.9, "Africa/Windhoek"), CLOUD, date(2026, 12, 8)),
    (a_spot(58.6, 25.4, "Europe/Tallinn"), NEBULA, date(2026, 12, 8)),
    (
        a_spot(-34.9, 138.6, "Australia/Adelaide", HorizonProfile(((0, 10), (90, 35), (180, 12), (270, 25)))),
        CLOUD,
        date(2027, 1, 6),
    ),
    (a_spot(27.7, 85.3, "Asia/Kathmandu"), NEBULA, date(2026, 11, 10)),
    (a_spot(52.0, -176.6, "America/Adak"), NEBULA, date(2026, 12, 8)),
    (a_spot(69.7, 18.9, "Europe/Oslo"), NEBULA, date(2026, 12, 8)),
]


@pytest.mark.parametrize(("spot", "target", "evening"), SITES)
def test_strip_verdicts_cues_and_card_tell_the_same_night(spot, target, evening):
    answer = tonight(a_rig(50), spot, evening, target, Choices())
    verdicts = {one.topic: one for one in answer.verdicts}
    strip, card = answer.strip, answer.card
    cues = {cue.key: cue for cue in answer.cues}
    minute = {key: (cue.moment - strip.start).total_seconds() / 60 for key, cue in cues.items()}

    # Cues stand in order and inside the strip.
    moments = [cue.moment for cue in answer.cues]
    assert moments == sorted(moments) and all(0 <= at <= len(strip.state) for at in minute.values())

    # The window's own words, its cues and the strip agree.
    figures = {figure.name: figure for figure in verdicts["Window"].figures}
    assert figures["Opens"].text == cues["opens"].clock and figures["Closes"].text == cues["closes"].clock
    inside = strip.state[round(minute["opens"]) : round(minute["closes"]) + 1]
    assert set(inside) == {"usable"}
    assert strip.state[round(minute["opens"]) - 1] != "usable" != strip.state[round(minute["closes"]) + 1]

    # Every usable minute is dark, high and clear.
    for index, state in enumerate(strip.state):
        if state == "usable":
            assert strip.target_altitude[index] >= max(24.9, strip.obstruction[index] - 0.1)

    # The card fits the window and the exposures are drawn where it runs.
    length_s = (cues["closes"].moment - cues["opens"].moment).total_seconds()
    assert length_s - card.interval_start_s < card.total_s <= length_s + 1
    assert strip.exposures is not None and strip.exposures.first == pytest.approx(minute["opens"], abs=1)
    assert strip.exposures.last - strip.exposures.first == pytest.approx(card.total_s / 60, abs=1)
    assert answer.start_clock == cues["opens"].clock

    # The sky that the exposure reckons with lies between the darkest and the brightest of the window.
    window_sky = np.array(strip.sky_mag)[round(minute["opens"]) : round(minute["closes"]) + 1]
    assert window_sky.min() - 0.02 <= figures["Sky"].value <= window_sky.max() + 0.02


@pytest.mark.parametrize(("spot", "target", "evening"), SITES)
def test_clocks_are_those_of_the_place(spot, target, evening):
    answer = tonight(a_rig(50), spot, evening, target, Choices())
    for cue in answer.cues:
        nearest = cue.moment.astimezone(spot.zone) + timedelta(seconds=30)  # clocks are told to the nearest minute
        assert cue.clock == f"{nearest:%H:%M}"
    assert answer.strip.time_zone == spot.time_zone


def test_a_typed_set_up_time_is_local_and_belongs_to_this_night():
    spot = a_spot(-34.9, 138.6, "Australia/Adelaide")
    night = night_at(spot, date(2027, 1, 6))
    evening = datetime_from_mjd(setup_mjd(night, Choices(setup_time="21:15")))
    assert evening == datetime(2027, 1, 6, 10, 45, tzinfo=UTC)  # UTC+10:30 in summer
    after_midnight = datetime_from_mjd(setup_mjd(night, Choices(setup_time="01:30")))
    assert after_midnight == datetime(2027, 1, 6, 15, 0, tzinfo=UTC)


def test_without_a_typed_time_set_up_is_before_dark_or_as_good_as_there_is():
    usual = night_at(a_spot(-24.6, 16.9), date(2026, 12, 8))
    dark, _ = usual.sun_crossing(np.radians(-18))
    assert dark is not None and (dark - setup_mjd(usual, Choices())) * 1440 == pytest.approx(45)
    white = night_at(a_spot(62.0, 25.0), date(2026, 6, 20))
    assert setup_mjd(white, Choices()) == white.sunset_and_sunrise()[0]
    midnight_sun = night_at(a_spot(75.0, 25.0), date(2026, 6, 20))
    assert setup_mjd(midnight_sun, Choices()) == midnight_sun.mjd[720]


def test_polar_night_has_a_window_though_the_sun_neither_sets_nor_rises():
    answer = tonight(a_rig(50), a_spot(80.0, 16.0), date(2026, 12, 8), NEBULA, Choices())
    assert answer.verdicts[1].level == "go"
    assert "sunset" not in {cue.key for cue in answer.cues} and len(answer.strip.state) == 1441


def test_nautical_darkness_gives_more_time_than_astronomical():
    spot, evening = a_spot(58.6, 25.4), date(2026, 9, 10)
    minutes = [
        tonight(a_rig(50), spot, evening, NEBULA, Choices(darkness=kind, moon_limit_mag=10)).strip.state.count("usable")
        for kind in ("astronomical", "nautical")
    ]
    assert minutes[1] > minutes[0] + 30


def test_moonlight_brightens_the_strip_as_the_moon_climbs():
    spot = a_spot(-24.6, 16.9)
    full = tonight(a_rig(50), spot, date(2026, 12, 23), CLOUD, Choices()).strip
    new = tonight(a_rig(50), spot, date(2026, 12, 8), CLOUD, Choices()).strip
    middle = len(full.sky_mag) // 2
    assert full.moon_altitude[middle] > 20 and full.sky_mag[middle] < new.sky_mag[len(new.sky_mag) // 2] - 2
    assert full.moon_lit_percent > 95 and new.moon_lit_percent < 2


def test_states_are_the_ones_the_pages_know():
    from pathlib import Path

    words = Path(__file__).parents[2].joinpath("frontend/src/instruments/strip.ts").read_text()
    assert all(f"{state}:" in words for state in STATES)


def test_a_night_is_found_by_longitude_not_by_the_clock():
    """A wrong time zone may shift the clock that is shown, never the sky."""
    right, wrong = a_spot(-24.6, 16.9, "Africa/Windhoek"), a_spot(-24.6, 16.9, "Pacific/Auckland")
    first, second = (tonight(a_rig(50), spot, date(2026, 12, 8), CLOUD, Choices()) for spot in (right, wrong))
    assert first.strip.sky_mag == second.strip.sky_mag and first.card == second.card
    assert first.start_clock != second.start_clock
    assert mjd_from_datetime(first.strip.start) == mjd_from_datetime(second.strip.start)


def test_without_a_window_nothing_is_promised():
    answer = tonight(a_rig(50), a_spot(60.1), date(2026, 6, 20), NEBULA, Choices())
    verdicts = {one.topic: one for one in answer.verdicts}
    assert [verdicts[topic].level for topic in ("Window", "Exposure", "Card")] == ["stop", "care", "stop"]
    assert "no time for a frame" in verdicts["Exposure"].sentence and "nothing to key in" in verdicts["Card"].sentence
    assert answer.card.storage_gb == 0 and answer.strip.exposures is None and answer.start_clock == ""
    assert not any(figure.name == "Signal to noise" for figure in verdicts["Exposure"].figures)


def test_a_full_memory_card_says_how_much_more_it_would_take():
    spot, night = a_spot(-24.6, 16.9), date(2026, 12, 8)
    large, small = (tonight(a_rig(50), spot, night, CLOUD, Choices(card_gb=size)) for size in (64, 2))
    card = small.verdicts[4]
    assert (small.card.limited_by, card.level, card.binding) == ("card", "care", "the memory card")
    missing = (large.card.frames - small.card.frames) * 30 / 1000
    assert f"{missing:.1f} GB more would take all {large.card.frames} frames" in card.advice
    assert small.card.storage_gb <= 2
