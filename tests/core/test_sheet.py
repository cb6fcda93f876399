"""The sheet of a night: every run with what to key in, the first steps to its frame, what happens when, and what follows."""

from dataclasses import replace
from datetime import date

import pytest

from tests.conftest import a_rig, a_spot
from widedusk.core.choices import Choices
from widedusk.core.plan.schedule.compose import Composed, Limits, composed, solved
from widedusk.core.plan.schedule.runs import NightRun, runs_of
from widedusk.core.plan.schedule.sheet import Sheet, night_sheet
from widedusk.core.plan.schedule.worth import PanelWish, Stand, Wish
from widedusk.core.scene import Target

SPOT, EVENING = a_spot(-24.6), date(2026, 12, 9)
PLACES = (("one", 161.0, -59.7), ("two", 83.8, -5.4))
WISHES = [Wish(Target(name, ra, dec, 2.0, 22.0), [PanelWish("", ra, dec)]) for name, ra, dec in PLACES]


def sheet_of(**how: object) -> tuple[Sheet, Composed, tuple[NightRun, ...]]:
    choices = Choices(**how)
    stands = [Stand("long", a_rig(135), choices), Stand("wide", a_rig(100), replace(choices, darks=7))]
    made, found = solved(composed(stands, WISHES, SPOT, EVENING, Limits()), (), 3.0)
    runs = runs_of(made, found.stretches)
    return night_sheet(made, runs, SPOT, EVENING, [0.0, 0.0]), made, runs


@pytest.mark.parametrize(("way", "told"), [("picture", "From a bright star"), ("star", "From a bright star"), ("hop", None)])
def test_the_first_steps_are_of_the_way_one_takes_and_never_begin_with_a_picture_on_paper(way, told):
    sheet, _, runs = sheet_of(way=way)
    assert len(sheet.runs) == len(runs) > 2
    firsts = [one for one in sheet.runs if one.way != "Same frame as before"]
    assert all(one.steps for one in sheet.runs)
    assert {one.way for one in firsts} == {told} if told else all(one.way != "From a bright star" for one in firsts)
    assert not any("drop it below" in " ".join(one.steps) for one in sheet.runs)


def test_cues_stand_in_order_and_each_sub_of_a_rig_has_darks_of_its_own():
    sheet, made, runs = sheet_of()
    moments = [one.moment for one in sheet.cues]
    assert moments == sorted(moments)
    names = [one.name for one in sheet.cues]
    assert names.count("Dark") == names.count("Sunrise") == 1
    assert (
        sum(name.startswith("Frame and focus: ") for name in names) == sum(name.startswith("Ends: ") for name in names) == len(runs)
    )
    for number, stand in enumerate(made.stands):
        (line,) = [one for one in sheet.calibration if one.startswith(f"{stand.name}: ")]
        subs = {(run.exposure_s, run.iso) for run in runs if run.stand == number}
        assert line.count("darks of") == len(subs)
        assert f"{stand.choices.darks} darks of" in line
    assert any("Do not drive tired" in one for one in sheet.cautions)


def test_the_same_frame_on_the_other_side_says_that_the_camera_is_turned_over():
    _, made, runs = sheet_of()
    first = min(runs, key=lambda run: run.change_at)
    second = replace(first, side=1, change_at=first.ends_at, begins_at=first.ends_at, change_clock=first.ends_clock)
    before, after = night_sheet(made, [replace(first, side=-1), second], SPOT, EVENING, [0.0, 0.0]).runs
    assert before.way != after.way == "Same frame as before"
    assert after.steps[0].startswith("Turn the camera over")
    again = night_sheet(made, [first, replace(second, side=first.side)], SPOT, EVENING, [0.0, 0.0]).runs[1]
    assert again.steps[0] == "Frame and focus again."
