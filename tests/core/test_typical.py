"""A rig from what is in one's hand, and which of its typical figures would be worth measuring."""

from dataclasses import replace
from datetime import date

import pytest

from tests.conftest import a_spot
from widedusk.core.choices import Choices
from widedusk.core.errors import InvalidInput
from widedusk.core.exposure.setting import aperture, optics_of
from widedusk.core.kit.parts import Counterweight, Part, Rig, iso_field
from widedusk.core.kit.payload import carried_mass_g
from widedusk.core.kit.typical import CAMERAS, TRACKERS, lens_mass_g, typical_rig
from widedusk.core.plan.better import OFF, WORTH_TELLING, better_numbers
from widedusk.core.plan.outlook import outlook
from widedusk.core.scene import Target

EVENING = date(2026, 12, 9)
NEBULA = Target("nebula", 83.8, -5.4, 1.0, 22.0)


@pytest.mark.parametrize("camera", CAMERAS)
@pytest.mark.parametrize("tracker", ["none", *TRACKERS])
@pytest.mark.parametrize("focal_mm", [24.0, 135.0])
def test_every_class_makes_a_rig_that_is_fed_balanced_and_says_what_is_typical(camera, tracker, focal_mm):
    rig = typical_rig(camera, focal_mm, 2.8, tracker)
    names = {one.name: one.part for one in rig.placed}
    for one in rig.placed:
        if getattr(one.part, "amps", 0.0):
            assert names[one.fed_by].volts == one.part.volts, one.name
    assert rig.lens.origin("focal_mm") != "book" and rig.lens.origin("f_widest") != "book"
    assert rig.lens.origin("mass_g") == "book" and rig.star_origin == "book"
    weights = [one for one in rig.placed if isinstance(one.part, Counterweight)]
    assert bool(weights) == (tracker != "none" and focal_mm >= 135.0)
    if weights and tracker == "light tracker":  # the arm at which both sides weigh alike, by the lever
        others = sum(one.mass_g * one.arm_mm for one in rig.placed if one.carried and one not in weights)
        wanted = -others / weights[0].mass_g
        assert weights[0].arm_mm == pytest.approx(wanted, abs=0.51) or not 60.0 < -wanted < 200.0  # of the shaft


def test_lenses_are_about_as_heavy_as_lenses_are():
    """From memory, to a third: 50 mm f/1.8, 85 mm f/1.8, 135 mm f/2, 200 mm f/2.8, 400 mm f/2.8."""
    for focal, f_number, grams in ((50, 1.8, 250), (85, 1.8, 450), (135, 2.0, 880), (200, 2.8, 900), (400, 2.8, 2900)):
        assert lens_mass_g(focal, f_number) == pytest.approx(grams, rel=0.34)


def test_a_focal_length_or_f_number_that_cannot_be_is_refused_at_its_field():
    with pytest.raises(InvalidInput) as refused:
        typical_rig("full frame", 2.0, 0.3, "none")
    assert {one.field for one in refused.value.faults} == {"focal_mm", "f_number"}


def better(rig: Rig, by_book: bool = True, **choices: object):
    found = better_numbers(rig, by_book, a_spot(-24.6), EVENING, NEBULA, Choices(**choices))
    return {one.topic: one for one in found}


def own(part: Part, *names: str) -> Part:
    """With figures that somebody measured."""
    return replace(part, origins=tuple((name, origin) for name, origin in part.origins if name not in names))


def test_the_rating_decides_the_payload_by_as_much_as_it_may_be_off():
    rig = typical_rig("full frame", 85.0, 1.8, "light tracker").rig()
    told, load = better(rig)["Payload"], carried_mass_g(rig) / rig.tracker.rating_g
    assert told.what == "the rated payload of your tracker" and told.where == "part" and told.part == rig.tracker.name
    assert told.change == pytest.approx(OFF["rating"] ** 2 - 1.0)  # once either way
    assert {told.low, told.high} == {
        f"{load * OFF['rating'] * 100:.0f} % of the rating",
        f"{load / OFF['rating'] * 100:.0f} % of the rating",
    }
    # Known, it leaves the next: of what is carried a camera is the heavier.
    known = better(replace(rig, tracker=own(rig.tracker, "rating_g")))["Payload"]
    assert known.what == "the mass of your camera" and known.change < told.change
    moved = [carried_mass_g(replace(rig, camera=replace(rig.camera, mass_g=rig.camera.mass_g * times))) for times in (0.8, 1.25)]
    assert known.change == pytest.approx(moved[1] / moved[0] - 1.0)


@pytest.mark.parametrize(("focal_mm", "f_number", "tracker"), [(85.0, 1.8, "light tracker"), (200.0, 2.8, "small mount")])
def test_the_figure_that_moves_the_tolerance_most_is_found_by_trying_all(focal_mm, f_number, tracker):
    """By brute force: one figure at a time at either end of what it may be."""
    rig = typical_rig("full frame", focal_mm, f_number, tracker).rig()

    def tolerance(one: Rig) -> float:
        return outlook(one, a_spot(-24.6), EVENING, NEBULA, Choices(), None).tolerance.arcmin

    ends = {
        "how wide your stars are": [replace(rig, star_fwhm_px=rig.star_fwhm_px + by) for by in (-0.7, 0.7)],
        "the f-number from which your lens has good corners": [
            replace(rig, lens=replace(rig.lens, f_best=max(rig.lens.f_best * times, rig.lens.f_widest)))
            for times in (1 / OFF["corners"], OFF["corners"])
        ],
        "the periodic error of your tracker": [
            replace(rig, tracker=replace(rig.tracker, pe_half_amplitude_arcsec=rig.tracker.pe_half_amplitude_arcsec * times))
            for times in (1 / OFF["periodic error"], OFF["periodic error"])
        ],
    }
    changes = {}
    for what, pair in ends.items():
        low, high = sorted(map(tolerance, pair))
        changes[what] = high / low - 1.0
    if max(changes.values()) < WORTH_TELLING:  # a long run in a narrow field: the frame decides, whatever the figures
        assert focal_mm == 200.0 and "Pole" not in better(rig)
        return
    told = better(rig)["Pole"]
    assert told.what == max(changes, key=changes.get) and told.change == pytest.approx(changes[told.what])


def test_what_was_measured_is_in_doubt_no_more():
    rig = typical_rig("full frame", 85.0, 1.8, "light tracker").rig()
    measured = {iso_field(step.iso) for step in rig.camera.iso_steps}
    body = own(rig.camera, *measured, "response_nm", "mass_g")
    known = replace(
        rig, camera=body, lens=own(rig.lens, "f_best", "mass_g"), tracker=own(rig.tracker, "rating_g", "pe_half_amplitude_arcsec")
    )
    assert better(known, by_book=False) == {}
    assert {one.what for one in better(known).values()} == {"how wide your stars are"}


def test_where_nothing_tracks_the_lens_is_wide_open_unless_told_otherwise():
    """A sub of seconds is short of light before corners matter: common practice, no source."""
    still, tracked = (typical_rig("full frame", 24.0, 2.8, tracker).rig() for tracker in ("none", "light tracker"))
    assert aperture(still, Choices()) == 2.8 and aperture(tracked, Choices()) == tracked.lens.f_best > 2.8
    assert aperture(tracked, Choices(tracking="untracked")) == 2.8
    assert aperture(still, Choices(aperture_school="corners")) == still.lens.f_best
    seen = outlook(still, a_spot(-24.0), EVENING, NEBULA, Choices())
    assert seen.light.f_number == 2.8
    assert optics_of(still, Choices()).level == "go" and optics_of(tracked, Choices(aperture_school="wide")).level == "care"
