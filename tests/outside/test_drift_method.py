"""The drift method against a mount carried round by rotation matrices under astropy's sky and air, which know nothing of it."""

import astropy.units as u
import numpy as np
import pytest
from astropy.coordinates import AltAz, EarthLocation, SkyCoord
from astropy.time import Time
from scipy.spatial.transform import Rotation

from widedusk.core.errors import InvalidInput
from widedusk.core.pole.drift_method import ARCMIN, Watched, axis_error
from widedusk.core.sky.places import Observer

RATE = 2 * np.pi / 86164.0905  # radians a second; sidereal day, IERS


def enu(altitude: float, azimuth: float) -> np.ndarray:
    a, z = np.radians(altitude), np.radians(azimuth)
    return np.array([np.cos(a) * np.sin(z), np.cos(a) * np.cos(z), np.sin(a)])


def carried_drift(
    latitude: float, high: float, east: float, altitude: float, azimuth: float, minutes: float = 4.0, hpa: float = 1013.25
) -> float:
    """Declination drift, ″ a minute, in the camera of a mount whose upper end stands `high` and `east` of the pole (arcmin).

    The sky is astropy's, with its air (none: hpa 0); the pole it is counted from is the one that air shows.
    """
    south = latitude < 0
    place = EarthLocation(lat=latitude * u.deg, lon=17.0 * u.deg, height=0.0 * u.m)
    began = Time("2026-12-08T20:00:00")

    def frame(after_min: float, pressure: float) -> AltAz:
        when = began + after_min * u.min
        return AltAz(obstime=when, location=place, pressure=pressure * u.hPa, temperature=10.0 * u.deg_C, obswl=0.55 * u.micron)

    def seen_at(star: SkyCoord, after_min: float) -> np.ndarray:
        found = star.transform_to(frame(after_min, hpa))
        return enu(found.alt.deg, found.az.deg)

    bare = SkyCoord(alt=abs(latitude) * u.deg, az=(180.0 if south else 0.0) * u.deg, frame=frame(0.0, 0.0))
    upper = seen_at(bare, 0.0)  # the pole above the ground, as the air lifts it
    side = np.array([1.0, 0.0, 0.0])
    lifted = Rotation.from_rotvec(np.cross(upper, [0, 0, 1]) / np.hypot(upper[0], upper[1]) * high * ARCMIN).apply(upper)
    end = lifted + side * east * ARCMIN
    axis = (-end if south else end) / np.linalg.norm(end)
    pole = enu(latitude, 0.0)  # the northern one, below the ground in the south
    star = SkyCoord(alt=altitude * u.deg, az=azimuth * u.deg, frame=frame(0.0, hpa)).icrs
    before, after = (seen_at(star, minute) for minute in (-minutes / 2, minutes / 2))
    here = enu(altitude, azimuth)
    half = RATE * minutes * 60 / 2
    in_camera = [Rotation.from_rotvec(axis * turn).apply(one) for one, turn in ((before, -half), (after, half))]
    north = pole - (here @ pole) * here
    return float((in_camera[1] - in_camera[0]) @ north / np.linalg.norm(north)) / np.radians(1 / 3600) / minutes


def at(latitude: float) -> Observer:
    return Observer(np.radians(latitude), np.radians(17.0), 0.0)


@pytest.mark.parametrize("latitude", [-33.0, -8.0, 25.0, 61.0])
def test_errors_are_found_again_with_their_sign_in_both_hemispheres(latitude):
    for high, east in ((12.0, 0.0), (0.0, -25.0), (-6.0, 17.0)):
        stars = [(50.0, 0.0 if latitude < 0 else 180.0), (30.0, 90.0), (40.0, 265.0)]
        watched = [Watched(*star, carried_drift(latitude, high, east, *star)) for star in stars]
        found = axis_error(at(latitude), "refracted", watched)
        assert (found.altitude_arcmin, found.azimuth_arcmin) == pytest.approx((high, east), abs=0.15)


@pytest.mark.parametrize("latitude", [-35.0, 58.0])
def test_an_axis_on_the_refracted_pole_is_told_from_one_on_the_true(latitude):
    """Where nobody counts the air, an axis on the refracted pole is called 1.0′ (35° S) and 1.6′ (58° N) too low."""
    stars = [(50.0, 0.0 if latitude < 0 else 180.0), (25.0, 90.0)]
    watched = [Watched(*star, carried_drift(latitude, 0.0, 0.0, *star)) for star in stars]
    on_it = axis_error(at(latitude), "refracted", watched)
    assert on_it.total_arcmin < 0.1
    of_true = axis_error(at(latitude), "true", watched)
    lifted = 1.0 / np.tan(np.radians(abs(latitude)))  # arcminutes, near enough: the refraction at the pole
    assert of_true.altitude_arcmin == pytest.approx(lifted, abs=0.1) and abs(of_true.azimuth_arcmin) < 0.05


def test_a_star_on_the_meridian_drifts_one_arcsecond_in_381_minutes_for_one_arcminute():
    """The published constant of the drift method, 3437.75 / (15.041 × 60)."""
    assert 1 / abs(carried_drift(0.001, 0.0, 1.0, 89.4, 180.0, hpa=0.0)) == pytest.approx(
        3.81, abs=0.03
    )  # with the aberration of a turning Earth


def test_the_stated_uncertainty_covers_the_truth_as_often_as_it_says():
    rng = np.random.default_rng(44)
    stars = [(55.0, 175.0), (28.0, 88.0)]
    clean = [carried_drift(40.0, 8.0, -15.0, *star) for star in stars]
    base = axis_error(at(40.0), "refracted", [Watched(*star, drift, 0.3) for star, drift in zip(stars, clean, strict=True)])
    inside = 0
    for _ in range(400):
        noisy = [Watched(*star, drift + rng.normal() * 0.3, 0.3) for star, drift in zip(stars, clean, strict=True)]
        found = axis_error(at(40.0), "refracted", noisy)
        inside += abs(found.altitude_arcmin - base.altitude_arcmin) < found.altitude_sigma
        inside += abs(found.azimuth_arcmin - base.azimuth_arcmin) < found.azimuth_sigma
    assert inside / 800 == pytest.approx(0.683, abs=0.05)


@pytest.mark.parametrize(
    ("stars", "words"),
    [
        ([Watched(50, 180, 1.0)], "Watch two stars"),
        ([Watched(50, 180, 1.0), Watched(40, 181, 1.0)], "low in the east or west"),
        ([Watched(25, 90, 1.0), Watched(20, 86, 1.0)], "near the meridian"),
        ([Watched(95, 180, 1.0), Watched(40, 400, float("nan"))], "400° cannot be right"),
    ],
)
def test_stars_that_cannot_tell_are_refused_with_what_is_missing(stars, words):
    with pytest.raises(InvalidInput) as caught:
        axis_error(at(45.0), "refracted", stars)
    assert words in str(caught.value)
