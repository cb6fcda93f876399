"""What pictures say of a lens against the rays they were drawn from, followed by brute force (`tests/invented_lens`)."""

from dataclasses import replace

import numpy as np
import pytest

from tests.invented_lens import SIDES, any_lens, axes, facts, judged_stops, shown, true_moments, true_stops, true_zone
from tests.nightly import nightly
from widedusk.core.errors import InvalidInput
from widedusk.core.frames.lens_facts import CORNERS, LensPicture, Parted, Spikes, Spot
from widedusk.core.judge.limits import Limits
from widedusk.core.judge.my_lens import Taken, judge_lens
from widedusk.core.simulate.lens import BLUE, GREEN, RED, InventedLens

COLOURS = (("red", RED), ("green", GREEN), ("blue", BLUE))
SOFT = InventedLens(coma_px=2.2, curved_px=1.5, focus_px=(1.5, 0.0, 2.2), larger=(1.2, -0.8), fall=0.5)


def judged(*pictures: LensPicture, limits: Limits | None = None):
    return judge_lens([Taken("one", one.f_number or 1.8, "iris", one) for one in pictures], limits or Limits())


@pytest.mark.parametrize(("kind", "stop"), [("fits", 1.8), nightly("fits", 2.8), nightly("mosaic", 1.8), ("six", 1.8)])
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


@pytest.mark.parametrize("kind", ["fits", nightly("mosaic")])
def test_zones_of_steep_change_are_as_wide_as_in_their_middle(tmp_path, kind):
    """A corner's sharper stars are the brighter ones, and lie to one side of it: half of that is put right, 5 to 6 % else."""
    off = []
    for seed in (132, 171):
        lens = any_lens(np.random.default_rng(seed))
        seen = shown(tmp_path, lens, 1.8, seed, kind, by_iris=False)
        for name, colour in COLOURS:
            for zone in CORNERS:
                spot = seen.zones[name][zone]
                x, y = ((zone % 5 + 0.5) / 5 - 0.5) * SIDES[0], ((zone // 5 + 0.5) / 3 - 0.5) * SIDES[1]
                half = np.hypot(*SIDES) / 2
                true = axes(*true_moments(lens.spot(x / half, y / half, 1.8, colour))[:3])[1]
                if spot is not None:
                    off.append(axes(spot.xx, spot.yy, spot.xy)[1] / true - 1)
    assert len(off) >= 20 and abs(np.mean(off)) < 0.04 and np.std(off) < 0.05


def test_stars_of_one_pixel_in_a_mosaic_are_round_where_they_are_though_some_are_double(tmp_path):
    lens = any_lens(np.random.default_rng(195))  # round all over, 1.9 px wide; sixteen red stars of a zone, one of them two
    seen = shown(tmp_path, lens, 5.6, 195, "mosaic", exposed=5.6 / 1.8)
    for name, _ in COLOURS:
        for zone, spot in enumerate(seen.zones[name]):
            elongation, width = axes(spot.xx, spot.yy, spot.xy)
            assert elongation < 1.15 and width == pytest.approx(2.02, rel=0.06), (name, zone)


def test_colours_that_lie_over_each_other_look_as_their_sum_does(tmp_path):
    """Sharp, wide and shifted Gaussians of equal light, added up on a grid far finer than pixels."""
    rng = np.random.default_rng(6)
    half = np.hypot(*SIDES) / 2
    spots = {name: [] for name, _ in COLOURS}
    for name, most in zip(spots, (2.0, 0.8, 6.0), strict=True):
        for _ in range(15):
            xx, yy = rng.uniform(0.6, most, 2)
            spots[name].append(Spot(20, xx, yy, rng.uniform(-0.6, 0.6) * np.sqrt(xx * yy), 0.01))
    parted = {"red": Parted(1.5, 0.01, 0.0, 0.0), "blue": Parted(-2.0, 0.01, 0.0, 0.0)}
    zones = {name: tuple(one) for name, one in spots.items()}
    seen = LensPicture(1.8, 12.0, 85.0, *SIDES, 300, zones, parted, None, None, Spikes(0, 0.0), False)
    rows, columns = np.mgrid[-60:61, -60:61] / 5.0
    for zone, told in enumerate(judged(seen).stops[0].zones):
        x, y = ((zone % 5 + 0.5) / 5 - 0.5) * SIDES[0] / half, ((zone // 5 + 0.5) / 3 - 0.5) * SIDES[1] / half
        light = np.zeros(rows.shape)
        for name, out in (("red", 1.5), ("green", 0.0), ("blue", -2.0)):
            one = spots[name][zone]
            inverse = np.linalg.inv([[one.xx, one.xy], [one.xy, one.yy]])
            off = np.stack([columns - out * x, rows - out * y])
            light += np.exp(-0.5 * np.einsum("ikl,ij,jkl->kl", off, inverse, off)) * np.sqrt(np.linalg.det(inverse))
        elongation, width = axes(*true_moments(light)[:3])
        assert told.long_px / told.short_px == pytest.approx(elongation, rel=0.01), zone
        assert np.sqrt(told.long_px * told.short_px) == pytest.approx(width, rel=0.01), zone


@pytest.mark.parametrize("kind", [nightly("fits"), "mosaic", nightly("six")])
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
@pytest.mark.parametrize(("kind", "stop"), [("fits", 1.8), nightly("fits", 4.0), nightly("jpeg", 1.8)])
def test_dark_corners_are_told_from_a_sky_that_slopes(tmp_path, kind, stop, slope):
    lens = InventedLens(fall=0.6)
    seen = shown(tmp_path, lens, stop, 5, kind, slope=slope, exposed=stop / 1.8)
    lost = 1 - float(lens.light(np.array([1.0]), stop)[0])
    assert 1 - seen.corner_light == pytest.approx(lost, rel=0.1)


@pytest.mark.parametrize(("blades", "rays"), [(5, 10), (8, 8), nightly(9, 18)])
def test_an_iris_makes_spikes_and_a_ring_none(tmp_path, blades, rays):
    lens = InventedLens(blades=blades)
    assert shown(tmp_path, lens, 4.0, 6, exposed=2.2).spikes.count == rays
    if rays == 8:
        assert shown(tmp_path, lens, 4.0, 6, exposed=2.2, by_iris=False).spikes.count == 0


def test_coma_tilt_a_lens_askew_and_a_curved_field_are_told_apart(tmp_path):
    even = judged(facts(tmp_path, InventedLens(), 1.8, 7)).stops[0]
    assert even.faults == () and even.broad.good
    coma = judged(facts(tmp_path, InventedLens(coma_px=2.5), 1.8, 7)).stops[0]
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
        tilted = judged(facts(tmp_path, InventedLens(tilt_px=3.0, focus_px=(1.2, 1.2, 1.2), tilt_deg=heading), 1.8, 8)).stops[0]
        assert tilted.faults == ("tilt",), heading
        assert abs((tilted.soft_deg - heading + 180) % 360 - 180) < 20
    askew = judged(facts(tmp_path, InventedLens(coma_px=2.5, askew=(0.45, 0.0)), 1.8, 9)).stops[0]
    assert {"coma", "askew"} <= set(askew.faults) and "half diagonals right" in askew.words
    assert judged(facts(tmp_path, InventedLens(curved_px=4.0), 1.8, 9)).stops[0].faults == ("curved",)


@pytest.mark.parametrize(("seed", "kind"), [nightly(63, "mosaic"), (64, "fits")])
def test_the_widest_good_stop_is_where_the_rays_say(tmp_path, seed, kind):
    """Fifty such lenses: `python -m benchmarks.lenses`."""
    lens = any_lens(np.random.default_rng(seed))
    assert judged_stops(tmp_path, lens, seed, kind, Limits()) == true_stops(lens, Limits())


def test_limits_are_the_persons_own_and_two_pictures_of_a_stop_must_both_be_good(tmp_path):
    wide, narrow = facts(tmp_path, SOFT, 1.8, 10), facts(tmp_path, SOFT, 4.0, 10, exposed=2.2)
    strict, lax = judged(wide, narrow, limits=Limits(1.1, 1.2)), judged(wide, narrow, limits=Limits(2.5, 3.0))
    assert (strict.broad or 99.0) > 1.8 and lax.broad == 1.8
    sharp = facts(tmp_path, InventedLens(), 1.8, 11)
    assert judged(sharp, replace(wide, f_number=1.8)).broad is None


def plain(f_number: float, corner: float, trail_px: float) -> LensPicture:
    """By hand: round stars of 2.4 px in the middle, so many times as wide in the corners, drawn out to the right."""
    zones = []
    for place in range(15):
        away = np.hypot((place % 5 - 2) / 2, (place // 5 - 1)) / np.sqrt(2)
        wide = (2.4 / 2.3548) ** 2 * (1 + (corner**2 - 1) * away**2)
        zones.append(Spot(30, wide + trail_px**2 / 12, wide, 0.0, 0.02))
    return LensPicture(f_number, 12.0, 85.0, *SIDES, 300, {"green": tuple(zones)}, {}, None, None, Spikes(0, 0.0), False)


def test_pictures_that_are_trailed_in_the_middle_say_nothing_of_the_lens():
    """Each alone is to be taken again; beside others it is passed over, and no stop is called bad for it."""
    trailed = judged(plain(2.8, 1.1, 4.0), plain(4.0, 1.1, 4.0))
    assert trailed.verdict.sentence.startswith("Take these pictures again: tracking failed") and trailed.broad is None
    assert "narrowest" not in trailed.verdict.sentence
    mixed = judged(plain(2.0, 1.6, 0.0), plain(2.8, 1.1, 0.0), plain(4.0, 1.1, 4.0))
    assert mixed.broad == 2.8 and "Take it again" in mixed.verdict.caution


def test_what_does_not_show_the_lens_is_said(tmp_path):
    with pytest.raises(InvalidInput, match="Expose longer, or look at a richer field"):
        shown(tmp_path, InventedLens(), 1.8, 12, stars=20)
    with pytest.raises(InvalidInput, match="expose shorter"):
        shown(tmp_path, InventedLens(), 1.8, 12, sky_e=80_000.0)
    seen = shown(tmp_path, InventedLens(), 1.8, 12)
    empty = tuple(None if zone == 0 else one for zone, one in enumerate(seen.zones["green"]))
    with pytest.raises(InvalidInput, match="too few stars in its upper left corner"):
        judged(replace(seen, zones={**seen.zones, "green": empty}))
