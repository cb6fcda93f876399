"""The sky told from pictures, and the colours it goes by, against Hipparcos and an invented camera that bends its files."""

import numpy as np
import pytest
from scipy.spatial import cKDTree

from benchmarks.sky_of_pictures import CLIP_E, CURVES, jpeg_through, shots, told, with_wings
from tests.invented import hipparcos
from tests.nightly import nightly
from widedusk.core.catalogue.stars import stars, v_magnitude
from widedusk.core.simulate.camera import as_fits


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


@pytest.mark.parametrize("v_mag", [18.5, nightly(20.5), 21.7])
def test_a_file_that_follows_the_light_tells_its_sky_and_any_other_says_that_it_cannot(v_mag):
    """benchmarks/sky_of_pictures.py, one picture a sky: nothing told is beyond one sigma, and no σ of a JPEG above 0.15."""
    _, focal, electrons, header = next(shots((v_mag,)))
    for content in (electrons, with_wings(electrons)):
        linear = told("one.fits", as_fits(content, CLIP_E, header), focal)
        assert abs(linear.sky_mag - v_mag) < linear.sky_sigma < 0.12
    plain = told("one.jpg", jpeg_through(CURVES["as it comes"], electrons, header), focal)
    assert abs(plain.sky_mag - v_mag) < plain.sky_sigma <= 0.15
    for name in ("lifted", "table", "mild"):
        bent = told("one.jpg", jpeg_through(CURVES[name], electrons, header), focal)
        if bent.sky_mag is None:
            assert "a tone curve of the camera's own" in bent.why_no_sky
        else:  # so mild that it may as well be none
            assert name == "mild" and abs(bent.sky_mag - v_mag) < bent.sky_sigma <= 0.15
    black = np.where(electrons > 3.0 * np.median(electrons), electrons, 0.0)
    nothing = told("black.fits", as_fits(black, CLIP_E, header), focal)
    assert nothing.sky_mag is None and "below what this picture can show" in nothing.why_no_sky


def test_light_beyond_the_circle_is_reckoned_with():
    """A fifth of every star's light far out: without a look beyond the circle the sky would be told 0.2 mag too bright."""
    v_mag, focal, electrons, header = next(shots((21.7,)))
    found = told("one.fits", as_fits(with_wings(electrons, 0.2, 6.0), CLIP_E, header), focal)
    assert abs(found.sky_mag - v_mag) < min(2.0 * found.sky_sigma, 0.15)
