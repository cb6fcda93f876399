"""The advice of the sub, and the card: laws that must hold for any rig, and what experienced people settle on."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.conftest import a_rig
from widedusk.core.choices import Choices
from widedusk.core.errors import InvalidInput
from widedusk.core.exposure.card import Calibration, Pauses, card
from widedusk.core.exposure.light import electrons_per_s
from widedusk.core.exposure.setting import aperture
from widedusk.core.exposure.sub import KEYABLE_S, Conditions, Keeps, advise, advise_at, limit_with_reserve
from widedusk.core.kit.parts import IsoStep
from widedusk.core.tracking.drift import worst_drift_arcsec_s
from widedusk.core.tracking.keep_rate import Motion

QUIET = IsoStep(1600, 3.0, 12_000)


def at(focal_mm: float, f_number: float, sky_mag: float = 21.5) -> Conditions:
    scale = 206.2648 * 6 / focal_mm
    motion = Motion(20 / scale, 500, float(worst_drift_arcsec_s(np.radians(4 / 60))) / scale)
    return Conditions(
        float(electrons_per_s(sky_mag, 6, f_number, 40)),
        (motion,),
        2.5,
        limit_with_reserve(1.3),
        2,
        0.9,
        0.05,
        0.2,
        spoil_free_s=3600,
    )


@pytest.mark.parametrize(
    ("focal_mm", "f_number", "seconds"),
    [
        (24, 2.8, (120, 180)),
        (50, 2.8, (120, 180)),
        (85, 2.8, (120, 120)),
        (135, 2.8, (90, 90)),
        (200, 4, (60, 60)),
        (400, 5.6, (30, 30)),
    ],
)
def test_advice_is_what_experienced_people_settle_on(focal_mm, f_number, seconds):
    """Common practice, no source."""
    assert seconds[0] <= advise_at(at(focal_mm, f_number), QUIET, "best").exposure_s <= seconds[1]
    table = tuple(IsoStep(*row) for row in ((200, 5.4, 60_000), (400, 4.2, 40_000), (800, 3.2, 22_000), (1600, 2.9, 11_000)))
    chosen = advise(at(focal_mm, f_number), replace(a_rig().camera, iso_steps=table), "best")
    assert chosen.step.iso in {800, 1600} and seconds[0] <= chosen.exposure_s <= seconds[1]


def test_what_spoils_a_frame_now_and_then_spoils_the_share_that_is_reckoned():
    """Against a night of events at random times, frame by frame."""
    dice = np.random.default_rng(3)
    for exposure_s in (30.0, 180.0, 600.0):
        frames = np.arange(200_000) * exposure_s
        events = np.cumsum(dice.exponential(3600.0, 40_000))
        spoilt = np.unique(np.searchsorted(frames, events[events < frames[-1]], side="right")).size
        reached = np.searchsorted(frames, min(events[-1], frames[-1]))
        assert 1.0 - spoilt / reached == pytest.approx(float(at(24, 2.8).unspoilt(exposure_s)), abs=0.004)


@given(st.floats(17.0, 22.0), st.floats(1.0, 8.0), st.sampled_from((24, 85, 200)), st.floats(2.0, 12.0))
def test_no_advice_breaks_a_limit_that_something_as_good_keeps(sky_mag, noise, focal_mm, star_e_s):
    """By looking through every length that can be keyed."""
    conditions, step = replace(at(focal_mm, 2.8, sky_mag), star_e_s=star_e_s), IsoStep(1600, noise, 12_000)
    keeps, advice = Keeps.under(conditions), advise_at(conditions, step, "best")

    def worth(t: float, tracked: float) -> float:
        kept = tracked * np.exp(-t / 3600.0) if conditions.background_e_s * t <= 0.2 * 12_000 or t == 1.0 else 0.0
        return kept * t / (t + 2) * conditions.background_e_s * t / (conditions.background_e_s * t + noise**2)

    def faults(t: float, tracked: float) -> int:
        adds = np.sqrt(1 + noise**2 / (conditions.background_e_s * t)) - 1
        return (adds > 0.05) + (tracked < 0.9) + ((star_e_s + conditions.background_e_s) * t > 12_000)

    ways = [(worth(t, k), faults(t, k), t) for t, k in zip(KEYABLE_S.tolist(), keeps.as_is.tolist(), strict=True)]
    best = max(way[0] for way in ways)
    mine = next(way for way in ways if way[2] == advice.exposure_s)
    assert mine[0] >= 0.99 * best * (1 - 1e-9)
    assert mine[1] == min(way[1] for way in ways if way[0] >= 0.99 * best)


def test_the_limit_that_binds_is_the_one_whose_removal_helps():
    assert advise_at(at(24, 2.8), QUIET, "best").binds == "chance"
    assert advise_at(replace(at(24, 2.8), spoil_free_s=np.inf), QUIET, "best").binds == "read noise"
    assert advise_at(at(400, 5.6), QUIET, "best").binds == "periodic"
    crooked = replace(at(135, 2.8), motions=(Motion(0.1, 500, 0.2),))
    assert advise_at(crooked, QUIET, "best").binds == "alignment"
    town = advise_at(at(24, 1.4, 17.5), IsoStep(1600, 3.0, 2_000), "best")
    assert town.binds == "ceiling" and town.background_share <= 0.2


def test_schools():
    conditions = at(135, 2.8)
    sky, tracks = advise_at(conditions, QUIET, "sky"), advise_at(conditions, QUIET, "tracks")
    assert sky.exposure_s >= sky.sky_limited_s > 0.6 * sky.exposure_s and sky.noise_share <= 0.05
    assert tracks.keep >= 0.9 and tracks.exposure_s == tracks.keeps_until_s
    assert advise_at(conditions, QUIET, "fixed", 45).exposure_s == 45
    with pytest.raises(InvalidInput, match="fixed_sub_s"):
        advise_at(conditions, QUIET, "fixed", None)


def test_iso_is_the_lowest_that_stays_sky_limited():
    rig = a_rig()
    advice = advise(at(35, 2.8), rig.camera, "fixed", 120)
    assert advice.step.iso == 800 and advice.iso_is_sky_limited  # 400 would need 9.8 * 5.2² / 1.54 = 172 s
    assert advise(at(35, 2.8), rig.camera, "fixed", 10).step.iso == 3200  # none is: the quietest
    with pytest.raises(InvalidInput, match="ISO 200 lies outside the table of body, which has 400, 800, 1600, 3200"):
        advise(at(35, 2.8), rig.camera, "best", iso=200)
    between = advise(at(35, 2.8), rig.camera, "best", iso=1131).step  # half-way between 800 and 1600 in stops
    low, high = rig.camera.step(800), rig.camera.step(1600)
    assert between.full_well_e == pytest.approx((low.full_well_e * high.full_well_e) ** 0.5, rel=1e-3)
    assert high.read_noise_e < between.read_noise_e < low.read_noise_e


@given(st.floats(0.5, 15), st.floats(0.5, 15), st.floats(17, 22), st.floats(17, 22))
def test_noise_and_sky_pull_the_right_way(noise_a, noise_b, sky_a, sky_b):
    def minimum(noise, sky):
        return advise_at(at(50, 2.8, sky), IsoStep(800, noise, 20_000), "sky").sky_limited_s

    assert minimum(max(noise_a, noise_b), sky_a) >= minimum(min(noise_a, noise_b), sky_a)
    assert minimum(noise_a, max(sky_a, sky_b)) >= minimum(noise_a, min(sky_a, sky_b))


@given(st.floats(0, 40_000), st.floats(0.1, 600), st.floats(0, 30), st.floats(0, 60), st.floats(0.5, 500))
def test_the_card_fills_the_window_and_no_more(window, exposure, gap, delay, card_gb):
    made = card(window, exposure, Pauses(gap), delay, 0.8, 30, card_gb, Calibration(10))
    assert made.total_s <= window + 1e-6 and made.kept_frames <= made.frames
    if made.limited_by == "window":
        assert delay + (made.frames + 1) * exposure + made.frames * gap > window - 1e-6
    assert made.frames == 0 or made.storage_gb <= card_gb + 1e-9
    assert made.interval_start_s == exposure + made.interval_gap_s


def test_card_by_hand():
    made = card(3600, 58, Pauses(2), 10, 0.9, 25, 64, Calibration(20))  # (3600 - 10 + 2) / 60 = 59.87
    assert (made.frames, made.total_s, made.kept_frames, made.storage_gb) == (59, 10 + 59 * 58 + 58 * 2, 53, 79 * 0.025)
    assert card(30, 58, Pauses(2), 10, 0.9, 25, 64, Calibration(20)).frames == 0


def test_impossible_apertures_and_choices_name_their_field():
    with pytest.raises(InvalidInput, match=r"f_number: 0.5 cannot be right; give a value from 0.7"):
        Choices(f_number=0.5)
    with pytest.raises(InvalidInput, match=r"f/1 is wider than lens opens; give f/1.4 or more"):
        aperture(a_rig(), Choices(f_number=1.0))
    with pytest.raises(InvalidInput) as caught:
        Choices(keep_percent=100, ceiling_percent=0, setup_time="25:00")
    assert [fault.field for fault in caught.value.faults] == ["keep_percent", "ceiling_percent", "setup_time"]
