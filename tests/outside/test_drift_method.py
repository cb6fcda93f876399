"""The drift method against a mount carried round by rotation matrices, which knows nothing of the formula."""

import numpy as np
import pytest
from scipy.spatial.transform import Rotation

from widedusk.core.errors import InvalidInput
from widedusk.core.pole.drift_method import ARCMIN, Watched, axis_error

RATE = 2 * np.pi / 86164.0905  # radians a second; sidereal day, IERS


def enu(altitude: float, azimuth: float) -> np.ndarray:
    a, z = np.radians(altitude), np.radians(azimuth)
    return np.array([np.cos(a) * np.sin(z), np.cos(a) * np.cos(z), np.sin(a)])


def carried_drift(latitude: float, high: float, east: float, altitude: float, azimuth: float, minutes: float = 4.0) -> float:
    """Declination drift, ″ a minute, in the camera of a mount whose upper end stands `high` and `east` of the pole (arcmin)."""
    south = latitude < 0
    upper = enu(abs(latitude), 180.0 if south else 0.0)  # the pole above the ground
    lifted = Rotation.from_rotvec(np.cross(upper, [0, 0, 1]) / np.cos(np.radians(latitude)) * high * ARCMIN).apply(upper)
    end = lifted + np.array([1.0, 0.0, 0.0]) * east * ARCMIN
    axis = (-end if south else end) / np.linalg.norm(end)
    pole = enu(latitude, 0.0)  # the northern one, below the ground in the south
    star, turn = enu(altitude, azimuth), -RATE * minutes * 60
    seen = Rotation.from_rotvec(axis * turn).inv().apply(Rotation.from_rotvec(pole * turn).apply(star))
    north = pole - (star @ pole) * star
    return float((seen - star) @ north / np.linalg.norm(north)) / np.radians(1 / 3600) / minutes


@pytest.mark.parametrize("latitude", [-33.0, -8.0, 25.0, 61.0])
def test_errors_are_found_again_with_their_sign_in_both_hemispheres(latitude):
    for high, east in ((12.0, 0.0), (0.0, -25.0), (-6.0, 17.0)):
        stars = [(50.0, 0.0 if latitude < 0 else 180.0), (30.0, 90.0), (40.0, 265.0)]
        watched = [Watched(*star, carried_drift(latitude, high, east, *star)) for star in stars]
        found = axis_error(np.radians(latitude), watched)
        assert (found.high_arcmin, found.east_arcmin) == pytest.approx((high, east), abs=0.35)  # four minutes are not nothing


def test_a_star_on_the_meridian_drifts_one_arcsecond_in_381_minutes_for_one_arcminute():
    """The published constant of the drift method, 3437.75 / (15.041 × 60)."""
    assert 1 / abs(carried_drift(0.001, 0.0, 1.0, 89.4, 180.0)) == pytest.approx(3.81, abs=0.01)


def test_the_stated_uncertainty_covers_the_truth_as_often_as_it_says():
    rng = np.random.default_rng(44)
    stars = [(55.0, 175.0), (28.0, 88.0)]
    clean = [carried_drift(40.0, 8.0, -15.0, *star) for star in stars]
    base = axis_error(np.radians(40.0), [Watched(*star, drift, 0.3) for star, drift in zip(stars, clean, strict=True)])
    inside = 0
    for _ in range(400):
        noisy = [Watched(*star, drift + rng.normal() * 0.3, 0.3) for star, drift in zip(stars, clean, strict=True)]
        found = axis_error(np.radians(40.0), noisy)
        inside += abs(found.high_arcmin - base.high_arcmin) < found.high_sigma
        inside += abs(found.east_arcmin - base.east_arcmin) < found.east_sigma
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
        axis_error(np.radians(45.0), stars)
    assert words in str(caught.value)
