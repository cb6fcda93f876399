"""Windows, the reasons for having none, and the whole night."""

from dataclasses import replace
from datetime import date, timedelta

import numpy as np
import pytest

from tests.conftest import a_rig, a_spot
from widedusk.core.choices import Choices
from widedusk.core.errors import InvalidInput
from widedusk.core.exposure.response import Through
from widedusk.core.framing.frame import Frame, sides_deg
from widedusk.core.kit.parts import Band, Camera, Carried, Filter, IsoStep, Lens
from widedusk.core.kit.payload import payload_verdict
from widedusk.core.kit.units import GRAMS_PER_POUND
from widedusk.core.night.lanes import lane
from widedusk.core.night.season import nearest_latitude_deg, next_moonless, season
from widedusk.core.night.windows import STATES, night_at, track
from widedusk.core.plan.exposing import exposing
from widedusk.core.plan.frame_over import frame_clear
from widedusk.core.plan.tonight import tonight
from widedusk.core.scene import Spot, Target
from widedusk.core.sky.horizon import HorizonProfile

CLOUD = Target("Large Magellanic Cloud", 80.9, -69.76, 10.0, 21.5)
NEW_MOON = date(2026, 12, 9)


def verdict(answer, topic):
    return next(one for one in answer.verdicts if one.topic == topic)


def test_a_tree_line_takes_its_minutes_from_the_window():
    open_spot = a_spot(-23.2)
    trees = a_spot(-23.2, horizon=HorizonProfile(((100, 5), (140, 50), (170, 50), (180, 5))))
    free = track(night_at(open_spot, NEW_MOON), CLOUD, Choices())
    cut = track(night_at(trees, NEW_MOON), CLOUD, Choices())
    lost = (free.state == STATES.index("usable")) & (cut.state == STATES.index("blocked"))
    # A stretch of n minutes has n + 1 of them on its edge and between; the wall makes two stretches of one.
    assert 60 < np.count_nonzero(lost) == free.usable_minutes - cut.usable_minutes - len(cut.runs) + len(free.runs)
    assert np.all(cut.altitude[lost] < cut.obstruction[lost])


def test_the_profile_is_closed_through_north():
    profile = HorizonProfile(((350, 20), (10, 40), (180, 0)))
    assert np.degrees(profile.altitude_at(np.radians([0, 355, 95]))) == pytest.approx([30, 25, 20])


@pytest.mark.parametrize(
    ("latitude", "target", "evening", "words"),
    [
        (-23.2, Target("Polar cup", 10, 80, 1, 22), NEW_MOON, ["Polar cup never rises at latitude -23.2°", "15.0° north"]),
        (60.0, CLOUD, NEW_MOON, ["never rises", "4.8° south"]),
        (
            60.1,
            Target("Ring", 10, 60, 1, 22),
            date(2026, 6, 20),
            ["No astronomical darkness", "sinks only to -6.5°", "It is dark again from 21 Aug 2026"],
        ),
        (78.0, Target("Ring", 10, 60, 1, 22), date(2026, 6, 20), ["the Sun does not set"]),
        (
            50.1,
            Target("Spring", 190, 20, 1, 22),
            date(2026, 9, 10),
            ["below 25° while it is dark", "Next night with an hour or more"],
        ),
    ],
)
def test_no_window_says_why_and_what_to_do(latitude, target, evening, words):
    window = verdict(tonight(a_rig(), a_spot(latitude), evening, target, Choices()), "Window")
    assert window.level == "stop"
    for word in words:
        assert word in window.sentence + window.advice


def test_the_promised_night_does_have_an_hour():
    spot, target = a_spot(50.1), Target("Spring", 190, 20, 1, 22)
    promised = season(spot, target, date(2026, 9, 10), Choices()).next_worth_it
    assert promised is not None
    moonless = Choices(moon_limit_mag=10)
    assert track(night_at(spot, promised), target, moonless).usable_minutes >= 55  # the search steps by ten minutes
    assert nearest_latitude_deg(-20, 80, 25) == 15


def test_moonlight_closes_a_full_moon_night_and_a_choice_opens_it_again():
    spot, full = a_spot(-23.2), date(2026, 12, 23)
    strict = track(night_at(spot, full), CLOUD, Choices(moon_limit_mag=0.3))
    assert strict.usable_minutes < 60 < track(night_at(spot, full), CLOUD, Choices(moon_limit_mag=10)).usable_minutes
    assert "Moon" in verdict(tonight(a_rig(), spot, full, CLOUD, Choices(moon_limit_mag=0.05)), "Window").sentence


HYDROGEN = Filter("Hα 7 nm", 30, bands=(Band(652.8, 659.8),))


def test_a_filter_bears_as_much_more_moon_as_it_keeps_sky_out():
    """By hand. Bare, green pixels take 0.3 of the lines and all of the sky; through the filter red ones take 0.25 × 0.9 of Hα and
    0.9 × 7 / 110 of the sky. Time goes as sky / target²."""
    through = Through(a_rig().camera, (HYDROGEN,))
    gained = 2.5 * np.log10((0.225**2 / (0.9 * 7 / 110)) / 0.3**2)
    lines, stars = (replace(CLOUD, kind="emission nebula", light=light) for light in ("lines", "continuum"))
    assert through.gain_mag(lines) == pytest.approx(gained, abs=0.01) and gained > 2.4
    assert through.gain_mag(stars) == 0.0 == Through(a_rig().camera, ()).gain_mag(lines)
    full, spot = night_at(a_spot(-23.2), date(2026, 12, 23)), a_spot(-23.2)
    for step in (0.2, 0.5, 2.0):
        bare = track(full, lines, Choices(moon_limit_mag=step + gained)).usable_minutes
        assert track(full, lines, Choices(moon_limit_mag=step), through).usable_minutes == pytest.approx(bare, abs=2)
    # One answer on every page, and the table of filters under the sky each of them has.
    narrow = replace(a_rig(), filters=(HYDROGEN,))
    habits = Choices(moon_limit_mag=0.3)
    seen = tonight(narrow, spot, full.evening, lines, habits)
    clear = frame_clear(full, Frame(lines.ra_deg, lines.dec_deg, 0.0, *sides_deg(narrow)))
    assert verdict(seen, "Window").sentence == lane(full, lines, habits, through, clear).verdict.sentence
    assert verdict(tonight(narrow, spot, full.evening, stars, habits), "Window").level != "go"
    table = {row.name: row for row in exposing(a_rig(), spot, full.evening, lines, habits, owned=(HYDROGEN,)).filters}
    assert table["Hα 7 nm"].usable_min > table["No filter"].usable_min
    spoilt = exposing(a_rig(), spot, full.evening, lines, Choices(moon_limit_mag=0.01), owned=(HYDROGEN,)).filters[0]
    dark = exposing(a_rig(), spot, NEW_MOON, lines, habits).filters[0]
    assert spoilt.usable_min == 0 and "more than you allow" in spoilt.words and spoilt.price.hours > 3 * dark.price.hours


@pytest.mark.parametrize(("latitude", "words"), [(1.0, "lost in haze"), (88.0, "from the zenith")])
def test_places_without_a_usable_pole_say_so(latitude, words):
    assert words in verdict(tonight(a_rig(), a_spot(latitude), NEW_MOON, CLOUD, Choices()), "Pole").advice


def test_a_hidden_pole_says_so():
    spot = a_spot(-23.2, horizon=HorizonProfile(((150, 30), (210, 30))))
    assert "is hidden at test spot" in verdict(tonight(a_rig(), spot, NEW_MOON, CLOUD, Choices()), "Pole").advice


def test_every_figure_that_claims_a_working_has_one():
    answer = tonight(
        a_rig(200, 4, carried=(Carried("plate", 300), Carried("weight", 1000, True))), a_spot(-23.2), NEW_MOON, CLOUD, Choices()
    )
    for one in answer.verdicts:
        keys = {working.key for working in one.workings}
        assert {figure.working for figure in one.figures if figure.working} <= keys and keys
        assert all(working.source and working.formula for working in one.workings)
    assert [limit.kind for limit in verdict(answer, "Exposure").limits].count("chosen") == 1


def test_payload_bands_and_schools():
    """9 lb on an 11 lb tracker is 82 %: strained by the default school, fits by the full rating. Common practice."""
    rig = a_rig(carried=(Carried("all the rest", 9 * GRAMS_PER_POUND - 950), Carried("weight", 2000, True)))
    rig = type(rig)(**{**rig.__dict__, "tracker": type(rig.tracker)(**{**rig.tracker.__dict__, "rating_g": 11 * GRAMS_PER_POUND})})
    strained = payload_verdict(rig)
    assert strained.level == "care" and "82 % of the rating: strained" in strained.sentence
    assert payload_verdict(rig, "full").level == "go"
    with pytest.raises(InvalidInput, match="payload_percent"):
        payload_verdict(rig, "own", 140)


def test_bad_records_name_every_field():
    with pytest.raises(InvalidInput) as caught:
        Spot("", 95, -200, 0, "Nowhere/Town", 21)
    assert [fault.field for fault in caught.value.faults] == ["name", "latitude_deg", "longitude_deg", "time_zone"]
    with pytest.raises(InvalidInput, match=r"focal_mm: 0 mm cannot be right"):
        Lens("x", 100, 0, 2, 2.8)
    with pytest.raises(InvalidInput, match=r"wider than the lens opens \(f/2\)"):
        Lens("x", 100, 50, 2, 1.4)
    with pytest.raises(InvalidInput, match=r"iso_steps: Each ISO"):
        Camera("x", 500, 36, 24, 6, 30, 40, 0, (IsoStep(100, 3, 1000), IsoStep(100, 2, 500)))
    with pytest.raises(InvalidInput, match=r"The night of 1 Jan 1850 is outside"):
        night_at(a_spot(0), date(1850, 1, 1))
    with pytest.raises(InvalidInput, match="horizon"):
        HorizonProfile(((10, 20),))


def test_the_night_promised_as_moonless_is():
    spot, choices = a_spot(-23.2), Choices(moon_limit_mag=0.2)
    free = next_moonless(spot, CLOUD, date(2026, 12, 23), choices, choices.moon_limit_mag)
    assert free is not None and track(night_at(spot, free), CLOUD, choices).usable_minutes >= 55
    before = free - timedelta(days=1)
    assert track(night_at(spot, before), CLOUD, choices).usable_minutes < 65
