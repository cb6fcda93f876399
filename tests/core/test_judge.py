"""Laws of judging: runs of one frame, of bad ones alone, of frames nobody could name; what belongs together; what a jump is."""

from dataclasses import replace

import numpy as np
import pytest
from astropy.coordinates import AltAz, EarthLocation, SkyCoord
from astropy.time import Time
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.conftest import a_rig
from widedusk.core.frames.facts import FrameFacts, MeanStar, Profile, Streak, Zone
from widedusk.core.frames.pointing import Pointing
from widedusk.core.judge.account import judged_run, run_verdict
from widedusk.core.judge.course import LEARNED_SPREAD, USUAL_SPREAD, ExpectedWidth, Shot, around, course, looks_of
from widedusk.core.judge.limits import Limits
from widedusk.core.judge.motion import motion
from widedusk.core.judge.reading import Finding
from widedusk.core.judge.runs import Taken, clock_steps, runs_of
from widedusk.core.judge.teach import lessons, why_no_axis
from widedusk.core.judge.word import judge
from widedusk.core.sky.places import Observer

HIGH_MJD = 61_120.9  # LOOK stands high there, and the Moon is two days old and down
SITE = Observer(np.radians(-24.0), np.radians(16.0), 900.0)
ROUND = MeanStar(80, 1.2, 1.2, 0.0)
LOOK = Pointing(166.5, -40.0, 30.0, 10.0, 7.5, 5.0, False, 120)
GOOD = FrameFacts(
    "light", 400, 120, 0.05, 0.002, 0.01, ROUND, Profile(0.0, 1.9, 0.01), (Zone(ROUND, 5.0, 0.05),) * 15, 5.0, 0.01, 21.2, 0.05, "",
    LOOK, (),
)  # fmt: skip
BLACK = replace(
    GOOD, kind="dark", sources=0, matched=0, background=0.0, star=None, profile=None, zones=(Zone(None, None, 0.0),) * 15,
    zero_mag=None, zero_sigma=None, sky_mag=None, sky_sigma=None, pointing=None,
)  # fmt: skip
NAMELESS = replace(GOOD, matched=0, zones=(Zone(ROUND, None, 0.05),) * 15, zero_mag=None, zero_sigma=None, pointing=None)


USUAL = Limits()


def judged(facts, limits=USUAL, first_mjd=61_000.8, expected=None):
    shots = [Shot(f"{place}.jpg", first_mjd + place * 62 / 86400, 60.0, one) for place, one in enumerate(facts)]
    return judged_run(shots, SITE, limits, expected)


def words(told) -> list[str]:
    return [one.word for one in told.words]


@pytest.mark.parametrize("many", [1, 2, 3, 5])
def test_a_run_of_few_frames_is_judged_all_the_same(many):
    told = judged([GOOD] * many)
    assert words(told) == ["keep"] * many and told.causes == ()
    assert run_verdict(told, [""] * many).sentence == f"{many} of {many} frames are good."


def test_frames_that_nobody_could_name_are_kept_for_what_they_show():
    told = judged([NAMELESS] * 6)
    assert words(told) == ["keep"] * 6 and told.scale_arcsec_px is None
    fewer = judged([NAMELESS] * 8 + [replace(NAMELESS, sources=120)] * 2)
    assert words(fewer)[-2:] == ["cull"] * 2
    assert "120 stars where 400 are usual" in fewer.words[-1].reasons[0]


def test_a_run_that_is_bad_as_a_whole_is_not_its_own_measure():
    assert words(judged([BLACK] * 6)) == ["cull"] * 6
    rings = replace(GOOD, star=MeanStar(80, 9.0, 9.0, 0.0), profile=Profile(0.0, 0.8, 0.0), zones=GOOD.zones)
    told = judged([rings] * 6)
    assert told.causes[0].key == "out of focus" and words(told) == ["cull"] * 6
    assert "0 of 6" in run_verdict(told, [""] * 6).sentence
    long = replace(GOOD, star=MeanStar(80, 4.0, 1.2, 0.0))
    assert words(judged([long] * 6)) == ["cull"] * 6


def test_a_run_out_of_focus_from_its_first_frame_is_measured_by_what_the_rig_gives():
    """Stars of 5.3 px where this class of lens gives 2.5: twelve of twelve are alike, and none is good."""
    soft = MeanStar(80, (5.3 / 2.3548) ** 2, (5.3 / 2.3548) ** 2, 0.0)
    wide = replace(GOOD, star=soft, zones=(Zone(soft, 5.0, 0.05),) * 15)
    told = judged([wide] * 12, expected=ExpectedWidth(2.5, USUAL_SPREAD))
    assert words(told) == ["cull"] * 12 and told.causes[0].key == "out of focus"
    assert "as this rig’s are in focus" in told.words[0].reasons[1]
    # A lens that was measured as wide as that is as it should be, and one not known at all is measured by the run.
    assert words(judged([wide] * 12, expected=ExpectedWidth(5.0, LEARNED_SPREAD))) == ["keep"] * 12
    assert words(judged([wide] * 12)) == ["keep"] * 12


def test_a_width_in_pixels_says_nothing_of_files_of_another_size():
    """Of 6000 pixels a side and of 3000: neither is the measure of the other, and the smaller teaches no width of the sensor."""
    known = ExpectedWidth(1.3, LEARNED_SPREAD, 3000)
    assert known.holds_for(3000) and known.holds_for(2980) and known.holds_for(None) and not known.holds_for(6000)
    assert not ExpectedWidth(2.6, LEARNED_SPREAD, 6000).holds_for(3000)
    rig = a_rig(half_amplitude=11.0)
    (full,), (halved,) = (lessons(judged([GOOD] * 10), rig, None, side_px) for side_px in (6000, 3000))
    assert full.why_not == "" and "another size" in halved.why_not


def roofed(share: float, dark: float) -> FrameFacts:
    """From the left, so much of a frame behind a roof that is so much darker than the sky."""
    gone = [(place % 5 + 0.5) / 5 < share for place in range(15)]
    zones = tuple(Zone(None if one else ROUND, None if one else 5.0, 0.05 * (dark if one else 1.0)) for one in gone)
    noise = GOOD.noise * (np.sqrt(dark) if share > 0.5 else 1.0)
    return replace(GOOD, zones=zones, noise=float(noise), sources=int(400 * (1 - share)))


@pytest.mark.parametrize("first", [True, False])
def test_a_roof_in_the_picture_is_named_and_makes_no_frame_better(first):
    """Whether the field comes out from behind it or goes there. A dark roof has little noise, which is nobody's gain."""
    ways = [roofed(0.1 * min(place, 6), 0.02) for place in range(8)]
    frames = [*ways[::-1], *[GOOD] * 8] if first else [*[GOOD] * 8, *ways]
    told = judged(frames)
    (cause,) = told.causes
    assert cause.key == "obstructed" and len(cause.frames) >= 4
    worst = told.columns.worth[0 if first else -1]
    assert worst == pytest.approx(0.4, abs=0.05)  # the share of the sky that is left
    assert np.all(told.columns.worth <= 1.01)
    assert words(told)[0 if first else -1] == "less"


CAPPED = replace(
    GOOD, sources=300, matched=0, background=0.0008, noise=0.0009, star=MeanStar(280, 0.28, 0.27, 0.0),
    profile=Profile(0.0, 4.0, 0.0), zones=(Zone(MeanStar(19, 0.28, 0.27, 0.0), None, 0.0008),) * 15, zero_mag=None, zero_sigma=None,
    sky_mag=None, sky_sigma=None, pointing=None,
)  # fmt: skip


@pytest.mark.parametrize(("good", "capped"), [(8, 4), (4, 8), (1, 11)])
def test_a_frame_with_the_cap_on_is_culled_and_spoils_no_other(good, capped):
    """Three hundred hot pixels, one pixel wide, are no stars: they set no width for the good ones, however many such frames are."""
    told = judged([GOOD] * good + [CAPPED] * capped)
    assert words(told) == ["keep"] * good + ["cull"] * capped
    (cap,) = told.causes
    assert cap.key == "cap" and cap.frames == tuple(range(good, good + capped))
    assert words(judged([CAPPED] * 6)) == ["cull"] * 6


def test_a_cloud_over_all_of_the_picture_is_no_cap():
    """Nobody can name its stars either, and its sky is as bright as ever."""
    bank = replace(NAMELESS, sources=25, background=0.06, star=MeanStar(20, 1.3, 1.2, 0.0))
    assert "cap" not in {one.key for one in judged([GOOD] * 8 + [bank] * 4).causes}


def test_the_persons_word_stands_above_ours():
    told = judged([GOOD] * 5 + [BLACK])
    assert run_verdict(told, [""] * 6).sentence.startswith("5 of 6")
    assert run_verdict(told, [""] * 5 + ["keep"]).sentence.startswith("6 of 6")
    assert run_verdict(told, ["cull"] * 6).sentence.startswith("0 of 6")


@given(
    st.lists(
        st.sampled_from([GOOD, BLACK, NAMELESS, replace(GOOD, zero_mag=3.9), replace(GOOD, background=0.3)]),
        min_size=1,
        max_size=14,
    )
)
@settings(max_examples=60)
def test_whatever_comes_every_frame_has_a_word_a_weight_and_a_reason(facts):
    told = judged(facts)
    assert len(told.words) == len(facts)
    for one in told.words:
        assert (one.word == "cull") == (one.weight == 0.0) and np.isfinite(one.weight)
        assert (one.word == "keep") == (one.reasons == ())
        assert not any("nan" in words for words in one.reasons)
    for cause in told.causes:
        assert cause.frames and all(0 <= place < len(facts) for place in cause.frames) and 0 < cause.sure < 1
        assert "nan" not in cause.verdict.sentence and cause.verdict.figures


def test_stricter_limits_never_keep_more():
    facts = [replace(GOOD, star=MeanStar(80, 1.2 + 0.15 * place, 1.2, 0.0)) for place in range(12)]
    kept = [words(judged(facts, Limits(limit))).count("keep") for limit in (1.1, 1.2, 1.3, 1.5, 2.0)]
    assert kept == sorted(kept) and kept[0] < kept[-1]


def test_a_line_that_stays_is_none_of_the_skys():
    line = Streak("satellite", 0.1, 0.2, 0.9, 0.6, 900.0, 200.0)
    once = judged([GOOD] * 4 + [replace(GOOD, streaks=(line,))] + [GOOD] * 4)
    assert [(one.key, one.frames) for one in once.causes] == [("satellite", (4,))] and words(once) == ["keep"] * 9
    assert judged([replace(GOOD, streaks=(line,))] * 9).causes == ()


def test_what_acts_on_the_latest_frames_and_can_be_mended_says_what_to_do():
    wide = [replace(GOOD, star=MeanStar(80, 1.2 + 0.2 * place, 1.2 + 0.2 * place, 0.0)) for place in range(10)]
    creeping = judged([GOOD] * 4 + wide)
    assert creeping.causes[0].key == "focus crept" and "Focus again" in creeping.causes[0].now
    over = judged([GOOD] * 2 + [replace(GOOD, zero_mag=3.5)] * 3 + [GOOD] * 8)
    assert over.causes[0].key == "cloud" and over.causes[0].now == ""


def path_of(*parts) -> np.ndarray:
    return np.cumsum(np.concatenate(parts), axis=0)


@pytest.mark.parametrize("at", [4, 9, 14])
def test_a_jump_is_found_where_it_is_and_drift_goes_on_beside_it(at):
    rng = np.random.default_rng(at)
    steps = np.tile([0.05, -0.02], (20, 1)) + rng.normal(0, 0.03, (20, 2))
    steps[at] += [7.0, -4.0]
    told = motion(np.arange(21) * 62.0, np.full(21, 60.0), path_of([[0, 0]], steps))
    assert told is not None and told.jumps == (at + 1,)
    assert told.drift_px_s * 62.0 == pytest.approx([0.05, -0.02], abs=0.02)
    assert np.abs(np.diff(told.levelled, axis=0)).max() < 1.5


def taken(number: int, minutes: float, **more) -> Taken:
    given = {"exposure_s": 60.0, "iso": 800, "focal_mm": 180.0, "ra_deg": 166.5, "dec_deg": -40.0, "width_deg": 7.5}
    return Taken(number, more.pop("kind", "light"), 61_000.0 + minutes / 1440.0, **{**given, **more})


def test_runs_are_found_from_setting_field_and_pauses():
    frames = [taken(number, number) for number in range(5)]
    assert runs_of(frames[::-1]) == ((0, 1, 2, 3, 4),)  # in order of time, however they come
    others = [
        taken(10, 5, iso=1600), taken(11, 6, exposure_s=120.0), taken(12, 7, dec_deg=-30.0), taken(13, 60),
        taken(14, 8, kind="dark"), taken(15, 5.5, camera="another"), taken(16, float("nan")),
    ]  # fmt: skip
    found = runs_of(frames + others)
    assert found[0][:5] == (0, 1, 2, 3, 4)
    assert {10, 11, 12, 13, 15} == {run[0] for run in found[1:]} and not any(14 in run for run in found)
    # Two cameras on one card take turns.
    both = [taken(number, number, camera="AB"[number % 2]) for number in range(8)]
    assert runs_of(both) == ((0, 2, 4, 6), (1, 3, 5, 7))


def test_pictures_of_another_size_are_another_setting_and_turned_ones_are_not():
    """Five originals among three that were saved at half size: a star of the same sky has half as many pixels there."""
    sizes = [(6000, 4000), (4000, 6000), (3000, 2000)]
    frames = [taken(number, number, sides_px=sizes[0 if number < 4 else number - 3]) for number in range(6)]
    assert runs_of(frames) == ((0, 1, 2, 3, 4), (5,))


@pytest.mark.parametrize("hours", [1, -1])
def test_a_clock_that_is_put_to_another_hour_is_told_from_a_pause(hours):
    steady = [taken(number, number * 1.5) for number in range(12)]
    stepped = [*steady[:7], *(replace(one, began_mjd=one.began_mjd + hours / 24) for one in steady[7:])]
    assert clock_steps(stepped) == dict.fromkeys(range(7, 12), hours)
    assert clock_steps(steady) == {}
    paused = [*steady[:7], *(replace(one, began_mjd=one.began_mjd + 47 / 1440) for one in steady[7:])]
    other_field = [*steady[:7], *(replace(one, began_mjd=one.began_mjd + 1 / 24, dec_deg=10.0) for one in steady[7:])]
    assert clock_steps(paused) == {} and clock_steps(other_field) == {}


@given(st.permutations(range(9)))
@settings(max_examples=30)
def test_the_order_of_files_makes_no_other_runs(order):
    frames = [taken(number, number * (1 if number < 5 else 12), iso=800 if number % 3 else 400) for number in range(9)]
    assert sorted(map(sorted, runs_of([frames[one] for one in order]))) == sorted(map(sorted, runs_of(frames)))


def test_a_lesson_is_told_only_where_it_is_known_well_enough():
    rig = a_rig(half_amplitude=11.0)
    assert [one.key for one in lessons(judged([GOOD] * 3), rig, None)] == []
    width = lessons(judged([GOOD] * 8), rig, None)
    assert [one.key for one in width] == ["star width"]
    assert width[0].value == pytest.approx(2.355 * np.sqrt(1.2), abs=0.02)
    wander = 12.0 * np.sin(2 * np.pi * np.arange(30) * 62 / 500.0) / 3600.0 / np.cos(np.radians(40))
    moved = [replace(GOOD, pointing=replace(LOOK, ra_deg=166.5 + float(off) * 10)) for off in wander]
    told = lessons(judged(moved), rig, None)
    assert told[0].key == "periodic error" and told[0].differs
    assert told[0].second == pytest.approx(500, abs=5)


def test_a_lesson_is_offered_only_where_nothing_else_acts_on_its_frames():
    """A run that drifts out of focus teaches the width of its first frames; one spoiled as a whole says why it teaches nothing."""
    rig = a_rig(half_amplitude=11.0)
    wide = [MeanStar(80, 1.2 * one**2, 1.2 * one**2, 0.0) for one in np.linspace(1.0, 1.9, 10)]
    going = [GOOD] * 8 + [replace(GOOD, star=one, zones=(Zone(one, 5.0, 0.05),) * 15) for one in wide]
    told = judged(going)
    assert told.causes[0].key == "focus crept"
    (width,) = lessons(told, rig, None)
    assert width.value == pytest.approx(2.355 * np.sqrt(1.2), abs=0.02) and width.why_not == ""
    soft = MeanStar(80, 9.0, 9.0, 0.0)
    spoiled = judged(
        [replace(GOOD, star=soft, zones=(Zone(soft, 5.0, 0.05),) * 15)] * 12, expected=ExpectedWidth(2.5, LEARNED_SPREAD)
    )
    (width,) = lessons(spoiled, rig, None)
    assert "never in focus" in width.why_not
    # A picture that creeps tells nothing of axis and worm, however well a wave fits it.
    along = (np.arange(30) / 29.0) ** 2.6 * 60.0 * 10.0 / 3600.0
    trails = np.gradient(along * 360.0)
    moved = [
        replace(GOOD, star=MeanStar(80, 1.2, 1.2 + trail**2 / 12.0, 0.0), pointing=replace(LOOK, dec_deg=LOOK.dec_deg + float(off)))
        for off, trail in zip(along, trails, strict=True)
    ]
    creeping = judged(moved)
    assert creeping.causes[0].key == "creep" and "head slips" in why_no_axis(creeping)
    assert why_no_axis(judged([GOOD] * 8)) == ""


def test_the_sky_of_the_place_is_read_off_the_clear_frames():
    """A sky of 21.4 at the zenith, drawn after Krisciunas & Schaefer 1991 (eq. 2 and 3) under altitudes by astropy.

    It is seen against stars that the air dims by 0.2 mag an airmass; cloud brightens some frames.
    """
    rng, frames = np.random.default_rng(8), []
    where = EarthLocation.from_geodetic(16.0, -24.0, 900.0)
    star = SkyCoord(LOOK.ra_deg, LOOK.dec_deg, unit="deg")
    for number in range(20):
        middle = Time(HIGH_MJD + (number * 62 + 30) / 86400.0, format="mjd", scale="utc")
        zenith_distance = np.pi / 2 - star.transform_to(AltAz(obstime=middle, location=where)).alt.rad
        path = (1.0 - 0.96 * np.sin(zenith_distance) ** 2) ** -0.5
        seen = 21.4 - 2.5 * np.log10(path) + 0.2 * (path - 1.0) - 0.2 / np.cos(zenith_distance)
        cloudy = number in {6, 7, 8}
        frames.append(
            replace(
                GOOD,
                sky_mag=float(seen + rng.normal(0, 0.03) - 0.8 * cloudy),
                sky_sigma=0.06,
                zero_mag=GOOD.zero_mag - 1.0 * cloudy,
            )
        )
    zenith, sigma = judged(frames, first_mjd=HIGH_MJD).zenith_sky
    assert zenith == pytest.approx(21.4, abs=2 * sigma) and 0.05 < sigma < 0.1  # extinction in it
    rig = a_rig(half_amplitude=11.0)
    (sky,) = [one for one in lessons(judged(frames, first_mjd=HIGH_MJD), rig, 21.9) if one.key == "sky"]
    assert sky.differs and sky.value == round(zenith, 2)
    assert not next(one for one in lessons(judged(frames, first_mjd=HIGH_MJD), rig, 21.45) if one.key == "sky").differs


def test_a_frame_is_put_down_to_what_its_word_goes_by():
    """A worm at work in all of it, a cloud over three frames, a knock in one: the surest is not the reason for every frame."""
    long = replace(GOOD, star=MeanStar(80, 2.9, 1.2, 0.0))
    thin = 5.0 + 2.5 * np.log10(0.3)
    lost = replace(GOOD, star=None, profile=None, sources=40)
    dim = replace(GOOD, zero_mag=thin, zones=(Zone(ROUND, thin, 0.05),) * 15)
    shots = [
        Shot(f"{place}", 61_000.8 + place * 62 / 86400, 60.0, one)
        for place, one in enumerate([GOOD] * 6 + [long, dim, dim, long, dim, lost])
    ]
    run = course(shots, around(looks_of(shots), SITE))
    every = tuple(range(12))
    found = [Finding("worm", every, 0.97, ()), Finding("cloud", (6, 7, 8), 0.9, ()), Finding("knock", (9,), 0.8, ())]
    told = judge(run, found, USUAL)
    assert [one.cause for one in told[6:]] == [
        "worm",
        "cloud",
        "cloud",
        "knock",
        "",
        "worm",
    ]  # too few stars may be drawn out too far
    assert [one.word for one in told[6:]] == ["cull"] * 6 and told[0] == replace(told[1], cause="")
