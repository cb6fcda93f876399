"""Moonlight and noise against published models in other hands, and the trade's own check values."""

import astropy.units as u
import numpy as np
import pytest
from astropy.stats import signal_to_noise_oir_ccd
from scipy.constants import pound
from specsim.atmosphere import krisciunas_schaefer

from widedusk.core.exposure.light import electrons_per_s, read_noise_share, signal_to_noise, sky_limited_s
from widedusk.core.kit.optics import crop_factor, field_of_view_rad, image_scale_arcsec_px, ring_f_number, stops_between
from widedusk.core.kit.units import GRAMS_PER_POUND
from widedusk.core.sky.brightness import combined, dark_sky, moonlight, twilight
from widedusk.core.tracking.drift import SIDEREAL_RATE_ARCSEC_S, drift_rad_s, field_rotation_rad_s, pole_direction
from widedusk.core.tracking.elongation import tolerated_trail_px, uniform_trail_ratio


def rozenberg(zenith_distance_deg: np.ndarray) -> np.ndarray:
    """Airmass down to the horizon, where it is 40: Rozenberg 1966, Twilight, 1 / (cos z + 0.025 exp(−11 cos z)), from memory."""
    cosine = np.cos(np.radians(zenith_distance_deg))
    return 1.0 / (cosine + 0.025 * np.exp(-11.0 * cosine))


def test_moonlight_matches_specsim_over_the_sky():
    """Its model dims the Moon's beam by the path of eq. 3, which ends at 5; ours by an airmass: here Rozenberg's in place of it."""
    rng = np.random.default_rng(3)
    target, moon = rng.uniform(0, 80, 300), rng.uniform(5, 89.5, 300)
    apart, phase, k = rng.uniform(10, 150, 300), rng.uniform(0.0, 0.95, 300), rng.uniform(0.1, 0.3, 300)
    theirs = np.array(
        [
            krisciunas_schaefer(*(x * u.deg for x in row[:3]), row[3], row[4]).value
            for row in zip(target, moon, apart, phase, k, strict=True)
        ]
    )
    ours = moonlight(np.radians(target), np.radians(moon), np.radians(apart), np.pi * phase, k)
    eq_3 = (1.0 - 0.96 * np.sin(np.radians(moon)) ** 2) ** -0.5
    dimmed = theirs + k * (rozenberg(moon) - eq_3)
    high = moon < 85.0
    assert ours[high] == pytest.approx(dimmed[high], abs=0.15)
    assert ours == pytest.approx(dimmed, abs=0.9)  # the two airmasses differ by 3 on the last degrees
    assert ours[moon < 45.0] == pytest.approx(theirs[moon < 45.0], abs=0.03)
    assert np.isinf(moonlight(np.radians(20), np.radians(91), np.radians(80), 0.0))


@pytest.mark.parametrize("phase_deg", [0.0, 60.0, 100.0])
@pytest.mark.parametrize("apart_deg", [30.0, 90.0])
def test_a_rising_moon_lights_the_sky_little_by_little(phase_deg, apart_deg):
    """Minute by minute at 15° an hour: no step in the sky over a dark site, and next to nothing as the limb shows."""
    altitude = np.radians(np.arange(-2.0, 30.0, 0.25))
    moon = moonlight(np.radians(40.0), np.pi / 2 - altitude, np.radians(apart_deg), np.radians(phase_deg))
    sky = combined(moon, np.array(21.7))
    assert np.abs(np.diff(sky)).max() < 0.2 and np.all(np.diff(sky) <= 1e-9)
    assert 21.7 - sky[np.searchsorted(altitude, 0.0)] < 0.08


def test_lights_add_as_fluxes_and_twilight_fades_out():
    assert combined(np.array(20.0), np.array(20.0)) == pytest.approx(20 - 2.5 * np.log10(2))
    fading = twilight(np.radians(np.linspace(-0.5, -18.2, 60)))
    assert np.all(np.diff(fading) > 0) and np.isinf(twilight(np.radians(-18.4)))
    # Patat et al. 2006: with the Sun at -12° (x = 7°) the observed V sky is 19.7; the night sky's own share is nearly nothing.
    assert float(combined(twilight(np.radians(-12.0)), np.array(21.947))) == pytest.approx(19.67, abs=0.02)
    # Krisciunas & Schaefer 1991 eq. 2 at 60° zenith distance, k = 0.2: path 1.89, so 0.69 mag brighter less 0.18 dimming.
    assert dark_sky(21.6, np.radians(30.0)) - 21.6 == pytest.approx(-0.513, abs=0.005)


def test_signal_to_noise_matches_astropy():
    rng = np.random.default_rng(4)
    for t, source, sky, dark, noise in rng.uniform([1, 0.01, 0.05, 0, 1], [600, 20, 30, 1, 12], (40, 5)):
        theirs = signal_to_noise_oir_ccd(t, source, sky, dark, noise, 1)
        assert signal_to_noise(source, sky + dark, noise, t) == pytest.approx(theirs, rel=0.01)
    assert signal_to_noise(0.5, 2, 3, 60, 64) == pytest.approx(2 * signal_to_noise(0.5, 2, 3, 60, 16))


def test_optics_check_values():
    """Arithmetic worked by hand from the definitions; 43.27 mm is the diagonal of a 36 x 24 mm frame."""
    assert image_scale_arcsec_px(3.72, 100) == pytest.approx(7.67, abs=0.005)
    assert image_scale_arcsec_px(6, 135) == pytest.approx(9.17, abs=0.005)
    assert np.degrees(field_of_view_rad(np.array([36, 24]), 135)) == pytest.approx([15.2, 10.2], abs=0.05)
    assert ring_f_number(200, 49, 2.8) == pytest.approx(4.08, abs=0.005)
    assert ring_f_number(200, 90, 2.8) == 2.8
    assert stops_between(6, 1.8) == pytest.approx(-3.5, abs=0.03)
    assert crop_factor(36, 24) == pytest.approx(1.0, abs=0.001)
    assert pytest.approx(1e3 * pound) == GRAMS_PER_POUND


def test_sky_electrons_and_sky_limited_minimum():
    """Zero point of Bessell 1979; the multiples of R²/E are common practice and follow from the CCD equation."""
    sky = electrons_per_s(21.5, 6, 2.8, 40)
    assert sky == pytest.approx(1.54, abs=0.005)
    for share, multiple in ((0.05, 9.8), (0.10, 4.8), (0.20, 2.3)):
        minimum = sky_limited_s(3.0, sky, share)
        assert minimum == pytest.approx(multiple * 9 / sky, rel=0.012)
        assert read_noise_share(3.0, sky, minimum) == pytest.approx(share)


def test_drift_on_the_meridian_is_the_drift_methods_constant():
    """1 arcsec of declination in 3.81 min for 1' of azimuth error on a star on the meridian at the equator, latitude 0:
    3437.75 / (15.041 * 60), the published constant of the drift method."""
    latitude = np.radians(0.0)
    pole = pole_direction(latitude)
    axis = np.array([np.sin(np.radians(1 / 60)), np.cos(np.radians(1 / 60)), 0.0])
    zenith = np.array([0.0, 0.0, 1.0])
    drift = drift_rad_s(axis, pole, zenith)
    minutes_for_1_arcsec = np.radians(1 / 3600) / np.linalg.norm(drift) / 60
    assert minutes_for_1_arcsec == pytest.approx(3.81, abs=0.005)
    assert abs(drift[1]) > 100 * abs(drift[0])  # along declination
    assert abs(field_rotation_rad_s(axis, pole, zenith)) < 1e-3 * np.linalg.norm(drift)


def test_drift_equals_a_camera_carried_by_a_misaligned_axis():
    """Independent of the formula: turn sky and camera with rotation matrices and look where the star went."""
    from scipy.spatial.transform import Rotation

    rng = np.random.default_rng(5)
    for latitude in (-0.6, 0.8):
        pole, seconds = pole_direction(latitude), 60.0
        for sight in rng.normal(size=(20, 3)):
            star = sight / np.linalg.norm(sight)
            axis = pole + rng.normal(size=3) * 0.003
            axis /= np.linalg.norm(axis)
            turn = -np.radians(SIDEREAL_RATE_ARCSEC_S / 3600) * seconds
            in_camera = Rotation.from_rotvec(axis * turn).inv().apply(Rotation.from_rotvec(pole * turn).apply(star))
            assert in_camera - star == pytest.approx(drift_rad_s(axis, pole, star) * seconds, abs=2e-7)


def test_elongation_of_five_focal_lengths_two_degrees_off():
    """Common practice, no source: 15 and 24 mm sharp, 35 mm just detectable, 70 mm trailed, 200 mm ruined in 2 minutes."""
    scale = image_scale_arcsec_px(6, np.array([15, 24, 35, 70, 200]))
    trail = SIDEREAL_RATE_ARCSEC_S * np.radians(2) * 120 / scale
    assert uniform_trail_ratio(trail, 2.5) == pytest.approx([1.02, 1.05, 1.11, 1.39, 2.94], abs=0.006)
    assert [tolerated_trail_px(limit, 2.5) for limit in (1.15, 1.3, 1.5)] == pytest.approx([2.1, 3.1, 4.1], abs=0.05)
