"""Exposures against mounts, cameras and skies that share nothing with the arithmetic, and against published worked values."""

from dataclasses import replace
from datetime import UTC, date, datetime, timedelta
from pathlib import Path

import numpy as np
import pytest

from tests.conftest import a_rig, a_spot
from tests.invented import SMALL, a_pair, camera_sky, observer_of, patterns, sky
from widedusk.core.choices import Choices
from widedusk.core.errors import InvalidInput
from widedusk.core.exposure.card import Calibration, Pauses, card, framing_ladder
from widedusk.core.exposure.light import back_of_camera, central_share
from widedusk.core.exposure.many import equivalent_hours
from widedusk.core.frames.facts import Lit
from widedusk.core.frames.measure import measure
from widedusk.core.frames.photon_transfer import photon_transfer
from widedusk.core.frames.read import read_sensor
from widedusk.core.plan.outlook import outlook
from widedusk.core.plan.trial import Shot as Taken
from widedusk.core.plan.trial import trial
from widedusk.core.pole.at_target import drifts_at
from widedusk.core.pole.axis import AxisError
from widedusk.core.scene import Target
from widedusk.core.simulate.camera import Camera, CardHeader, Lens, Pointing, Shot, as_fits, as_jpeg, observed
from widedusk.core.simulate.mount import Mount, Site
from widedusk.core.simulate.readout import Readout
from widedusk.core.sky.time import mjd_from_datetime
from widedusk.core.tracking.untracked import detailed_rule_s, pixel_rule_s, rule_of_500_s

EVENING = datetime(2026, 12, 8, 20, 0, tzinfo=UTC)


def frames_of(folder: Path, readout: Readout, electrons: float, seed: int = 7, **changes: object):
    """Two flats and two bias frames through files, as they come off a card."""
    rng = np.random.default_rng(seed)
    second = replace(readout, **changes) if changes else readout
    counts = (*readout.flats(electrons, rng), readout.bias(rng), second.bias(rng))
    found = []
    for place, (one, frame) in enumerate(zip((readout, readout, readout, second), counts, strict=True)):
        path = folder / f"frame-{seed}-{place}.fits"
        path.write_bytes(one.as_fits(frame, 1.0))
        found.append(read_sensor(path))
    return found[:2], found[2:]


@pytest.mark.parametrize(("gain", "noise", "level"), [(0.25, 1.7, 1500), (0.9, 3.1, 6000), (3.5, 9.0, 25_000), (5.1, 4.0, 40_000)])
def test_photon_transfer_finds_gain_noise_and_well_of_an_invented_sensor_again(tmp_path, gain, noise, level):
    """Within 3 %, and as near as it says: Janesick 2007. The pattern of the pixels (1 %) must not count as noise."""
    readout = Readout(900, 700, gain, noise)
    found = photon_transfer(*frames_of(tmp_path, readout, level))
    assert found.gain_e == pytest.approx(gain, rel=0.03)
    assert abs(found.gain_e - gain) < 4 * found.gain_sigma
    # Rounding to whole counts adds a twelfth of a count's square (uniform distribution).
    assert found.read_noise_e == pytest.approx(np.hypot(noise, gain / np.sqrt(12)), rel=0.03)
    assert found.full_well_e == pytest.approx(gain * (readout.clip - readout.black), rel=0.03)


def test_frames_that_tell_nothing_say_why(tmp_path):
    readout = Readout(600, 500, 0.9, 3.1)
    flats, bias = frames_of(tmp_path, readout, 6_000)
    for given, message in (
        ((bias, flats), "no brighter than the bias frames"),
        (frames_of(tmp_path, readout, 14_000, 8), "are clipped"),
        (frames_of(tmp_path, readout, 20, 9), "are too dark"),
        (frames_of(tmp_path, readout, 6_000, 10, width_px=620), "differ in size"),
        (frames_of(tmp_path, readout, 6_000, 11, name="Another body"), "different cameras: Another body and Invented body"),
        (frames_of(tmp_path, readout, 6_000, 12, iso=1600), "ISO 800 and 1600"),
        ((flats, [bias[0], bias[0]]), "the same picture"),
    ):
        with pytest.raises(InvalidInput, match=message):
            photon_transfer(*given)
    uneven = readout.flats(6_000, np.random.default_rng(3), flicker=0.2)
    with pytest.raises(InvalidInput, match="the light flickers"):
        photon_transfer([replace(one, counts=counts.astype(np.float32)) for one, counts in zip(flats, uneven, strict=True)], bias)
    jpeg = tmp_path / "flat.jpg"
    jpeg.write_bytes(as_jpeg(np.ones((500, 600), np.float32), 2.0, CardHeader(datetime(2026, 1, 1), 1.0, 50.0)))
    with pytest.raises(InvalidInput, match="no longer those of the sensor"):
        read_sensor(jpeg)


@pytest.mark.parametrize("latitude", [-24.6, 51.0])
def test_drift_at_a_target_equals_stars_carried_by_an_invented_mount(latitude):
    """The speed of a star on the sensor, integrated over five minutes by matrices and ERFA, through the air."""
    site = Site(latitude, 16.9, 0.0, 1013.25, 10.0)
    spot = observer_of(site)
    rng = np.random.default_rng(12)
    for high, east in ((14.0, 0.0), (0.0, -20.0), (-9.0, 12.0)):
        mount = Mount(site, high, east)
        camera = Camera(SMALL, Lens(100.0))
        look = Pointing(float(rng.uniform(35, 70)), float(rng.uniform(40, 320)), 0.0)
        ra, dec, _ = sky(7.0)
        start = observed(site, EVENING, ra, dec)
        x, y = camera.project(start, camera.frame(look, mount, 0.0, 0.0))
        star = int(np.argmin(np.hypot(x, y)))
        after = observed(site, EVENING + timedelta(seconds=300), ra[star : star + 1], dec[star : star + 1])
        x1, y1 = camera.project(after, camera.frame(look, mount, 300.0, 0.0))
        moved = float(np.hypot(x1[0] - x[star], y1[0] - y[star]) * 206265 / camera.focal_px / 300)
        mjd = np.array([mjd_from_datetime(EVENING + timedelta(seconds=150))])
        target = Target("star", float(np.degrees(ra[star]) % 360), float(np.degrees(dec[star])), 1.0, 22.0)
        (drift,) = drifts_at(AxisError(high, east, 0.1, 0.1), spot, "refracted", target, mjd)
        # Off the middle a pinhole stretches by the square of the angle, here under 1 %.
        assert np.hypot(drift.ra_arcsec_s, drift.dec_arcsec_s) == pytest.approx(moved, rel=0.03, abs=2e-4)


def test_a_test_picture_gives_sky_width_and_trail_back(tmp_path):
    """A picture of a sky 1 mag brighter than planned, with stars wider than planned and an axis far off: JPEG and FITS."""
    pair = a_pair(high=0.0, east=0.0)
    mount = replace(pair.mount, altitude_arcmin=80.0, pe_half_amplitude_arcsec=0.0)
    camera = Camera(SMALL, Lens(85, 2.8, 0.001, 3.0), camera_sky(20.4), rng=np.random.default_rng(4))
    ra, dec, magnitude = sky(9.9)
    taken = Shot(EVENING, 20.0, 0.0)
    rendered = camera.take(ra, dec, magnitude, pair.pointing, mount, taken, steps=21)
    frame = camera.frame(pair.pointing, mount, 10.0, 0.0)[2]
    for ending, write in (("fits", as_fits), ("jpg", as_jpeg)):
        path = tmp_path / f"test.{ending}"
        path.write_bytes(write(rendered.electrons, 40_000.0, CardHeader(EVENING.replace(tzinfo=None), 20.0, 85.0)))
        found = measure(path, patterns(), 36.0, 85.0, lambda *_: None, light=True).lit
        assert found is not None and found.sky_mag == pytest.approx(20.4, abs=0.08)
        assert found.fwhm_px == pytest.approx(np.hypot(3.0, 2.355 / np.sqrt(12)), rel=0.04)  # the pixel's own width comes on top
        # 80' above the pole: w e sin(distance from the plane through axis and pole) × 20 s, as an even trail.
        off = np.cross(mount.axis - replace(mount, altitude_arcmin=0.0).axis, frame)
        trail = float(np.linalg.norm(off)) * 7.292e-5 * 20.0 * camera.focal_px
        sigma2 = (3.0 / 2.3548) ** 2 + 1 / 12
        assert found.axis_ratio == pytest.approx(np.sqrt(1 + trail**2 / 12 / sigma2), rel=0.03)
        assert found.background_share == pytest.approx(float(np.median(rendered.electrons[800:1200, 1200:1800])) / 40_000, rel=0.03)


def test_the_width_of_a_narrow_star_is_one_figure_on_every_page(tmp_path):
    """Stars of one pixel in a FITS file: three pixels wide by the pixels above a threshold, as Pole used to tell."""
    pair = a_pair(high=0.0, east=0.0)
    camera = Camera(SMALL, Lens(85, 2.8, 0.001, 1.0), camera_sky(20.4), rng=np.random.default_rng(4))
    mount = replace(pair.mount, pe_half_amplitude_arcsec=0.0)
    rendered = camera.take(*sky(9.9), pair.pointing, mount, Shot(EVENING, 20.0, 0.0), steps=3)
    path = tmp_path / "narrow.fits"
    path.write_bytes(as_fits(rendered.electrons, 40_000.0, CardHeader(EVENING.replace(tzinfo=None), 20.0, 85.0)))
    found = measure(path, patterns(), 36.0, 85.0, lambda *_: None, light=True)
    assert found.star == (found.lit.fwhm_px, found.lit.axis_ratio)
    assert found.star[0] == pytest.approx(np.hypot(1.0, 2.355 / np.sqrt(12)), abs=0.1)
    assert measure(path, patterns(), 36.0, 85.0, lambda *_: None).star == pytest.approx(found.star, rel=0.01)


def test_what_a_test_picture_says_sets_the_plan_right():
    """The correction, put in, predicts what was measured; Krisciunas & Schaefer's form carries it from there to the zenith."""
    rig, spot = a_rig(85.0), replace(a_spot(-24.6), sky_mag=21.6)
    target = Target("field", 80.0, -20.0, 3.0, 22.0)
    seen = outlook(rig, spot, date(2026, 12, 8), target, Choices())
    shot = Taken(1600, 20.0, 2.8, mjd_from_datetime(EVENING), 80.0, -20.0, 0.0, 14.5)
    lit = Lit(20.3, 0.1, "", 0.02, 0.01, 2.5, 2.55, 1.02, 30.0, 120)
    first = trial(seen, spot, shot, lit)
    assert first.verdict.level == "care" and "brighter than planned" in first.verdict.sentence
    assert first.offer.zenith_mag is not None and first.offer.zenith_mag < 21.6
    put_right = replace(spot, sky_mag=first.offer.zenith_mag)
    again = trial(outlook(rig, put_right, date(2026, 12, 8), target, Choices()), put_right, shot, lit)
    assert again.rows[0].agrees and again.offer.zenith_mag is None
    with pytest.raises(InvalidInput, match="ISO 50 lies outside"):
        trial(seen, spot, replace(shot, iso=50), lit)


def test_rules_without_a_tracker():
    """500 / 50 mm on full frame is 10 s. The detailed rule by hand: (16.856 × 2 + 0.0997 × 24 + 13.713 × 4.5) / 24 = 4.075 s,
    its constants from memory. 8 s at 50 mm and 6 µm trail by 4.9 px: the definition of the pixel rule."""
    assert rule_of_500_s(50.0, 1.0) == 10.0
    assert detailed_rule_s(24.0, 2.0, 4.5, 0.0) == pytest.approx(4.075, abs=0.002)
    assert pixel_rule_s(4.86, 24.75, 0.0) == pytest.approx(8.0, abs=0.01)
    assert pixel_rule_s(4.86, 24.75, np.radians(60)) == pytest.approx(16.0, abs=0.02)


def test_worked_values_of_counting_and_of_the_tone_curve():
    # Common practice, no source: 2.5 h at f/7.1 and 3.5 h at f/5.6 are 5.06 h at f/5.6.
    assert equivalent_hours(2.5, 7.1, 5.6) + equivalent_hours(3.5, 5.6, 5.6) == pytest.approx(5.06, abs=0.005)
    # Seven hours over three panels, 30 s subs at 93 % duty: 260 frames a panel.
    panel = card(7 * 3600 / 3, 30.0, Pauses(30 / 0.93 - 30), 0.0, 1.0, 30.0, 1e5, Calibration())
    assert panel.frames == 260
    ladder = [(one.iso, one.exposure_s) for one in framing_ladder(1600, 160.0)]
    assert ladder == [(12800, 20.0), (6400, 40.0), (3200, 80.0), (1600, 160.0)]
    # IEC 61966-2-1: linear 0.2140 is half-way up the code, 0.0508 a quarter.
    assert back_of_camera(np.array([0.2140, 0.0508, 1.0])) == pytest.approx([0.5, 0.25, 1.0], abs=0.001)
    # A Gaussian integrated numerically over the pixel under its middle.
    grid = (np.arange(2001) - 1000) / 1000 * 12
    shape = np.exp(-0.5 * (grid / (2.5 / 2.3548)) ** 2)
    inside = np.abs(grid) <= 0.5
    assert central_share(2.5) == pytest.approx((shape[inside].sum() / shape.sum()) ** 2, rel=0.03)
