"""The Bench's arithmetic against worked examples, and what must hold whatever is on it."""

from collections import Counter
from dataclasses import replace
from datetime import date

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from tests.conftest import a_spot
from widedusk.core.choices import Choices
from widedusk.core.errors import InvalidInput
from widedusk.core.kit.assembly import Assembly, Placed, usual_place
from widedusk.core.kit.balance import balance, balance_verdict, lifting_words, residual_g_mm
from widedusk.core.kit.complete import lacks
from widedusk.core.kit.parts import (
    Adapter,
    BallHead,
    Battery,
    Bracket,
    Camera,
    Counterweight,
    Filter,
    Guider,
    Heater,
    Hub,
    Lens,
    Other,
    Plate,
    Shaft,
    StepDownRing,
    Timer,
    Tracker,
    Tripod,
    Wedge,
)
from widedusk.core.kit.payload import payload_verdict
from widedusk.core.kit.power import lanes, lasts_min, ports, usable_wh
from widedusk.core.kit.units import GRAMS_PER_POUND, Units
from widedusk.core.plan import bench
from widedusk.core.plan.bench import Scene, work_out
from widedusk.core.plan.compare import compare, with_lens
from widedusk.core.plan.packing import packing
from widedusk.core.plan.power import power_and_dew
from widedusk.core.scene import Target

CAMERA = Camera("body", 600, 36, 24, 6.0, volts=7.2, amps=0.25)
LENS = Lens("long lens", 900, 200, 2.8, 4)
TRACKER = Tracker("tracker", 1100, 3000, latitude_base=True, volts=6, amps=0.1)
SHAFT = Shaft("shaft", 200, 200)
WEIGHT = Counterweight("weight", 1000, thickness_mm=20)
STILL = Scene(a_spot(-24.0), date(2026, 12, 8), Target("cloud", 166.5, -77.2, 9, 22.6))


def a_bench(*more: Placed, weight_at: float = -100.0, weight: Counterweight = WEIGHT) -> Assembly:
    """Camera and lens 100 mm out, a 200 mm shaft from 50 to 250 mm, one weight."""
    return Assembly(
        "bench",
        (
            Placed(CAMERA, 100, -50),
            Placed(LENS, 100, 40),
            Placed(Bracket("bracket", 300), 0),
            Placed(SHAFT, -150),
            Placed(weight, weight_at),
            Placed(TRACKER, carried=False),
            *more,
        ),
    )


def verdict(assembly: Assembly, topic: str, choices: Choices | None = None, scene: Scene | None = STILL):
    return next(one for one in work_out(assembly, scene, choices or Choices()).verdicts if one.topic == topic)


def test_the_weight_goes_where_moments_worked_by_hand_cancel():
    # Camera side (600 + 900) g x 100 mm = 150 000 g mm; the shaft gives 200 g x 150 mm = 30 000 g mm;
    # the weight makes up 120 000 g mm: 1000 g at 120 mm.
    found = balance(a_bench())
    assert (found.camera_side_g_mm, found.weight_side_g_mm) == (150_000, 130_000)
    assert found.solved_mm == pytest.approx(-120) and found.fits
    assert found.centre_mm == pytest.approx(20_000 / 3000)
    assert found.declination_g_mm == 600 * -50 + 900 * 40
    # A guide scope of 1 lb hung on the weight side at 200 mm takes 90.7 mm off: 120 - 0.45359237 x 200.
    helped = balance(a_bench(Placed(Guider("guide scope", GRAMS_PER_POUND), -200)))
    assert helped.solved_mm == pytest.approx(-(120 - 90.718474))
    # With 300 g cm of residual, camera to the east: the weight comes in by 3 mm, to the west it goes out by 3 mm.
    assert balance(a_bench(), residual_g_mm("camera east", 300)).solved_mm == pytest.approx(-117)
    assert balance(a_bench(), residual_g_mm("camera west", 300)).solved_mm == pytest.approx(-123)


def test_off_the_shaft_it_says_what_to_add():
    light = a_bench(weight=replace(WEIGHT, mass_g=400))
    # 400 g would need 300 mm; the shaft holds its middle up to 240 mm. Short by 120 000 - 96 000 g mm: 100 g at 240 mm.
    found, said = balance(light), balance_verdict(light, -24.0)
    assert found.solved_mm == pytest.approx(-300) and not found.fits
    assert "Add 100 g at its end, or take a shaft 60 mm longer." in said.advice and said.level == "care"
    heavy = balance_verdict(a_bench(weight=replace(WEIGHT, mass_g=4000)), -24.0)
    # At the root, 60 mm, 120 000 g mm are held by 2000 g.
    assert "too heavy even at the root; take one of 2.00 kg or less" in heavy.advice and heavy.level == "stop"


@given(
    masses=st.lists(st.floats(1, 5_000), min_size=1, max_size=12),
    arms=st.lists(st.floats(-500, 500), min_size=12, max_size=12),
    weight=st.floats(50, 5_000),
    wanted=st.floats(-50_000, 50_000),
)
def test_at_the_solved_place_the_moments_always_cancel(masses, arms, weight, wanted):
    placed = [Placed(Other(f"part {place}", mass), arm) for place, (mass, arm) in enumerate(zip(masses, arms, strict=False))]
    movable = Placed(Counterweight("weight", weight), -100)
    solved = balance(Assembly("any", (*placed, movable)), wanted).solved_mm
    assume(solved is not None and abs(solved) <= 1_500)
    there = balance(Assembly("any", (*placed, replace(movable, arm_mm=solved))), wanted)
    assert there.torque_g_mm == pytest.approx(wanted, abs=1e-6 * (sum(masses) + weight) * 500)
    assert abs(there.off_g_mm) < 1


def test_the_residual_is_explained_for_both_hemispheres():
    north, south = lifting_words("camera east", 50), lifting_words("camera east", -50)
    assert "Facing the north pole, east is to your right" in north and "Facing the south pole, east is to your left" in south
    assert "camera side is left a little heavier" in north and "weight side" in lifting_words("camera west", 50)


def test_nine_pounds_on_eleven_are_strained_and_a_part_on_the_weight_side_counts_with_the_weights():
    # Handbook: 9 lb on an 11 lb tracker is 82 %, strained; common practice, no source.
    scope = Guider("guide scope", GRAMS_PER_POUND)
    tracker = replace(TRACKER, rating_g=11 * GRAMS_PER_POUND)
    rest = Other("the rest", 8 * GRAMS_PER_POUND - CAMERA.mass_g - LENS.mass_g)

    def loaded(arm: float) -> Assembly:
        return Assembly("x", (Placed(CAMERA), Placed(LENS), Placed(rest), Placed(scope, arm), Placed(tracker, carried=False)))

    said = payload_verdict(loaded(60).rig(), units=Units("lb"))
    assert said.level == "care" and "9 lb is 82 % of the rating: strained" in said.sentence
    assert "Taking off the rest" in said.advice and "weight side" in said.advice
    assert "8 lb is 73 %" in payload_verdict(loaded(-150).rig(), units=Units("lb")).sentence
    assert payload_verdict(loaded(60).rig(), "full").level == "go"


@pytest.mark.parametrize(
    ("focal", "school", "level"),
    [
        (50, "bracket from 100", "go"),
        (150, "bracket from 100", "care"),
        (150, "ball head to 200", "go"),
        (250, "ball head to 200", "stop"),
    ],
)
def test_ball_head_by_school_and_length(focal, school, level):  # handbook 2.3: common practice, no source
    parts = (Placed(CAMERA, 55), Placed(replace(LENS, focal_mm=focal, collar=True), 55), Placed(BallHead("head", 300), 30))
    choices = Choices(support_school=school)
    tracked = Assembly("x", (*parts, Placed(TRACKER, carried=False)))
    assert verdict(tracked, "Mounting", choices, None).level == level
    assert verdict(tracked, "Balance", choices, None).level != "stop"
    assert verdict(Assembly("x", parts), "Mounting", choices, None).level == "go"  # on a tripod no drive suffers from it


def test_optics_of_the_handbook_with_ring_iris_and_school():
    bench = a_bench()
    said = verdict(bench, "Optics")
    assert said.sentence.startswith("6.19″ a pixel") and "f/4" in said.sentence  # 206.265 x 6 / 200
    ring = a_bench(Placed(StepDownRing("ring", 20, 49), 100))
    # 200 / 49 = 4.08; against f/2.8 that is 2 log2(4.08 / 2.8) = 1.09 stops.
    ringed = verdict(ring, "Optics", Choices(aperture_school="ring"))
    figures = {one.name: one for one in ringed.figures}
    assert figures["Aperture"].text == "f/4.08" and figures["Against wide open"].value == pytest.approx(-1.087, abs=0.001)
    assert "no iris spikes" in ringed.binding and ringed.level == "go"
    assert verdict(bench, "Optics", Choices(aperture_school="wide")).level == "care"
    wanting = verdict(bench, "Optics", Choices(aperture_school="ring"))
    assert "one of 50 mm clear diameter would make f/4 round" in wanting.advice
    wide = with_lens(ring, Lens("wide", 500, 35, 0.7, 2))
    assert "darkens the corners" in verdict(wide, "Optics").advice


@pytest.mark.parametrize(
    ("lens_mm", "body_mm", "adapter_mm", "glass", "level", "words"),
    [
        # 44 + 2 x 0.52 / 1.52 = 44.684 mm are needed behind a 2 mm filter.
        (44.0, 18.0, 26.0, 2.0, "care", "0.68 mm too little"),
        (44.0, 18.0, 26.684, 2.0, "go", "is what this lens needs"),
        (44.0, 18.0, 27.0, 0.0, "stop", "1.00 mm too much"),
        (18.0, 44.0, 1.0, 0.0, "stop", "infinity is out of reach"),
    ],
)
def test_back_focus_counts_the_glass(lens_mm, body_mm, adapter_mm, glass, level, words):
    parts = [
        Placed(replace(CAMERA, flange_mm=body_mm)),
        Placed(replace(LENS, flange_mm=lens_mm)),
        Placed(Adapter("adapter", 90, adapter_mm)),
    ]
    if glass:
        parts.append(Placed(Filter("filter", 30, glass, 1.52, sits="behind the lens")))
    said = verdict(Assembly("x", tuple(parts)), "Back focus", scene=None)
    assert said.level == level and words in said.sentence
    assert ("cannot be mended with a spacer" in said.advice) == (body_mm > lens_mm)


def test_power_of_a_night_worked_by_hand():
    # 40 Wh lithium at 20 °C gives 40 x 0.85 = 34 Wh; 4 W empty it after 8.5 h. At -10 °C it gives 0.7 of that: 5.95 h.
    bank = Battery("bank", 200, 40, volts=5)
    assert float(usable_wh(bank, 20.0)) == pytest.approx(34) and float(usable_wh(bank, -10.0)) == pytest.approx(23.8)
    assert lasts_min(bank, 4.0, np.full(601, 20.0)) == 510
    assert lasts_min(bank, 4.0, np.full(601, -10.0)) == 357
    assert lasts_min(bank, 4.0, np.full(301, -10.0)) is None
    # A heater of 8 W at half duty is those 4 W; the spare takes over at 510 and lasts the ten hours.
    heater = Heater("strap", 60, 5, 8, 50)
    spare = replace(bank, name="spare")
    rig = Assembly("x", (Placed(heater, fed_by="bank"), Placed(bank, carried=False), Placed(spare, carried=False)))
    (lane,) = lanes(rig, np.full(601, 20.0))
    assert [(use.battery, use.first, use.last) for use in lane.uses] == [("bank", 0, 510), ("spare", 510, 600)]
    alone = Assembly("x", rig.placed[:2])
    (lane,) = lanes(alone, np.full(601, 20.0))
    assert lane.lasts_min == 510 and len(lane.uses) == 1


def test_a_cooled_camera_on_a_shared_outlet_trips_it():
    cooled = replace(CAMERA, volts=12, amps=2.9)
    rig = Assembly(
        "x",
        (
            Placed(cooled, fed_by="hub"),
            Placed(Heater("strap", 60, 12, 6), fed_by="hub"),
            Placed(Hub("hub", 100, None, 3.0), carried=False, fed_by="field"),
            Placed(Battery("field", 3000, 1500, "lead-acid", 12), carried=False),
        ),
    )
    assert ports(rig)[0].amps == pytest.approx(2.9 + 0.5)
    said = verdict(rig, "Power")
    assert said.level == "stop" and "3.4 A of 3 A" in said.sentence
    near = Assembly("x", tuple(one for one in rig.placed if not isinstance(one.part, Heater)))
    assert verdict(near, "Power").level == "care" and "cold start" in verdict(near, "Power").sentence
    assert "exceeds 100 Wh" not in said.advice, "the airlines' limit is for lithium"


def test_a_step_of_a_drag_works_out_only_what_it_changes(monkeypatch):
    asked = []
    monkeypatch.setattr(bench, "power_and_dew", lambda *given: asked.append(given) or power_and_dew(*given))
    bench._through_the_night.cache_clear()
    far, near = (work_out(a_bench(weight_at=place), STILL, Choices()) for place in (-100.0, -60.0))
    assert len(asked) == 1
    of = [{one.topic: one for one in answer.verdicts} for answer in (far, near)]
    assert of[0]["Balance"] != of[1]["Balance"] and of[0]["Power"] == of[1]["Power"] and of[0]["Dew"] == of[1]["Dew"]
    bench._through_the_night.cache_clear()
    assert work_out(a_bench(weight_at=-60.0), STILL, Choices()) == near  # as if nothing had been asked before
    work_out(a_bench(weight_at=60.0), STILL, Choices())  # on the other side it is carried, not a weight
    assert len(asked) == 3


def test_dew_hour_and_schools_change_the_verdict():
    # 20 °C and 50 %: dew point 9.3 °C (WMO-No. 8). Falling to 8 °C the glass, 1.25 °C below, gets there before sunrise.
    damp = {"air_evening_c": 20.0, "air_low_c": 8.0, "humidity_percent": 50.0}
    bare = verdict(a_bench(), "Dew", Choices(**damp))
    assert bare.level == "stop" and "no heater in this rig" in bare.sentence
    warm = a_bench(Placed(Heater("strap", 60, 5, 8), 100))
    held = verdict(warm, "Dew", Choices(**damp))  # it fogs unless somebody switches the heater on: not what “holds” is said of
    assert held.level == "care" and "unless the heater is on" in held.sentence
    assert verdict(warm, "Dew", Choices(**{**damp, "humidity_percent": 15.0})).level == "go"
    assert verdict(warm, "Dew", Choices(**damp, dew_school="hood")).level == "care"
    assert "not this night" in verdict(warm, "Dew", Choices(**{**damp, "humidity_percent": 15.0})).figures[1].text
    assert "Type the air's temperature" in verdict(warm, "Dew").sentence
    with pytest.raises(InvalidInput, match="may not lie above"):
        Choices(air_evening_c=5, air_low_c=9)


def test_what_is_missing_is_named_and_cured():
    bench = a_bench()
    assert {lack.what for lack in lacks(bench, -24)} == {
        "no tripod",
        "no intervalometer",
        "body has no supply",
        "tracker has no supply",
    }
    wedged = Assembly(
        "x", (Placed(replace(TRACKER, latitude_base=False), carried=False), Placed(Wedge("wedge", 800, 15, 65), carried=False))
    )
    assert not [lack for lack in lacks(wedged, -24) if "reach" in lack.what]
    assert "wedge does not reach 70°" in {lack.what for lack in lacks(wedged, 70)}
    cell, cells = Battery("cell", 50, 14, volts=7.2), Battery("cells", 90, 14, "alkaline", 6)
    fed = [replace(one, fed_by={"body": "cell", "tracker": "cells"}.get(one.name)) for one in bench.placed]
    more = [Placed(part, carried=False) for part in (cell, cells, Tripod("legs", 2000), Timer("timer", 90))]
    assert verdict(Assembly("x", (*fed, *more)), "Complete").level == "go"


def test_a_rig_that_cannot_hold_together_is_refused_with_the_reason():
    with pytest.raises(InvalidInput, match="takes 60 mm of shaft"):
        Assembly("x", (Placed(Shaft("stub", 50, 40), -60), Placed(Counterweight("thick", 900, thickness_mm=60), -60)))
    with pytest.raises(InvalidInput, match="is 19 mm thick"):
        Assembly("x", (Placed(Shaft("rod", 50, 140, 19), -60), Placed(Counterweight("tight", 900, 12), -60)))
    with pytest.raises(InvalidInput, match="below the short end"):
        Lens("zoom", 500, 200, 4, 5.6, focal_long_mm=70)
    with pytest.raises(InvalidInput, match="90000 g cannot be right"):
        Lens("anvil", 90_000, 200, 4, 5.6)
    with pytest.raises(InvalidInput, match="in this rig already"):
        Assembly("x", (Placed(CAMERA), Placed(CAMERA)))
    with pytest.raises(InvalidInput, match=r"has one lens; take off long lens or other lens"):
        Assembly("x", (Placed(LENS), Placed(replace(LENS, name="other lens"))))
    with pytest.raises(InvalidInput, match="give a value from 70 to 210 mm"):
        Assembly("x", (Placed(Lens("zoom", 500, 70, 4, 5.6, focal_long_mm=210)),), focal_mm=300)
    with pytest.raises(InvalidInput, match="cannot be fed by"):
        Assembly("x", (Placed(CAMERA, fed_by="bracket"), Placed(Bracket("bracket", 300))))


def test_a_zoom_is_a_prime_at_its_setting():
    zoom = Lens("zoom", 640, 70, 4, 5.6, 210, 6.4)
    bench = Assembly("x", (Placed(CAMERA), Placed(zoom), Placed(TRACKER, carried=False)), focal_mm=140)
    assert (bench.rig().lens.focal_mm, bench.rig().lens.f_widest, bench.rig().lens.f_best) == (140, 5.2, 5.6)
    assert usual_place(SHAFT, [Bracket("b", 300, 45)]) == (-145, 0)


def test_comparing_two_lenses_tells_what_changes():
    left = a_bench()
    found = compare((left, STILL), (with_lens(left, Lens("half as long", 400, 100, 2, 2.8)), STILL), Choices())
    rows = {row.name: row for row in found.rows}
    assert rows["Scale"].change == "+6.19″/px" and rows["Carried"].change == "−500 g"
    assert rows["Tolerance"].left.value < rows["Tolerance"].right.value
    nowhere = (left, replace(STILL, target=None))
    nothing_yet = compare(nowhere, nowhere, Choices())
    assert {row.change for row in nothing_yet.rows} <= {"the same"} and nothing_yet.rows[0].name == "Carried"
    with pytest.raises(InvalidInput, match="no camera"):
        compare((Assembly("bare", ()), STILL), (left, STILL), Choices())


def test_packing_follows_rigs_weather_and_memory():
    heater = Heater("strap", 60)
    first, second = a_bench(), replace(a_bench(Placed(heater, 90)), name="second")
    cold = Choices(air_evening_c=12.0, air_low_c=-2.0, humidity_percent=80.0, wind_m_s=7.0)
    own = (CAMERA, LENS, Other("folding chair", 1300, True), Plate("old plate", 200))
    found = packing(
        [first, second], own, cold, None, {"old plate": "old plate", "tape": "Tape"}, Counter({"tape": 2, "old plate": 1}), 1_500
    )
    items = {item.key: item for item in found.items}
    assert [item.key for item in found.items[:2]] == ["tape", "old plate"], "what was forgotten most comes first"
    assert items["old plate"].mass_g == 200 and "not in this plan" in items["old plate"].why and "2 times" in items["tape"].why
    assert {"spare cells", "warm layers", "ballast", "folding chair"} <= set(items) and "dew heater" not in items
    assert items["body"].clash and items["body"].used_by == ("bench", "second") and not items["strap"].clash
    assert "dew heater" in {item.key for item in packing([first], own, cold, None, {}, Counter(), 1_500).items}
    # Carried parts once: 600 + 900 + 300 + 200 + 1000 + 1100 + 60 (strap), the chair 1300, the plate 200: 5660 g in 1500 g each.
    assert found.mass_g == 5_660 and found.carries == 4 and found.too_heavy == ()
    assert found.verdict.sentence == "5.66 kg in 4 walks of 1.50 kg." and found.verdict.level == "care", "two rigs want one body"
    assert {one.working for one in found.verdict.figures} == {one.key for one in found.verdict.workings}


def test_every_figure_of_the_bench_opens_a_working_with_its_source():
    damp = Choices(air_evening_c=20.0, air_low_c=8.0, humidity_percent=50.0)
    answer = work_out(a_bench(Placed(Heater("strap", 60), 90)), STILL, damp)
    assert [one.topic for one in answer.verdicts] == [
        "Payload",
        "Balance",
        "Mounting",
        "Optics",
        "Back focus",
        "Power",
        "Dew",
        "Complete",
    ]
    for one in answer.verdicts:
        keys = {working.key for working in one.workings}
        assert {figure.working for figure in one.figures if figure.working} <= keys, one.topic
        assert all(working.source and working.formula for working in one.workings)
    assert work_out(Assembly("empty", ()), STILL, Choices()).verdicts, "an empty rig is answered too"
