"""Laws that must hold for any rig and sky: what more noise, light, wind, load, stopping down and filters may and may not do."""

from dataclasses import replace
from datetime import date

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.conftest import a_rig, a_spot
from widedusk.core.choices import Choices
from widedusk.core.errors import InvalidInput
from widedusk.core.exposure.alternatives import aperture_rows
from widedusk.core.exposure.card import Calibration, Pauses, card, card_text
from widedusk.core.exposure.light import clipping_magnitude, clipping_s, signal_to_noise, star0_e_s
from widedusk.core.exposure.many import Session, how_many
from widedusk.core.exposure.response import response
from widedusk.core.exposure.setting import Subject, conditions, expected_drifts, light_of, overload
from widedusk.core.exposure.sub import KEYABLE_S, Keeps, advise_at
from widedusk.core.exposure.window import AXIS_S, sub_window
from widedusk.core.kit.assembly import Assembly, Placed
from widedusk.core.kit.parts import BallHead, Band, Battery, Carried, Filter, Hub, Tripod
from widedusk.core.plan.exposing import Exposing, exposing
from widedusk.core.plan.outlook import outlook
from widedusk.core.plan.tonight import Tonight, tonight
from widedusk.core.pole.axis import AxisError
from widedusk.core.pole.need import need
from widedusk.core.scene import Target
from widedusk.core.tracking.wind import level_for
from widedusk.core.verdict import duration_words

NEBULA = Target("nebula", 83.8, -5.4, 1.0, 21.5, kind="emission nebula", light="lines")
GALAXY = Target("galaxy", 83.8, -5.4, 1.0, 22.0, kind="galaxy", light="continuum")
NIGHT = date(2026, 12, 8)
DUAL = Filter("dual", 30, bands=(Band(495, 505), Band(651, 661)))


def subject(sky_mag: float = 21.5, target: Target = GALAXY, choices: Choices | None = None, **rig: object) -> Subject:
    made = choices or Choices()
    return Subject(replace(a_rig(135.0), **rig), target, sky_mag, 1.3, made, expected_drifts(made.alignment_arcmin, -0.1))


def hours(one: Subject, f_number: float = 2.8) -> float:
    light = light_of(one, f_number)
    wanted = conditions(one, light)
    step = one.rig.camera.step(1600)
    advice = advise_at(wanted, step, "best")
    return light.hours_for(10.0, step, advice.exposure_s, 2.0, advice.keep)


@given(st.floats(17.0, 22.0), st.floats(17.0, 22.0))
def test_a_darker_sky_never_lengthens_the_hours(one, other):
    assert hours(subject(max(one, other))) <= hours(subject(min(one, other))) * 1.005  # subs are keyed in steps


@given(st.floats(1.4, 16.0), st.floats(1.4, 16.0), st.floats(1.0, 600.0))
def test_stopping_down_lets_fewer_stars_clip(one, other, t):
    def faintest(f_number: float) -> float:
        light = light_of(subject(), f_number)
        return float(
            clipping_magnitude(t, 20_000, light.background_e_s, 2.5, star0_e_s(np.pi / 4 * (13.5 / f_number) ** 2, 40.0, 1.2))
        )

    wide, narrow = faintest(min(one, other)), faintest(max(one, other))
    assert narrow <= wide


@given(st.floats(3.0, 12.0), st.floats(0.5, 20.0))
def test_the_star_that_just_clips_clips_at_that_length(magnitude, background):
    zero = star0_e_s(15.0, 40.0, 1.2)
    t = clipping_s(magnitude, 20_000, background, 2.5, zero)
    assert float(clipping_magnitude(t, 20_000, background, 2.5, zero)) == pytest.approx(magnitude, abs=1e-6)


def test_wind_load_and_guiding_pull_the_right_way():
    def advice(**choices: object):
        one = subject(choices=Choices(**choices))
        return advise_at(conditions(one, light_of(one, 2.8)), one.rig.camera.step(1600), "best")

    lengths = [advice(wind_level=level).exposure_s for level in ("none", "light", "fresh", "strong")]
    assert lengths == sorted(lengths, reverse=True) and advice(wind_level="strong").binds == "wind"
    assert advice(tracking="guided").exposure_s >= advice(tracking="guided in RA").exposure_s >= advice().exposure_s
    heavy = subject(carried=(Carried("weight", 2_000),))
    assert overload(heavy.rig) == pytest.approx((550 + 400 + 2_000) / 3_000 / 0.6)
    kept = [conditions(one, light_of(one, 2.8)).keep(AXIS_S) for one in (subject(), heavy)]
    assert np.all(kept[1] <= kept[0]) and np.any(kept[1] < kept[0])


def test_a_long_lens_that_holds_three_minutes_holds_one_in_wind():
    """Common practice, no source: the book value from which the level "fresh" is set."""
    steady = replace(a_rig().tracker, pe_half_amplitude_arcsec=3.0)
    one = subject(choices=Choices(wind_level="fresh", alignment_arcmin=0.1), tracker=steady)
    one = replace(one, rig=replace(one.rig, lens=replace(one.rig.lens, focal_mm=200.0)))
    wanted = conditions(one, light_of(one, 2.8))
    kept = AXIS_S[wanted.tracked(AXIS_S) >= 0.9]
    assert kept[-1] == pytest.approx(60.0, rel=0.1)
    assert advise_at(replace(wanted, gust_free_s=np.inf), one.rig.camera.step(1600), "tracks").exposure_s >= 180


def test_filters_cut_the_sky_and_pass_their_lines():
    stock = a_rig().camera
    modified = replace(stock, hydrogen_percent=95.0)
    bare = response(stock, (), GALAXY)
    assert (bare.sky, bare.target) == (1.0, 1.0)
    through = response(modified, (DUAL,), NEBULA)
    assert through.colour == "red" and through.sky == pytest.approx(0.9 * 10 / 110, rel=1e-6)
    assert through.target == pytest.approx(0.9 * 0.95)
    assert response(stock, (DUAL,), GALAXY).target == pytest.approx(response(stock, (DUAL,), GALAXY).sky)
    # A filter of lines pays under the Moon for a nebula, and never for a galaxy.
    moonlit = [hours(subject(18.5, NEBULA, camera=modified, filters=filters)) for filters in ((), (DUAL,))]
    assert moonlit[1] < 0.5 * moonlit[0]
    galaxy = [hours(subject(18.5, GALAXY, filters=filters)) for filters in ((), (DUAL,))]
    assert galaxy[1] > galaxy[0]
    assert hours(subject(21.0, NEBULA, filters=(Filter("blue", 30, bands=(Band(420, 450),)),))) == np.inf


def test_spans_say_where_each_limit_ends_and_the_reading_agrees():
    one = subject(20.5, choices=Choices(alignment_arcmin=20.0, wind_level="fresh"))
    light = light_of(one, 2.8)
    wanted = conditions(one, light)
    advice = advise_at(wanted, one.rig.camera.step(1600), "best")
    found = sub_window(one.rig, light, wanted, advice, advice.exposure_s, 8.0)
    spans = {span.key: span for span in found.spans}
    assert set(spans) == {"sky", "alignment", "periodic", "wind", "together", "chance", "ceiling", "clipping"}
    ends = [span.to_s for span in found.spans[1:]]
    assert ends == sorted(ends) and spans["together"].to_s <= min(spans[one].to_s for one in ("alignment", "periodic", "wind"))
    # What decides is only said of a limit that the sub reaches.
    longer = KEYABLE_S[advice.exposure_s < KEYABLE_S][0]
    assert all(span.to_s < longer for span in found.spans if span.binds and span.key != "sky")
    # At the end of the alignment's span a star is as long as is tolerated.
    at_end = sub_window(one.rig, light, wanted, advice, spans["alignment"].to_s, 8.0).reading
    assert at_end.elongation == pytest.approx(1.27, abs=1e-6)  # a tenth of what is tolerated in hand
    assert sub_window(one.rig, light, wanted, advice, spans["clipping"].to_s, 8.0).reading.clip_mag == pytest.approx(8.0, abs=1e-3)
    assert sub_window(one.rig, light, wanted, advice, spans["ceiling"].to_s, 8.0).reading.background_share == pytest.approx(0.2)
    assert found.curve.top_from_s <= advice.exposure_s * 1.08 and max(found.curve.useful) == 1.0
    for wrong in (0.0, 3 * 3600.0):
        with pytest.raises(InvalidInput, match="exposure_s"):
            sub_window(one.rig, light, wanted, advice, wrong, 8.0)


@pytest.mark.parametrize("focal_mm", [24.0, 85.0, 200.0])
@pytest.mark.parametrize("sky_mag", [19.5, 21.8])
def test_the_choice_of_a_length_is_explained_by_what_the_next_would_bring(focal_mm, sky_mag):
    """Against the lengths of the page, each read out on its own."""
    found = exposing(a_rig(focal_mm), replace(a_spot(-24.6), sky_mag=sky_mag), NIGHT, GALAXY, Choices())
    verdict = found.verdicts[0]
    stops = {stop.reading.exposure_s: stop.reading for stop in found.stops}
    after = min(length for length in KEYABLE_S if length > found.advised_s)
    gain = stops[after].useful / stops[found.advised_s].useful - 1.0
    said, length = verdict.advice, duration_words(after)
    if "gathers as much" in said:
        assert f"{length} is possible" in said and gain > -0.0101
    elif f"{length} gathers" in said:
        assert f"{-gain * 100:.0f} % less" in said
    elif "would stay sharp" in said:
        assert f"Only {stops[after].tracked * 100:.0f} % of frames would stay sharp in {length}" in said
    else:
        assert f"In {length} the sky would fill more than" in said and stops[after].background_share > 0.2
    # The sub stands among the limits, between those it passes and those it keeps within.
    names = [limit.name for limit in verdict.limits]
    values = [limit.quantity.value for limit in verdict.limits]
    place = names.index("The sub")
    assert all(value < found.advised_s for value in values[1:place] if value is not None)
    assert all(value >= found.advised_s for value in values[place + 1 :] if value is not None)


def test_aperture_prices_follow_the_light():
    one = subject()
    light = light_of(one, 2.8)
    rows = aperture_rows(one, 2.8, one.rig.camera.step(1600), Keeps.under(conditions(one, light)), 2.0)
    prices = [row.price.against for row in rows]
    assert prices == sorted(prices) and next(row for row in rows if row.chosen).f_number == 2.8
    assert rows[0].corners.startswith("soft") and rows[-1].corners.startswith("round")
    assert next(row for row in rows if row.f_number == 2.8).ring_mm == pytest.approx(135 / 2.8)


def test_earlier_nights_count_by_their_own_light():
    one = subject()
    light = light_of(one, 2.8)
    step = one.rig.camera.step(1600)

    def total(*sessions: Session):
        return how_many(one, light, step, 60.0, 2.0, 0.9, 100, (), sessions)

    alike = total(Session("a", 60, 60.0, 2.8)).gathered
    assert alike.weighted_hours == pytest.approx(1.0) and alike.equivalent_hours == pytest.approx(1.0)
    slow, bright = total(Session("a", 60, 60.0, 5.6)).gathered, total(Session("a", 60, 60.0, 2.8, None, 19.5)).gathered
    assert slow.equivalent_hours == pytest.approx(0.25) and slow.weighted_hours < 0.25  # read noise bites harder
    assert bright.equivalent_hours == pytest.approx(1.0) and bright.weighted_hours < 0.3
    glass = total(Session("a", 60, 60.0, 2.8, None, None, (DUAL,))).gathered
    assert glass.equivalent_hours == pytest.approx(1.0) and glass.weighted_hours < 0.2  # a galaxy through a filter of lines
    (night,) = total(Session("a", 60, 60.0, 5.6)).added
    frames, each, _, signal, background, noise, _, _, per_hour = (one.value for one in night.working.inputs)
    assert night.weighted_hours == pytest.approx(
        frames * (signal * each) ** 2 / ((signal + background) * each + noise**2) / per_hour
    )
    # Four pixels of half the pitch, added up, are one of tonight's with twice the read noise and four times the dark current.
    fine = replace(one.rig, camera=replace(one.rig.camera, pitch_um=one.rig.camera.pitch_um / 2))
    dark, rest = one.rig.camera.dark_e_s, background - one.rig.camera.dark_e_s
    signal, rest = signal * 4, rest * 4  # from f/5.6 to f/2.8
    summed = 60 * (signal * 60) ** 2 / ((signal + rest + 4 * dark) * 60 + 4 * step.read_noise_e**2) / per_hour
    assert total(Session("a", 60, 60.0, 2.8, rig=fine)).gathered.weighted_hours == pytest.approx(summed, rel=1e-6)
    both = total(Session("a", 60, 60.0, 2.8), Session("b", 180, 60.0, 2.8)).gathered
    assert both.snr == pytest.approx(2 * alike.snr)  # four times the frames
    stacks = {row.frames: row for row in total().stacks}
    assert stacks[64].snr == pytest.approx(2 * stacks[16].snr) and stacks[64].noise_share == pytest.approx(1 / stacks[64].snr)
    assert stacks[16].snr == pytest.approx(signal_to_noise(light.target_e_s, light.background_e_s, step.read_noise_e, 60.0, 16))
    fresh, begun = total(), total(Session("a", 60, 60.0, 2.8))
    assert begun.goal_frames < fresh.goal_frames
    # To shoot are those to keep over the keep rate: the goal is met with them, and not with one less.
    per_frame = (fresh.tonight_snr**2) / 100
    assert per_frame * fresh.goal_frames >= 100.0 > per_frame * (fresh.goal_frames - 1)
    for wrong, field in (({"frames": 0}, "frames"), ({"exposure_s": 0.0}, "exposure_s"), ({"sky_mag": 3.0}, "sky_mag")):
        with pytest.raises(InvalidInput, match=field):
            Session(**{"name": "a", "frames": 1, "exposure_s": 60.0, "f_number": 4.0, **wrong})


def test_both_kinds_of_timer_mirror_and_noise_reduction_by_hand():
    """60 s, gap 3 s, mirror 2 s, reduction on: pause 65 s. (3600 − 12 + 65) / 125 = 29.2 frames."""
    made = card(3600, 60, Pauses(3, 2, True), 10, 0.5, 25, 64, Calibration(20, 15, 30))
    assert (made.frames, made.interval_gap_s, made.interval_start_s) == (29, 65.0, 125.0)
    assert made.total_s == 12 + 29 * 60 + 28 * 65 and made.kept_frames == 14
    assert (made.shutter_count, made.storage_gb) == (94, pytest.approx(94 * 0.025)) and made.bulb
    gap, start = (card_text(made, kind, "Target", 800, 4.0, "21:00", "22:00") for kind in ("gap", "start to start"))
    assert "Interval  65 s (the pause after a frame)" in gap and "Interval  125 s (from start to start)" in start
    assert "ON, counted below" in gap and "look at the aperture again" in gap and "20 darks of 60 s, 15 flats, 30 bias" in gap
    patient = card(36_000, 60, Pauses(2), 0, 1.0, 25, 640, Calibration(), most_s=3600)
    assert (patient.frames, patient.limited_by) == (58, "patience")
    assert card(3600, 20, Pauses(2), 0, 1.0, 25, 64, Calibration()).bulb is False


def test_a_night_worked_out_whole_in_every_mode():
    rig, spot = a_rig(135.0), a_spot(-24.6)
    for tracking in ("tracked", "guided in RA", "guided", "untracked"):
        found = exposing(rig, spot, NIGHT, NEBULA, Choices(tracking=tracking), owned=(DUAL,))
        exposure = found.verdicts[0]
        keys = {one.key for one in exposure.workings}
        assert {span.working for span in found.window.spans} <= keys and {"histogram", "filter", "snr"} <= keys
        assert found.stops[found.at].reading.exposure_s == found.advised_s
        assert [row.name for row in found.filters if row.whose == "yours"] == ["No filter", "dual"]
    assert "can be guided not at all" in exposing(rig, spot, NIGHT, NEBULA, Choices(tracking="guided")).verdicts[0].advice
    assert found.advised_s < 3 and exposure.binding.startswith("the sky passing by")
    measured = exposing(rig, spot, NIGHT, NEBULA, Choices(), AxisError(1.0, 0.5, 0.1, 0.1))
    assert "as measured tonight, 1.1′ off" in measured.axis
    town = exposing(rig, replace(spot, sky_mag=14.5), NIGHT, GALAXY, Choices(f_number=1.4, iso=3200, ceiling_percent=1))
    assert town.verdicts[0].level == "stop" and "The sky alone fills its 1 %" in town.verdicts[0].advice
    short = exposing(rig, spot, NIGHT, NEBULA, Choices(sub_school="fixed", fixed_sub_s=900.0, most_hours=0.1))
    assert short.card.frames == 0 and "no time for a single frame" in short.verdicts[1].sentence


@pytest.mark.parametrize("school", ["pixel", "detailed", "500"])
def test_a_camera_that_stands_still_goes_by_its_school(school):
    """135 mm on full frame, 6 µm, wide open at f/1.4, 5.4° from the equator; each rule by hand, to a tenth downwards."""
    found = exposing(a_rig(135.0), a_spot(-24.6), NIGHT, GALAXY, Choices(tracking="untracked", untracked_school=school))
    by_hand = {
        "pixel": 3.0558 * 9.1673 / (15.0411 * np.cos(np.radians(5.4))),
        "detailed": (16.856 * 1.4 + 0.0997 * 135 + 13.713 * 6) / (135 * np.cos(np.radians(5.4))),
        "500": 500 / 135,
    }[school]
    assert found.advised_s == pytest.approx(np.floor(by_hand * 10) / 10, abs=0.101)
    assert found.verdicts[0].binding.startswith("the sky passing by")
    habit = exposing(a_rig(135.0), a_spot(-24.6), NIGHT, GALAXY, Choices(tracking="untracked", sub_school="fixed", fixed_sub_s=8.0))
    assert habit.advised_s == 8.0 and habit.stops[habit.at].reading.keep == 0.0


@pytest.mark.parametrize("dec_deg", [0.0, -52.0, 70.0])
def test_without_a_tracker_each_rule_is_told_with_the_trail_a_drawn_star_shows(dec_deg):
    """Truth: a Gaussian star drawn at a thousand moments of the sub on a fine grid, its axes from second moments."""
    rig, target = replace(a_rig(85.0), tracker=None), Target("a field", 80.0, dec_deg, 1.0, 22.0)
    found = exposing(rig, a_spot(np.sign(dec_deg) * 40.0), NIGHT, target, Choices(tracking="guided"))
    assert found.tracking == "untracked" and [row.key for row in found.schools] == ["pixel", "detailed", "500"]
    assert [row.chosen for row in found.schools] == [True, False, False]
    for row in found.schools:
        trail_px = 15.041 * np.cos(np.radians(dec_deg)) * row.exposure_s / (206_264.8 * 0.006 / 85.0)
        along = np.linspace(-trail_px / 2.0, trail_px / 2.0, 1001)
        x = np.arange(-trail_px / 2.0 - 12.0, trail_px / 2.0 + 12.0, 0.05)
        sigma = rig.star_fwhm_px / 2.35482
        drawn = np.exp(-((x[:, None] - along) ** 2) / (2.0 * sigma**2)).sum(axis=1)
        assert row.elongation == pytest.approx(np.sqrt((drawn * x**2).sum() / drawn.sum()) / sigma, rel=2e-3)
        assert row.keep > 0.99  # whoever goes by a rule takes its trail
    strict = found.schools[0]
    assert strict.elongation <= 1.3 and (dec_deg == 70.0) == (found.schools[2].elongation < 1.3)


def test_a_night_without_a_tracker_is_whole():
    """No axis, no payload of a tracker; a rule with a longer trail than is allowed is told as such, not as frames that are lost."""
    still = Assembly(
        "still",
        (
            Placed(a_rig().camera),
            Placed(replace(a_rig().lens, focal_mm=135.0)),
            Placed(BallHead("head", 300, 2500), 30.0),
            Placed(Tripod("legs", 1500), carried=False),
        ),
    )
    rig, spot = still.rig(), a_spot(-24.6)
    found = tonight(rig, spot, NIGHT, GALAXY, Choices(card_gb=512), assembly=still)
    payload, _, pole, exposure, card = found.verdicts
    assert payload.level == "go" and payload.sentence == "950 g on head, which carries 2.50 kg."
    assert pole.level == "go" and "no axis to align" in pole.sentence and found.dial is None and not pole.figures
    assert exposure.binding.startswith("the sky passing by") and card.level == "go" and found.card.frames > 1000
    assert [cue.name for cue in found.cues if cue.key == "setup"] == ["Set up"]
    long = tonight(rig, spot, NIGHT, GALAXY, Choices(untracked_school="500")).verdicts[3]
    assert long.level == "care" and "times as long as wide" in long.advice and "axis" not in long.advice
    seen = outlook(rig, spot, NIGHT, GALAXY, Choices(untracked_school="500"))
    assert seen.advice.tracked == 1.0 and seen.tolerance.binds == "nothing"
    assert need(seen.subject, seen.tolerance, seen.advice.exposure_s, spot).verdict.level == "go"
    heavy = tonight(replace(rig, head=BallHead("small head", 200, 900)), spot, NIGHT, GALAXY, Choices()).verdicts[0]
    assert heavy.level == "stop" and "do not use it" in heavy.sentence


def test_more_iso_past_the_flat_of_its_noise_only_costs_range():
    found = exposing(a_rig(50.0), a_spot(-24.6), NIGHT, GALAXY, Choices(iso=1131))
    rows = {row.iso: row for row in found.isos}
    assert list(rows) == [400, 800, 1131, 1600, 3200] and rows[1131].between and rows[1131].chosen
    assert [row.iso for row in found.isos if row.invariant] == [3200]
    hours = [row.price.hours for row in found.isos]
    assert hours == sorted(hours, reverse=True)  # less read noise is never slower at one length
    magnitudes = [row.clip_mag for row in found.isos]
    assert magnitudes == sorted(magnitudes)  # and more stars clip
    assert rows[3200].range_stops < rows[1600].range_stops < rows[800].range_stops


def fed(watt_hours: float, hub_amps: float = 5.0) -> Assembly:
    """A camera of 3.6 W on a cell through a hub."""
    camera = replace(a_rig().camera, volts=7.2, amps=0.5)
    return Assembly(
        "rig",
        (
            Placed(camera, fed_by="hub"),
            Placed(a_rig().lens),
            Placed(a_rig().tracker, carried=False),
            Placed(Hub("hub", 50, None, hub_amps), carried=False, fed_by="cell"),
            Placed(Battery("cell", 60, watt_hours, volts=7.2), carried=False),
        ),
    )


def test_frames_end_where_the_power_does_on_every_page_alike():
    def seen(rig: Assembly) -> tuple[Exposing, Tonight]:
        asked = (rig.rig(), a_spot(-24.6), NIGHT, GALAXY, Choices(most_hours=4.0))
        return exposing(*asked, assembly=rig), tonight(*asked, assembly=rig)

    weak, whole = seen(fed(8.0))
    limits = {one.name: one.frames for one in weak.many.limits}
    assert 0 < limits["battery"] < limits["window"]
    assert weak.card.frames == whole.card.frames == limits["battery"] and weak.card.limited_by == "power"
    # By hand: set-up 45 min before dark, the cell gives 80 % of its energy or less in the cold (core/kit/power.py), camera alone.
    lasts_h = 8.0 / 3.6
    assert whole.card.total_s < lasts_h * 3600.0
    assert {one.topic: one.level for one in whole.also}["Power"] == "stop"
    card = next(one for one in whole.verdicts if one.topic == "Card")
    assert card.level == "care" and card.binding == "the power" and "The power ends before the window closes" in card.advice
    strong, calm = seen(fed(80.0))
    assert {one.name for one in strong.many.limits} == {"window", "memory card", "patience"}
    assert strong.card.limited_by != "power" and not any(one.topic == "Power" for one in calm.also)
    # A hub that carries more than it may shuts down, however full the cell: no frame, and nothing green beside it.
    dead, dark = seen(fed(80.0, hub_amps=0.2))
    assert dead.card.frames == dark.card.frames == 0
    assert next(one for one in dark.verdicts if one.topic == "Card").level == "stop"
    assert "shut down" in next(one for one in dark.also if one.topic == "Power").sentence


def test_wind_speeds_suggest_a_level_that_never_falls():
    levels = [level_for(speed) for speed in np.linspace(0, 20, 81)]
    order = ["none", "light", "fresh", "strong"]
    assert [order.index(one) for one in levels] == sorted(order.index(one) for one in levels) and set(levels) == set(order)
    windy = exposing(a_rig(50.0), a_spot(-24.6), NIGHT, GALAXY, Choices(wind_m_s=7.0))
    assert windy.wind == "wind of 7 m/s expected suggests “fresh”, none is set"
    assert exposing(a_rig(50.0), a_spot(-24.6), NIGHT, GALAXY, Choices()).wind == ""


def test_a_filter_that_passes_nothing_is_told_and_stops_the_plan():
    blue = Filter("blue", 30, bands=(Band(420, 450),))
    found = exposing(a_rig(50.0), a_spot(-24.6), NIGHT, NEBULA, Choices(), owned=(blue, DUAL))
    words = {row.name: row.words for row in found.filters}
    assert words["blue"] == "passes nothing of this target" and words["dual"].startswith("pays: saves")
    shut = exposing(replace(a_rig(50.0), filters=(blue,)), a_spot(-24.6), NIGHT, NEBULA, Choices(), owned=(blue, DUAL))
    assert shut.verdicts[0].level == "stop" and "The filter passes nothing of this target." in shut.verdicts[0].advice
    assert shut.many.goal_frames is None and shut.many.enough_hours is None and shut.stops[shut.at].hours is None
    assert next(row for row in shut.filters if row.chosen).name == "blue"
    # A filter that is on the rig and not in the inventory still stands among the rows.
    borrowed = exposing(replace(a_rig(50.0), filters=(DUAL,)), a_spot(-24.6), NIGHT, NEBULA, Choices())
    assert [(row.name, row.whose) for row in borrowed.filters] == [
        ("No filter", "yours"),
        ("dual", "on the rig"),
        ("An Hα filter of 7 nm", "not yours"),
    ]
    # Who owns none sees whether one would pay, and cannot choose it.
    without = exposing(a_rig(50.0), replace(a_spot(-24.6), sky_mag=18.0), NIGHT, NEBULA, Choices())
    usual = [row for row in without.filters if row.whose == "not yours"]
    assert len(usual) == 2 and all(row.words.startswith("pays: saves") and not row.chosen for row in usual)


def test_every_price_opens_its_own_working():
    """The hours of a row by hand from the figures of its working: n (t + pause) / keep, n = (goal / SNR)²."""
    found = exposing(a_rig(50.0), a_spot(-24.6), NIGHT, GALAXY, Choices(), owned=(DUAL,))
    prices = [row.price for table in (found.schools, found.apertures, found.isos, found.filters) for row in table]
    for price in (one for one in prices if one.hours is not None):
        goal, _, signal, background, noise, t, pause, kept = (one.value for one in price.working.inputs)
        frames = goal**2 * ((signal + background) * t + noise**2) / (signal * t) ** 2
        assert price.hours == pytest.approx(frames * (t + pause) / (kept / 100) / 3600, rel=1e-6)
    assert len({one.working.result.value for one in prices}) > 12
    # On a galaxy the same glass costs hours, and says how many.
    galaxy = exposing(a_rig(50.0), a_spot(-24.6), NIGHT, GALAXY, Choices(), owned=(DUAL,))
    assert next(row for row in galaxy.filters if row.name == "dual").words.startswith("costs ")


def test_without_a_window_all_is_told_for_the_zenith_and_stars_are_dimmed_by_the_air_they_shine_through():
    never_up = Target("too far north", 83.8, 80.0, 1.0, 22.0)
    seen = outlook(a_rig(135.0), a_spot(-24.6), NIGHT, never_up, Choices())
    assert seen.run is None and seen.subject.mean_airmass == 1.0
    # A star lower by one airmass comes out brighter in the list by what the air took: 0.2 mag.
    high, low = (light_of(replace(subject(), mean_airmass=airmass), 2.8) for airmass in (1.0, 2.0))
    clip = [float(clipping_magnitude(60.0, 20_000, high.background_e_s, 2.5, one.star0_e_s)) for one in (high, low)]
    assert clip[0] - clip[1] == pytest.approx(0.2)


@pytest.mark.parametrize("focal_mm", [14.0, 50.0, 135.0])
def test_the_pixel_rule_advises_what_the_keep_rate_keeps(focal_mm):
    seen = outlook(a_rig(focal_mm), a_spot(-24.6), NIGHT, GALAXY, Choices(tracking="untracked"))
    assert seen.advice.tracked == 1.0 and seen.wanted.tracked(seen.advice.exposure_s * 1.1) == 0.0


def test_a_guider_on_the_rig_is_told_by_what_it_would_bring():
    """Only where it waits unused and the tracker can be guided; then the longer sub that guiding advises by itself."""
    spot, rig = a_spot(-24.6), a_rig(135.0, half_amplitude=40.0)
    able = replace(rig, guider="mini guide scope", tracker=replace(rig.tracker, guide_axes="both axes"))
    said = exposing(able, spot, NIGHT, NEBULA, Choices()).verdicts[0].advice
    alone, guided = (exposing(able, spot, NIGHT, NEBULA, Choices(tracking=way)).advised_s for way in ("tracked", "guided"))
    assert guided > alone and f"could guide: then {duration_words(guided)} keep" in said
    for other, choices in ((rig, Choices()), (able, Choices(tracking="guided")), (replace(able, tracker=rig.tracker), Choices())):
        assert "could guide" not in exposing(other, spot, NIGHT, NEBULA, choices).verdicts[0].advice


def test_what_is_advised_for_read_noise_stands_in_the_shade():
    """Where read noise alone decides, the advice lies between the ends of the flat top, to a step of the axis."""
    held = 0
    for focal_mm in (14.0, 24.0, 35.0, 50.0):
        for sky_mag in (20.0, 21.0, 21.8):
            spot = replace(a_spot(-24.6), sky_mag=sky_mag)
            found = exposing(a_rig(focal_mm, half_amplitude=2.0), spot, NIGHT, GALAXY, Choices(ceiling_percent=60, spoils_per_h=0))
            curve = found.window.curve
            assert max(curve.useful) <= 1.0
            if found.verdicts[0].binding.startswith("read noise"):
                held += 1
                assert curve.top_from_s / 1.08 <= found.advised_s <= curve.top_to_s * 1.08
    assert held >= 3


def test_without_a_tracker_stops_and_filters_are_told_with_the_sub_the_trail_allows():
    """The chosen stop and filter say what the page says; a rule that knows the f-number gives each stop its own."""
    rig = replace(a_rig(24.0), tracker=None)
    for school in ("pixel", "detailed", "500"):
        found = exposing(rig, a_spot(-24.6), NIGHT, GALAXY, Choices(untracked_school=school))
        assert [row.exposure_s for row in (*found.apertures, *found.filters) if row.chosen] == [found.advised_s] * 2
        assert (len({row.exposure_s for row in found.apertures}) > 1) == (school == "detailed")
