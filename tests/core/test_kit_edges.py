"""Where verdicts turn: each branch that a person can land on at the Bench, against the limit that turns it."""

from dataclasses import replace
from datetime import date
from itertools import pairwise

import numpy as np
import pytest

from tests.conftest import a_rig
from tests.core.test_bench import CAMERA, LENS, STILL, TRACKER, a_bench, verdict
from widedusk.core.choices import Choices
from widedusk.core.errors import InvalidInput
from widedusk.core.exposure.setting import aperture
from widedusk.core.grounds.compass import needle
from widedusk.core.kit.assembly import Assembly, Placed
from widedusk.core.kit.parts import (
    KINDS,
    BallHead,
    Band,
    Battery,
    Camera,
    Counterweight,
    Filter,
    Heater,
    Hub,
    IsoStep,
    Lens,
    LensRing,
    Shaft,
    StepDownRing,
    Tripod,
    Wedge,
)
from widedusk.core.kit.power import USABLE_SHARE, feeds_of, lanes, lasts_min, power_verdict, usable_wh
from widedusk.core.plan.bench import work_out
from widedusk.core.plan.exposing import exposing
from widedusk.core.verdict import Quantity, Verdict

TEN_HOURS = np.full(601, 20.0)


def fed(*placed: Placed) -> Assembly:
    return Assembly("fed", placed)


def bank(name: str, watt_hours: float, **more: object) -> Placed:
    return Placed(Battery(name, 200, watt_hours, **more), carried=False)  # type: ignore[arg-type]


def strap(name: str, watts: float, by: str | None) -> Placed:
    return Placed(Heater(name, 60, 5, watts, 100), fed_by=by)


def test_a_spare_goes_where_the_need_comes_first_and_never_to_another_voltage():
    both = fed(
        strap("small strap", 2, "long"),
        strap("large strap", 4, "short"),
        bank("long", 20),  # 17 Wh at 2 W: 510 min
        bank("short", 20),  # 17 Wh at 4 W: 255 min
        bank("spare", 20),
        bank("of 12 V", 500, volts=12),
    )
    found = {lane.battery: lane for lane in lanes(both, TEN_HOURS)}
    assert [use.battery for use in found["short"].uses] == ["short", "spare"] and found["short"].lasts_min == 510
    assert [use.battery for use in found["long"].uses] == ["long"] and found["long"].lasts_min == 510


def test_each_swap_tells_its_cell_and_its_time_and_the_last_cell_when_it_is_empty():
    """By hand: 20 Wh give 17 at 20 °C, and 4 W empty them in 255 min. Two cells end after 510 of 600 min, three last."""

    def clock(minute: int) -> Quantity:
        return Quantity("At", text=f"{minute // 60:02d}:{minute % 60:02d}")

    def told(*cells: str) -> Verdict:
        return power_verdict(fed(strap("strap", 4, cells[0]), *(bank(cell, 20) for cell in cells)), TEN_HOURS, False, clock)

    short = told("cell 1", "cell 2")
    assert short.sentence == "Swap cell 1 for cell 2 by 04:15; cell 2 is empty at 08:30, 1 h 30 min before the end."
    assert [(one.name, one.text) for one in short.figures[1:]] == [("Swap cell 1 for cell 2", "04:15")]
    lasting = told("cell 1", "cell 2", "cell 3")
    assert lasting.sentence == "Swap cell 1 for cell 2 by 04:15 and cell 2 for cell 3 by 08:30; then all runs to the end."
    assert told("cell 1").sentence == "cell 1 is empty at 04:15, 5 h 45 min before the end."


@pytest.mark.parametrize("chemistry", USABLE_SHARE)
def test_cold_takes_from_every_chemistry_and_never_gives(chemistry):
    cell = Battery("cell", 50, 10, chemistry)
    given = usable_wh(cell, np.array([-30.0, -20.0, -10.0, 0.0, 10.0, 20.0, 35.0]))
    assert np.all(np.diff(given) >= 0) and given[0] == given[1] and given[-1] == pytest.approx(10 * USABLE_SHARE[chemistry])


def test_a_falling_temperature_empties_a_battery_earlier_than_a_warm_night():
    cell = Battery("cell", 50, 20)
    falling = np.linspace(20, -20, 601)
    assert lasts_min(cell, 2.0, falling) < lasts_min(cell, 2.0, TEN_HOURS)
    # By hand: after 395 minutes it is -6.3 °C, f = 0.773; 20 Wh x 0.85 x 0.773 = 13.1 Wh, and 2 W have drawn 13.2 Wh.
    assert lasts_min(cell, 2.0, falling) == pytest.approx(395, abs=1)


def test_a_hub_on_nothing_feeds_nothing():
    loose = fed(strap("strap", 5, "hub"), Placed(Hub("hub", 100), carried=False), bank("bank", 40))
    assert feeds_of(loose) == {"bank": []}
    assert "strap has no supply" in {row.name for row in verdict(loose, "Complete").workings[0].inputs}
    assert verdict(loose, "Power").sentence == "No battery feeds anything yet."


def test_large_lithium_packs_and_shared_heaters_are_told():
    def said(watt_hours: float, chemistry: str = "lithium") -> str:
        return verdict(fed(strap("strap", 1, "pack"), bank("pack", watt_hours, chemistry=chemistry)), "Power").advice

    assert "approval" not in said(99) and "needs the airline's approval" in said(101)
    assert "exceeds 160 Wh and will not be taken" in said(161) and "By air" not in said(161, "lead-acid")
    shared = fed(strap("strap", 1, "pack"), Placed(CAMERA, fed_by="pack"), bank("pack", 90))
    assert "a supply of its own is safer" in verdict(shared, "Power").advice and verdict(shared, "Power").level == "care"


def test_every_unfed_load_is_drawn_as_such_and_the_end_without_a_target_is_dawn():
    answer = work_out(a_bench(), replace(STILL, target=None), Choices())
    assert answer.power.unfed == ("body", "tracker") and not answer.power.planned
    assert work_out(a_bench(), STILL, Choices()).power.planned
    assert work_out(a_bench(), None, Choices()).power is None


def test_what_holds_the_rig_has_ratings_of_its_own():
    def held(*more: Placed) -> Verdict:
        parts = (Placed(CAMERA, 50), Placed(replace(LENS, focal_mm=50), 50), *more)
        tracked = parts if any(one.part is TRACKER for one in more) else (*parts, Placed(TRACKER, carried=False))
        return verdict(Assembly("x", tracked), "Mounting", scene=None)

    assert held(Placed(BallHead("head", 300, 2000), 30)).level == "go"
    weak = held(Placed(BallHead("head", 300, 1400), 30))
    assert weak.level == "stop" and "rated for 1.40 kg and holds 1.50 kg" in weak.advice
    legs = (Placed(BallHead("head", 300), 30), Placed(TRACKER, carried=False), Placed(Wedge("wedge", 800), carried=False))
    tired = held(*legs, Placed(Tripod("legs", 2000, 3600), carried=False))
    assert tired.level == "stop" and "stands under 3.70 kg" in tired.advice  # 600 + 900 + 300 + 1100 + 800
    assert held().level == "stop" and "Nothing holds the camera" in held().sentence


def test_a_long_barrel_wants_a_ring_or_its_collar():
    bare = verdict(a_bench(), "Mounting")
    assert bare.level == "care" and "quarter turn, no more" in bare.advice
    assert verdict(a_bench(Placed(LensRing("ring", 100), 95)), "Mounting").level == "go"
    collared = Assembly(
        "x", tuple(replace(one, part=replace(LENS, collar=True)) if one.part is LENS else one for one in a_bench().placed)
    )
    assert verdict(collared, "Mounting").level == "go"


def test_no_weight_yet_and_what_would_do():
    bare = Assembly("x", tuple(one for one in a_bench().placed if not isinstance(one.part, (Counterweight, Shaft))))
    # 150 000 g mm over 150 mm: a kilogram.
    assert "A weight of 1.00 kg, 150 mm out, would balance it." in verdict(bare, "Balance").advice
    assert "has no counterweight" in verdict(bare, "Mounting").sentence
    assert verdict(Assembly("empty"), "Balance").sentence == "Nothing is on the tracker yet."


def test_declination_is_a_note_or_a_task_by_school():
    # 600 g x -50 mm + 900 g x 40 mm = 6000 g mm is within the even band; a heavier hood at the front is not.
    assert "Declination" not in verdict(a_bench(), "Balance").advice
    heavy = a_bench(Placed(Heater("iron hood", 400), 0, 120), weight_at=-120)
    note, task = (verdict(heavy, "Balance", Choices(dec_school=school)) for school in ("note", "balance"))
    assert note.level == "go" and "a note only: keep its clamp tight" in note.advice
    # 54 000 g mm over the 1900 g that turn: 28 mm back.
    assert task.level == "care" and "slide camera and lens 28 mm back" in task.advice


def test_the_aperture_follows_ring_typed_figure_and_filter():
    rig = a_bench(Placed(StepDownRing("ring", 20, 49), 100)).rig()
    assert aperture(rig, Choices(f_number=2.8)) == pytest.approx(200 / 49), "a ring in front is a limit, whatever is typed"
    assert aperture(rig, Choices(f_number=8)) == 8
    with pytest.raises(InvalidInput, match="wider than long lens opens"):
        aperture(rig, Choices(f_number=2))
    narrow = replace(LENS, f_best_narrow=3.2)
    parts = (Placed(CAMERA), Placed(narrow), Placed(TRACKER, carried=False))
    lines = Filter("lines", 30, bands=(Band(495, 505), Band(651, 661)))
    broad = Filter("broad", 30, bands=(Band(440, 540), Band(600, 700)))
    assert Assembly("x", (*parts, Placed(lines))).rig().lens.f_best == 3.2
    assert Assembly("x", (*parts, Placed(broad))).rig().lens.f_best == Assembly("x", parts).rig().lens.f_best == 4


def test_back_focus_without_figures_says_so_rather_than_guess():
    parts = (Placed(CAMERA), Placed(LENS))
    assert "own mount" in verdict(Assembly("x", parts), "Back focus", scene=None).sentence
    unknown = verdict(Assembly("x", (*parts, Placed(KINDS["adapter"]("tube", 90, 26)))), "Back focus", scene=None)
    assert unknown.level == "care" and "Give the flange distance" in unknown.advice
    glass = verdict(Assembly("x", (*parts, Placed(Filter("f", 30, sits="behind the lens")))), "Back focus", scene=None)
    assert "moves the focus back by 0.68 mm: infinity comes before the ring's mark" in glass.advice
    assert verdict(Assembly("x"), "Back focus", scene=None).level == "care"


def test_a_weak_heater_and_a_dry_night():
    damp = {"air_evening_c": 10.0, "air_low_c": 0.0, "humidity_percent": 90.0, "wind_m_s": 4.0}
    weak = verdict(a_bench(Placed(Heater("thread", 10, 5, 0.2), 100)), "Dew", Choices(**damp))
    assert weak.level == "care" and "gives 0.2 of about" in weak.sentence
    warmers = verdict(a_bench(), "Dew", Choices(**damp, dew_school="warmers"))
    assert warmers.level == "care" and "hand warmers" in warmers.sentence
    soaked = verdict(a_bench(), "Dew", Choices(air_evening_c=8, air_low_c=8, humidity_percent=100))
    assert "fogs from set-up" in soaked.sentence
    one = Choices(air_evening_c=7.0).weather()
    assert one is not None and (one.evening_c, one.low_c) == (7.0, 7.0)
    for wrong in ({"humidity_percent": 140.0}, {"wind_m_s": 90.0}, {"air_low_c": -80.0}):
        with pytest.raises(InvalidInput, match=f"{next(iter(wrong))}: .* cannot be right"):
            Choices(**{**damp, **wrong})


def test_a_camera_nobody_measured_has_an_estimate_that_says_so():
    estimated = Camera("x", 500, 36, 24, 6)
    steps = estimated.iso_steps
    assert [step.iso for step in steps] == [100, 200, 400, 800, 1600, 3200, 6400, 12800]
    assert all(estimated.estimated_at(step.iso) for step in steps)
    # Noise falls to a floor, the well halves a stop and goes with the area of a pixel.
    assert all(b.read_noise_e < a.read_noise_e for a, b in pairwise(steps))
    assert steps[3].full_well_e == pytest.approx(steps[2].full_well_e / 2, rel=0.01)
    assert Camera("x", 500, 36, 24, 3).iso_steps[0].full_well_e == pytest.approx(steps[0].full_well_e / 4, rel=0.01)
    said = exposing(replace(a_rig(50.0), camera=estimated), STILL.spot, STILL.evening, STILL.target, Choices())
    assert "estimate by the size of its pixels" in said.verdicts[0].advice and {row.origin for row in said.isos} == {"book"}
    own = exposing(a_rig(50.0), STILL.spot, STILL.evening, STILL.target, Choices())
    assert "estimate" not in own.verdicts[0].advice and {row.origin for row in own.isos} == {"by hand"}


def test_cameras_and_lenses_that_contradict_themselves():
    steps = (IsoStep(800, 3, 20_000),)
    with pytest.raises(InvalidInput, match="short side may not exceed"):
        Camera("x", 500, 24, 36, 6)
    with pytest.raises(InvalidInput, match="which has 800"):
        Camera("x", 500, 36, 24, 6, iso_steps=steps).step(100)
    with pytest.raises(InvalidInput, match="f_best_narrow: f/2 is wider"):
        Lens("x", 400, 100, 2.8, 4, f_best_narrow=2)
    with pytest.raises(InvalidInput, match=r"bands\.0\.high_nm"):
        Filter("x", 30, bands=(Band(700, 650),))
    with pytest.raises(InvalidInput, match="none of these"):
        Battery("x", 200, 40, "plutonium")  # type: ignore[arg-type]
    with pytest.raises(InvalidInput, match="latitude_high_deg"):
        Wedge("x", 800, 60, 20)


def test_the_needle_moves_on_to_the_last_day_of_the_model_and_not_beyond():
    early, late, beyond = (needle(-24.6, 16.9, 1_400, day) for day in (date(2029, 1, 1), date(2029, 12, 30), date(2031, 6, 1)))
    assert late.declination_deg - early.declination_deg == pytest.approx(early.drift_deg_year, abs=0.01)
    assert abs(early.drift_deg_year) > 0.05 and late.in_force and not beyond.in_force
    assert beyond.declination_deg == pytest.approx(late.declination_deg, abs=0.002)
