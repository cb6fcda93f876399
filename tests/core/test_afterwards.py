"""A run beside its plan: chance is not taken for a fault, and a fault not for chance."""

from dataclasses import replace
from datetime import date

import numpy as np
import pytest
from astropy.coordinates import AltAz, EarthLocation, SkyCoord
from astropy.time import Time

from tests.conftest import a_rig, a_spot
from tests.core.test_judge import GOOD, HIGH_MJD, LOOK, judged
from widedusk.core.choices import Choices
from widedusk.core.frames.facts import MeanStar
from widedusk.core.judge.account import CauseFound
from widedusk.core.judge.word import Judged
from widedusk.core.kit.dew import Air
from widedusk.core.plan.afterwards import beside
from widedusk.core.plan.outlook import outlook
from widedusk.core.scene import Target
from widedusk.core.verdict import Verdict

NIGHT, COUNT = date(2026, 3, 20), 60
FIELD = Target("Field", LOOK.ra_deg, LOOK.dec_deg, 1.0, 22.0)
SPOT = replace(a_spot(-24.0, 16.0), height_m=900.0, sky_mag=21.4)


def seen_with(rig, **choices):
    return outlook(rig, SPOT, NIGHT, FIELD, Choices(alignment_arcmin=0.1, **choices))


def told_of(run, rig, air=None, **choices):
    return {one.key: one for one in beside(seen_with(rig, **choices), run, [""] * run.count, SPOT, air)}


def with_cause(run, key: str, places):
    """A run of which some frames are culled for a cause."""
    cause = CauseFound(key, key, tuple(places), 0.9, "", Verdict(key, "care", key, "", ""))
    words = tuple(
        Judged("cull", 0.0, (key,), key) if place in set(places) else Judged("keep", 1.0, (), "") for place in range(COUNT)
    )
    return replace(run, causes=(cause,), words=words)


def worm_frames(rig, rng, half_amplitude: float):
    """Frames of sixty seconds on a worm, each trail summed up moment by moment."""
    period, s2 = rig.tracker.pe_period_s, (rig.star_fwhm_px / 2.3548) ** 2
    amplitude = half_amplitude * np.cos(np.radians(LOOK.dec_deg)) / (206.265 * rig.camera.pitch_um / rig.lens.focal_mm)
    begins = np.arange(COUNT) * 62.0 + rng.uniform(0, period)
    moments = begins[:, None] + np.linspace(0.0, 60.0, 500)
    spread = np.var(amplitude * np.sin(2 * np.pi * moments / period), axis=1)
    return [replace(GOOD, star=MeanStar(80, float(s2 + one), float(s2), 0.0)) for one in spread]


def test_a_tracker_as_planned_agrees_and_one_twice_as_bad_does_not():
    rng, agreed, caught = np.random.default_rng(5), [], []
    rig = replace(a_rig(300.0, half_amplitude=22.0), star_fwhm_px=3.0)
    for _ in range(12):
        as_planned, worse = (told_of(judged(worm_frames(rig, rng, size)), rig, spoils_per_h=0) for size in (22.0, 44.0))
        agreed += [as_planned["keep rate"].agrees, as_planned["elongation"].agrees]
        caught += [worse["keep rate"].agrees, worse["elongation"].agrees]
    assert np.mean(agreed) >= 0.9 and np.mean(caught) <= 0.1


def test_wind_and_chance_are_told_from_bad_luck():
    """Gusts as they come: exponential times between them; by the plan's own level in nine of ten nights that is no surprise."""
    rng, rig = np.random.default_rng(2), a_rig(300.0)
    scale = 206.265 * rig.camera.pitch_um / rig.lens.focal_mm
    good = judged([GOOD] * COUNT)
    free = 600.0 * scale / 6.2  # "fresh", as the handbook of wind has it
    fresh, none = [], []
    for _ in range(40):
        gusts = np.cumsum(rng.exponential(free, 400))
        hit = {int(one // 60.0) for one in gusts if one < COUNT * 60.0}
        windy = with_cause(good, "wind", sorted(hit))
        fresh.append(told_of(windy, rig, wind_level="fresh")["wind"].agrees)
        none.append(told_of(windy, rig)["wind"])
    assert np.mean(fresh) >= 0.9
    assert not any(one.agrees for one in none) and np.mean([one.wind == "fresh" for one in none]) >= 0.8
    lamps = told_of(with_cause(good, "lamp", range(12)), rig, spoils_per_h=1)["chance"]
    assert not lamps.agrees and np.exp(-lamps.spoils_per_h * 60 / 3600) == pytest.approx(0.8, abs=0.01)
    calm = told_of(good, rig, spoils_per_h=1)["chance"]
    assert calm.agrees and calm.spoils_per_h is None


def test_the_sky_behind_the_frames_is_that_of_the_place():
    """Drawn as in the test of the place's own sky: Krisciunas & Schaefer 1991 under altitudes by astropy."""
    where, star = EarthLocation.from_geodetic(16.0, -24.0, 900.0), SkyCoord(LOOK.ra_deg, LOOK.dec_deg, unit="deg")
    times = Time(HIGH_MJD + (np.arange(20) * 62 + 30) / 86400.0, format="mjd", scale="utc")
    away = np.pi / 2 - star.transform_to(AltAz(obstime=times, location=where)).alt.rad
    path = (1.0 - 0.96 * np.sin(away) ** 2) ** -0.5
    for zenith, agrees in ((21.4, True), (20.9, False)):
        seen = zenith - 2.5 * np.log10(path) + 0.2 * (path - 1.0) - 0.2 / np.cos(away)
        run = judged([replace(GOOD, sky_mag=float(one), sky_sigma=0.06) for one in seen], first_mjd=HIGH_MJD)
        told = told_of(run, a_rig())["sky"]
        assert told.agrees is agrees and told.measured.startswith(f"{np.median(seen + 0.2 / np.cos(away)):.2f}")


def test_dew_is_held_against_the_hour_it_was_due():
    run = judged([GOOD] * COUNT, first_mjd=HIGH_MJD)
    minutes = np.arange(600.0)
    air = Air(HIGH_MJD - 1 / 24, tuple(15.0 - minutes / 30.0), (8.75,) * 600, 0.0, True)  # reaches 10 °C after 150 minutes
    assert told_of(run, a_rig(), air)["dew"].agrees  # due half an hour after the last frame
    wet = with_cause(run, "dew", range(40, COUNT))
    early = told_of(wet, a_rig(), air)["dew"]
    assert early.expected == "none" and not early.agrees
    damp = replace(air, point_c=(11.25,) * 600)  # due 75 minutes after the air began: a quarter of an hour into the run
    late = told_of(wet, a_rig(), damp)["dew"]
    assert late.agrees and late.expected.startswith("from ")
    assert told_of(run, a_rig(), damp)["dew"].agrees is None  # it was heated
    assert told_of(run, a_rig(), damp, dew_school="hood")["dew"].agrees is False
