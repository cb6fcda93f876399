"""A horizon profile from a sweep with a phone, against the skyline that it was drawn from."""

import numpy as np
import pytest

from widedusk.core.errors import InvalidInput
from widedusk.core.grounds.sweep import BIN_DEG, MAX_ALTITUDE_DEG, swept_profile
from widedusk.core.sky.horizon import HorizonProfile

SKYLINE = HorizonProfile(((0, 4), (60, 8), (85, 30), (110, 42), (150, 20), (200, 3), (290, 12), (330, 6)))
OPEN = HorizonProfile()


def sweep(rng: np.random.Generator, span: tuple[float, float], declination: float, stumbles: float = 0.03):
    """Ten readings a second at ten degrees a second, a hand that trembles by half a degree, and now and then a stumble."""
    azimuth = np.linspace(*span, int(span[1] - span[0]))
    seen = np.degrees(SKYLINE.altitude_at(np.radians(azimuth % 360.0))) + rng.normal(0.0, 0.5, azimuth.size)
    wrong = rng.random(azimuth.size) < stumbles
    return (azimuth - declination) % 360.0, np.where(wrong, rng.uniform(-60, 90, azimuth.size), seen)


@pytest.mark.parametrize("declination", [-17.0, 0.0, 14.2])
@pytest.mark.parametrize("seed", range(3))
def test_a_whole_turn_gives_the_skyline_back(seed, declination):
    """Within a bin the skyline rises by up to a degree a degree: to that its middle is told, and the mean of all to 0.2°."""
    found = swept_profile(*sweep(np.random.default_rng(seed), (0.0, 1080.0), declination), declination, OPEN)
    middles = np.radians(np.arange(BIN_DEG / 2, 360.0, BIN_DEG))
    off = np.degrees(found.altitude_at(middles) - SKYLINE.altitude_at(middles))
    assert np.abs(off).max() < 1.6 and abs(off.mean()) < 0.2


def test_where_nobody_swept_the_profile_stays_as_it_was():
    before = HorizonProfile(((0, 10), (180, 10)))
    found = swept_profile(*sweep(np.random.default_rng(1), (80.0, 160.0), -17.0, 0.0), -17.0, before)
    untouched = np.radians(np.arange(170.0, 430.0, 7.0) % 360.0)
    assert np.allclose(np.degrees(found.altitude_at(untouched)), 10.0)
    swept = np.radians(np.arange(90.0, 150.0, 5.0))
    assert np.abs(np.degrees(found.altitude_at(swept) - SKYLINE.altitude_at(swept))).max() < 2.5


def test_what_is_no_sweep_is_refused_and_nothing_goes_below_the_ground():
    for bearings, heights in (([10.0] * 5, [5.0] * 5), ([10.0] * 50, [5.0] * 50), (list(range(100)), [89.0] * 100)):
        with pytest.raises(InvalidInput) as refused:
            swept_profile(np.array(bearings, dtype=float), np.array(heights), 0.0, OPEN)
        assert refused.value.faults[0].field == "readings"
    low = swept_profile(np.arange(0.0, 360.0), np.full(360, -8.0), 0.0, OPEN)
    assert {height for _, height in low.points_deg} == {0.0}
    high = swept_profile(np.arange(0.0, 360.0), np.full(360, MAX_ALTITUDE_DEG), 0.0, OPEN)
    assert {height for _, height in high.points_deg} == {MAX_ALTITUDE_DEG}
