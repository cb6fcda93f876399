"""What pictures say of a lens against the rays they were drawn from, followed by brute force (`tests/invented_lens`)."""

from dataclasses import replace

import numpy as np
import pytest

from tests.invented_lens import SIDES, any_lens, axes, judged_stops, shown, true_moments, true_stops, true_zone
from widedusk.core.errors import InvalidInput
from widedusk.core.frames.lens_facts import CORNERS, LensPicture
from widedusk.core.judge.my_lens import Taken, judge_lens
from widedusk.core.judge.word import Limits
from widedusk.core.simulate.lens import BLUE, GREEN, RED, InventedLens

COLOURS = (("red", RED), ("green", GREEN), ("blue", BLUE))
SOFT = InventedLens(coma_px=2.2, curved_px=1.5, focus_px=(1.5, 0.0, 2.2), larger=(1.2, -0.8), fall=0.5)


def judged(*pictures: LensPicture, limits: Limits | None = None):
    return judge_lens([Taken("one", one.f_number or 1.8, "iris", one) for one in pictures], limits or Limits())


@pytest.mark.parametrize(("kind", "stop"), [("fits", 1.8), ("fits", 2.8), ("mosaic", 1.8)])
def test_stars_of_every_zone_and_colour_are_as_wide_as_their_rays(tmp_path, kind, stop):
    seen = shown(tmp_path, SOFT, stop, 3, kind)
    told = 0
    for name, colour in COLOURS:
        for zone in (0, 2, 7, 11, 14):
            spot, true = seen.zones[name][zone], true_zone(SOFT, stop, zone, colour)
            if spot is None:
                continue
            long, wide = axes(spot.xx, spot.yy, spot.xy)
            true_long, true_wide = axes(*true[:3])
            assert wide == pytest.approx(true_wide, rel=0.1), (name, zone)
            assert long == pytest.approx(true_long, rel=0.1), (name, zone)
            told += 1
    assert told >= 12


@pytest.mark.parametrize("kind", ["fits", "mosaic"])
def test_colours_part_towards_the_corner_as_they_were_drawn(tmp_path, kind):
    lens = InventedLens(larger=(1.2, -0.8), focus_px=(1.2, 0.0, 1.6))
    seen = shown(tmp_path, lens, 1.8, 4, kind)
    for name, true in (("red", 1.2), ("blue", -0.8)):
        one = seen.parted[name]
        assert one.stretch == pytest.approx(true, abs=max(0.1 * abs(true), 2.5 * one.sigma))
        assert np.hypot(one.right, one.down) < 0.1  # a mosaic's own offsets are no fault of the lens
    # Where coma leans each colour another way, too.
    coma = shown(tmp_path, SOFT, 1.8, 4, kind)
    x, y = np.array([0.4, 1 / 3]) * SIDES / (np.hypot(*SIDES) / 2)
    red, green, blue = (true_moments(SOFT.spot(x, y, 1.8, colour, placed=True))[3:] for _, colour in COLOURS)
    for name, middle in (("red", red), ("blue", blue)):
        away = (middle - green) @ (x, y) / (x**2 + y**2)
        assert coma.parted[name].stretch == pytest.approx(away, abs=max(0.1 * abs(away), 4 * coma.parted[name].sigma))
    halo = judged(seen).stops[0]
    for name, colour in (("red", RED), ("blue", BLUE)):
        widths = [axes(*true_moments(lens.spot(0.0, 0.0, 1.8, one))[:3])[1] for one in (colour, GREEN)]
        assert getattr(halo, name) == pytest.approx(widths[0] / widths[1], rel=0.1)


@pytest.mark.parametrize("slope", [(0.0, 0.0), (0.25, -0.1)])
@pytest.mark.parametrize(("kind", "stop"), [("fits", 1.8), ("fits", 4.0), ("jpeg", 1.8)])
def test_dark_corners_are_told_from_a_sky_that_slopes(tmp_path, kind, stop, slope):
    lens = InventedLens(fall=0.6)
    seen = shown(tmp_path, lens, stop, 5, kind, slope=slope, exposed=stop / 1.8)
    lost = 1 - float(lens.light(np.array([1.0]), stop)[0])
    assert 1 - seen.corner_light == pytest.approx(lost, rel=0.1)


@pytest.mark.parametrize(("blades", "rays"), [(5, 10), (8, 8), (9, 18)])
def test_an_iris_makes_spikes_and_a_ring_none(tmp_path, blades, rays):
    lens = InventedLens(blades=blades)
    assert shown(tmp_path, lens, 4.0, 6, exposed=2.2).spikes.count == rays
    if rays == 8:
        assert shown(tmp_path, lens, 4.0, 6, exposed=2.2, by_iris=False).spikes.count == 0


def test_coma_tilt_a_lens_askew_and_a_curved_field_are_told_apart(tmp_path):
    even = judged(shown(tmp_path, InventedLens(), 1.8, 7)).stops[0]
    assert even.faults == () and even.broad.good
    coma = judged(shown(tmp_path, InventedLens(coma_px=2.5), 1.8, 7)).stops[0]
    assert coma.faults == ("coma",) and coma.radial_px > 0
    corner = [true_zone(InventedLens(coma_px=2.5), 1.8, zone, GREEN) for zone in CORNERS]
    half = np.hypot(*SIDES)
    away = np.array([0.8 * SIDES[0], 2 / 3 * SIDES[1]]) / half
    away = away / np.hypot(*away)
    drawn = []
    for (xx, yy, xy, *_), (across, down) in zip(corner, ((-1, -1), (1, -1), (-1, 1), (1, 1)), strict=True):
        ux, uy = away[0] * across, away[1] * down
        drawn.append((xx - yy) * (ux**2 - uy**2) + 4 * xy * ux * uy)
    assert coma.radial_px == pytest.approx(np.sqrt(np.mean(drawn)), rel=0.1)
    for heading in (20.0, 200.0, 300.0):
        tilted = judged(shown(tmp_path, InventedLens(tilt_px=3.0, focus_px=(1.2, 1.2, 1.2), tilt_deg=heading), 1.8, 8)).stops[0]
        assert tilted.faults == ("tilt",), heading
        assert abs((tilted.soft_deg - heading + 180) % 360 - 180) < 20
    askew = judged(shown(tmp_path, InventedLens(coma_px=2.5, askew=(0.45, 0.0)), 1.8, 9)).stops[0]
    assert {"coma", "askew"} <= set(askew.faults) and "half diagonals right" in askew.words
    assert judged(shown(tmp_path, InventedLens(curved_px=4.0), 1.8, 9)).stops[0].faults == ("curved",)


def test_the_widest_good_stop_is_where_the_rays_say(tmp_path):
    """Fifty such lenses: `python -m benchmarks.lenses`."""
    told, seed = 0, 100
    while told < 2:
        seed += 1
        lens = any_lens(np.random.default_rng(seed))
        wanted = true_stops(lens, Limits())
        if wanted is None:
            continue
        told += 1
        assert judged_stops(tmp_path, lens, seed, "fits", Limits()) == wanted, seed


def test_limits_are_the_persons_own_and_two_pictures_of_a_stop_must_both_be_good(tmp_path):
    wide, narrow = shown(tmp_path, SOFT, 1.8, 10), shown(tmp_path, SOFT, 4.0, 10, exposed=2.2)
    strict, lax = judged(wide, narrow, limits=Limits(1.1, 1.2)), judged(wide, narrow, limits=Limits(2.5, 3.0))
    assert (strict.broad or 99.0) > 1.8 and lax.broad == 1.8
    sharp = shown(tmp_path, InventedLens(), 1.8, 11)
    assert judged(sharp, replace(wide, f_number=1.8)).broad is None


def test_what_does_not_show_the_lens_is_said(tmp_path):
    with pytest.raises(InvalidInput, match="Expose longer, or look at a richer field"):
        shown(tmp_path, InventedLens(), 1.8, 12, stars=20)
    seen = shown(tmp_path, InventedLens(), 1.8, 12)
    empty = tuple(None if zone == 0 else one for zone, one in enumerate(seen.zones["green"]))
    with pytest.raises(InvalidInput, match="too few stars in its upper left corner"):
        judged(replace(seen, zones={**seen.zones, "green": empty}))


def test_a_mosaic_of_very_narrow_stars_is_told_with_care(tmp_path):
    told = judged(shown(tmp_path, InventedLens(), 1.8, 7, "mosaic")).verdict
    assert told.level == "care" and "one pixel of four" in told.caution
    assert judged(shown(tmp_path, InventedLens(), 1.8, 7)).verdict.caution == ""
