"""The sky told from pictures, and the colours it goes by, against Hipparcos and an invented camera that bends its files."""

import numpy as np
import pytest
from scipy.spatial import cKDTree

from benchmarks.sky_of_pictures import bent_jpeg
from tests.invented import EVENING, SMALL, a_pair, camera_sky, hipparcos, patterns, sky
from tests.nightly import nightly
from widedusk.core.catalogue.stars import stars, v_magnitude
from widedusk.core.frames.measure import measure
from widedusk.core.simulate.camera import Camera, CardHeader, Lens, Shot, as_fits, as_jpeg


def test_the_colours_of_the_list_are_those_hipparcos_saw():
    """van Leeuwen 2007: B − V and Hp. Between Hp and V lie 0.00 at B − V = 0.0, 0.12 at 0.5 and 0.15 at 1.1 (ESA 1997, SP-1200,
    vol. 1, section 1.3, from memory)."""
    ra, dec, hp, bv = hipparcos()
    theirs = np.stack([np.cos(dec) * np.cos(ra), np.cos(dec) * np.sin(ra), np.sin(dec)], axis=1)
    gap, at = cKDTree(stars().vectors).query(theirs, distance_upper_bound=np.radians(2 / 3600))
    found = np.isfinite(gap)
    g, colour = stars().magnitude[at[found]], stars().colour[at[found]]
    sound = np.isfinite(colour) & (g > 6.0) & (np.abs(g - hp[found]) < 1.5)
    assert sound.sum() > 60_000 and np.corrcoef(bv[found][sound], colour[sound])[0, 1] > 0.93
    beyond = hp[found][sound] - v_magnitude(g[sound], colour[sound])
    for b_v, apart in ((0.0, 0.0), (0.5, 0.12), (1.1, 0.15)):
        near = np.abs(bv[found][sound] - b_v) < 0.05
        assert np.median(beyond[near]) == pytest.approx(apart, abs=0.02), b_v


@pytest.mark.parametrize("v_mag", [nightly(18.5), 20.5, nightly(21.7)])
def test_a_linear_file_tells_its_sky_and_a_bent_one_says_that_it_cannot(v_mag, tmp_path):
    pair = a_pair(high=0.5, east=0.5)
    camera = Camera(SMALL, Lens(85.0, 2.8, 0.001, 2.6), camera_sky(v_mag), rng=np.random.default_rng(int(v_mag)))
    electrons = camera.take(*sky(9.9), pair.pointing, pair.mount, Shot(EVENING, 20.0, 0.0)).electrons
    header = CardHeader(EVENING.replace(tzinfo=None), 20.0, 85.0)

    def told(name: str, content: bytes):
        (tmp_path / name).write_bytes(content)
        found = measure(tmp_path / name, patterns(), 36.0, 85.0, lambda *_: None, light=True).lit
        assert found is not None
        return found

    linear = told("linear.fits", as_fits(electrons, 40_000.0, header))
    assert linear.sky_mag == pytest.approx(v_mag, abs=0.07) and abs(linear.sky_mag - v_mag) < linear.sky_sigma < 0.12
    plain = as_jpeg(electrons, 40_000.0, header)
    for bend in (0.0, 0.3):
        curved = told(f"bend{bend}.jpg", bent_jpeg(plain, bend) if bend else plain)
        if curved.sky_mag is None:
            assert bend and "bent the curve" in curved.why_no_sky
        else:
            assert abs(curved.sky_mag - v_mag) < curved.sky_sigma < 0.4
    black = np.where(electrons > 3.0 * np.median(electrons), electrons, 0.0)
    nothing = told("black.fits", as_fits(black, 40_000.0, header))
    assert nothing.sky_mag is None and "below what this picture can show" in nothing.why_no_sky
