"""Each cause from facts written by hand after its signature, with no picture in between; and what is near it but is something else.

Signatures are common practice, and physics where a tracker or the sky turns.
"""

from dataclasses import replace
from functools import cache

import numpy as np
import pytest
from astropy.stats import rayleightest

from tests.core.test_judge import GOOD, LOOK
from widedusk.core.frames.facts import MeanStar, Profile, Zone
from widedusk.core.judge.causes import CAUSE
from widedusk.core.judge.course import Around, Shot, course
from widedusk.core.judge.fields import static_field
from widedusk.core.judge.finding import find_causes
from widedusk.core.judge.limits import Limits
from widedusk.core.judge.reading import MOVED, UNKNOWN
from widedusk.core.judge.trails import one_way

FRAMES, SUB_S, EVERY_S = 24, 60.0, 62.0
SCALE = LOOK.scale_arcsec_px
COS_DEC = np.cos(np.radians(LOOK.dec_deg))
STILL_PX = 15.041 * COS_DEC * SUB_S / SCALE
ROUND = 1.2  # variance of a star, px²
SECONDS = np.arange(FRAMES) * EVERY_S + SUB_S / 2


@cache
def star(trail_px: float = 0.0, position_angle_deg: float = 90.0, width: float = 1.0) -> MeanStar:
    """A star trailed along a direction on the sky; the picture's upper edge is at position angle 30°.

    What weighted moments make of the trail is written as they would measure it: by brute force over its light.
    """
    own = ROUND * width**2
    grid = np.linspace(-1, 1, 4001) * (trail_px / 2 + 6 * np.sqrt(own))
    light = np.mean([np.exp(-0.5 * (grid - at) ** 2 / own) for at in np.linspace(-trail_px / 2, trail_px / 2, 201)], axis=0)
    along = own + trail_px**2 / 12
    for _ in range(300):
        window = np.exp(-0.5 * grid**2 / along) * light
        along = 2 * np.sum(window * grid**2) / np.sum(window)
    # North lies clockwise from up by the position angle of up; a direction at angle p from north through east, counterclockwise.
    turned = np.radians(LOOK.angle_deg - position_angle_deg)
    ux, uy = np.sin(turned), -np.cos(turned)
    return MeanStar(80, own + (along - own) * ux**2, own + (along - own) * uy**2, (along - own) * ux * uy)


def looking(east_px: float, north_px: float):
    return replace(LOOK, ra_deg=LOOK.ra_deg + east_px * SCALE / 3600 / COS_DEC, dec_deg=LOOK.dec_deg + north_px * SCALE / 3600)


def frame(trail_px=0.0, position_angle_deg=90.0, width=1.0, clear=1.0, sky=1.0, east=0.0, north=0.0, **more):
    """A frame after its signature: clear and sky against a good one."""
    zero, level = 5.0 + 2.5 * np.log10(clear), 0.05 * sky
    shape = star(trail_px, position_angle_deg, width)
    given = {
        "star": shape, "zones": (Zone(shape, zero, level),) * 15, "zero_mag": zero, "background": level,
        "noise": 0.002 * np.sqrt(sky), "pointing": looking(east, north),
    }  # fmt: skip
    return replace(GOOD, **{**given, **more})


def laid(frames, natural=None):
    shots = [Shot(f"{place}.jpg", 61_000.8 + place * EVERY_S / 86400, SUB_S, one) for place, one in enumerate(frames)]
    return course(shots, Around(np.ones(len(frames)), np.ones(len(frames)) if natural is None else natural))


def causes(frames, natural=None) -> list[str]:
    with np.errstate(all="ignore"):
        return [one.cause for one in find_causes(laid(frames, natural))]


def drift(speed_px_s: float, east: float, north: float, jitter: float = 0.03, seed: int = 1):
    """A picture that moves on evenly, its stars as long as that makes them."""
    rng = np.random.default_rng(seed)
    long, way = abs(speed_px_s) * SUB_S, np.degrees(np.arctan2(east, north))
    places = SECONDS[:, None] * speed_px_s * np.array([east, north]) / np.hypot(east, north) + rng.normal(0, jitter, (FRAMES, 2))
    return [frame(long, way, east=one[0], north=one[1]) for one in places]


def test_a_good_run_names_nothing():
    assert causes([frame()] * FRAMES) == []


@pytest.mark.parametrize(("times", "cause"), [(1.0, "stopped"), (2.0, "hemisphere"), (0.5, "rate")])
def test_a_switch_that_is_wrong_is_told_by_how_fast_the_stars_leave(times, cause):
    assert causes(drift(times * STILL_PX / SUB_S, 1.0, 0.0))[0] == cause


def test_a_tracker_that_stops_on_the_way_is_told_from_that_frame_on():
    gone = np.maximum(SECONDS - 10 * EVERY_S, 0.0) * STILL_PX / SUB_S
    frames = [frame(STILL_PX if place >= 10 else 0.0, east=float(gone[place])) for place in range(FRAMES)]
    with np.errstate(all="ignore"):
        first = find_causes(laid(frames))[0]
    assert first.cause == "stopped" and min(first.frames) == 10


def test_the_lunar_rate_is_no_axis_that_is_off():
    lunar = 0.0366 * STILL_PX / SUB_S
    assert causes(drift(lunar, 1.0, 0.0))[0] == "rate"
    assert causes(drift(lunar, 1.0, 0.8))[0] == "axis"  # no rate leads along declination
    assert causes(drift(1.7 * lunar, 1.0, 0.0))[0] == "axis"  # nor at any speed


@pytest.mark.parametrize("way", [(0.0, 1.0), (1.0, -1.0), (-1.0, 0.2)])
def test_an_axis_that_is_off_drifts_evenly_whichever_way(way):
    assert causes(drift(0.07, *way))[0] == "axis"


def test_what_creeps_faster_and_faster_is_no_axis():
    along = (SECONDS / SECONDS[-1]) ** 2.6 * 60.0
    trails = np.gradient(along, SECONDS) * SUB_S
    frames = [frame(float(trail), 40.0, east=0.64 * at, north=0.77 * at) for trail, at in zip(trails, along, strict=True)]
    assert causes(frames)[0] == "creep"


def worm(amplitude: float = 7.0, period: float = 480.0, frames: int = FRAMES):
    turn = 2 * np.pi / period
    at = amplitude * np.sinc(SUB_S / period) * np.sin(turn * SECONDS[:frames])
    parts = np.linspace(-SUB_S / 2, SUB_S / 2, 101)
    wave = amplitude * np.sin(turn * (SECONDS[:frames, None] + parts))
    trails = np.sqrt(12 * np.var(wave, axis=1))
    return [frame(float(trail), 90.0, east=float(one)) for trail, one in zip(trails, at, strict=True)]


def test_a_worm_comes_and_goes_along_right_ascension():
    assert causes(worm())[0] == "worm"
    # The same trails without the wander are none of the worm's.
    still = [replace(one, pointing=LOOK) for one in worm()]
    assert "worm" not in causes(still)


def test_two_jumps_and_a_worm_are_told_apart():
    frames = worm()
    moved = [replace(one, pointing=replace(one.pointing, dec_deg=one.pointing.dec_deg + 40 * SCALE / 3600)) for one in frames[9:]]
    struck = replace(moved[0], star=star(12.0, 0.0), zero_mag=4.3)
    told = causes([*frames[:9], struck, *moved[1:]])
    assert told[0] == "worm" and "knock" in told
    framed_anew = causes([frame()] * 9 + [frame(north=40.0)] * 9)
    assert framed_anew == [MOVED]


def test_wind_shakes_some_frames_each_another_way():
    rng = np.random.default_rng(5)
    frames = [frame(float(rng.uniform(4, 7)), float(rng.uniform(0, 180))) if place % 3 == 0 else frame() for place in range(FRAMES)]
    assert causes(frames)[0] == "wind"


def test_a_cause_claims_the_motion_that_it_explains_and_no_other():
    """A worm on an axis that is off: both are named, each with what it does, and no rate."""
    both = drift(0.07, 0.3, 1.0)
    turn = 2 * np.pi / 480.0
    wave = 7.0 * np.sin(turn * (SECONDS[:, None] + np.linspace(-SUB_S / 2, SUB_S / 2, 101)))
    way = np.column_stack([wave.mean(axis=1), np.zeros(FRAMES)])
    frames = []
    for place, one in enumerate(both):
        east, north = np.std(wave[place]) * np.sqrt(12) + 0.07 * 0.29 * SUB_S, 0.07 * 0.96 * SUB_S
        at = one.pointing
        moved = replace(at, ra_deg=at.ra_deg + way[place, 0] * SCALE / 3600 / COS_DEC)
        frames.append(replace(frame(float(np.hypot(east, north)), float(np.degrees(np.arctan2(east, north)))), pointing=moved))
    found = causes(frames)
    assert "axis" in found and "worm" in found and "wind" not in found and "rate" not in found
    lunar = 0.0366 * STILL_PX / SUB_S
    assert causes(drift(lunar, 1.0, 0.0))[0] == "rate"
    assert causes(drift(lunar, 0.05, 1.0))[0] == "axis"


def test_axes_that_point_one_way_are_told_from_axes_that_point_any_way():
    """178° and 2° are the same way. Reference: astropy's Rayleigh test, of the doubled angles."""
    rng = np.random.default_rng(6)
    for spread in (0.05, 0.4, 1.0, 3.0):
        angles = np.pi + rng.normal(0, spread, 12)
        assert one_way(angles) == pytest.approx(float(rayleightest(2 * angles)), abs=0.03)
    assert one_way(np.radians([178.0, 181.0, 179.0, 2.0, 180.0, 177.0])) < 0.01
    still = [frame(5.0, float(way)) if place % 3 == 0 else frame() for place, way in enumerate(np.linspace(176, 183, FRAMES))]
    with np.errstate(all="ignore"):
        told = find_causes(laid(still))
    assert all("each another way" not in words for one in told for words in one.spoke_for)


def rising(first: int, most: float) -> np.ndarray:
    return most * np.clip((np.arange(FRAMES) - first) / (FRAMES - 1 - first), 0, 1)


def test_dew_haze_and_a_focus_that_creeps_differ_in_light_width_and_halo():
    wet = rising(8, 1.0)
    halo = [Profile(0.3 * one, 1.9, 0.01) for one in wet]
    dew = [frame(width=1 + one, clear=1 - 0.5 * one, profile=profile) for one, profile in zip(wet, halo, strict=True)]
    assert causes(dew)[0] == "dew"
    assert causes([frame(clear=1 - 0.6 * one, sky=1 + 0.3 * one) for one in wet])[0] == "haze"
    assert causes([frame(width=1 + one) for one in wet])[0] == "focus crept"


def test_clouds_go_again_or_are_uneven():
    passing = np.exp(-0.5 * ((np.arange(FRAMES) - 11) / 2.5) ** 2)
    assert causes([frame(clear=1 - 0.7 * one) for one in passing]) == ["cloud"]
    thick = rising(10, 0.7)
    uneven = [
        replace(frame(clear=1 - one), zones=tuple(
            Zone(star(), 5.0 + 2.5 * np.log10(1 - one) + 0.4 * one * np.sin(place + number), 0.05) for place in range(15)
        ))
        for number, one in enumerate(thick)
    ]  # fmt: skip
    assert causes(uneven) == ["cloud"]
    assert causes([frame(clear=1 - one) for one in thick]) == ["haze"]  # the same, but even


def test_cloud_and_dew_in_one_night_are_told_each_with_its_frames():
    frames = [frame() for _ in range(FRAMES)]
    for place in (4, 5, 6):
        frames[place] = frame(clear=0.4)
    for place, wet in enumerate(rising(14, 1.0)):
        if wet > 0:
            frames[place] = frame(width=1 + wet, clear=1 - 0.5 * wet, profile=Profile(0.3 * wet, 1.9, 0.01))
    with np.errstate(all="ignore"):
        told = {one.cause: set(one.frames) for one in find_causes(laid(frames))}
    assert told["cloud"] == {4, 5, 6} and min(told["dew"]) > 13


def test_what_hides_one_side_is_no_cloud():
    def half_gone(share: float):
        rows = 3 - round(3 * share)
        zones = tuple(Zone(star() if place // 5 < rows else None, 5.0 if place // 5 < rows else None, 0.05) for place in range(15))
        return replace(frame(), zones=zones)

    assert causes([half_gone(one) for one in rising(8, 0.7)]) == ["obstructed"]


def test_the_moon_rises_as_computed_and_a_lamp_does_not():
    natural = 1 + rising(6, 3.0)
    assert causes([frame(sky=one) for one in natural], natural)[0] == "moon"
    lamps = [frame(sky=3.0 if place in (5, 15) else 1.0) for place in range(FRAMES)]
    assert causes(lamps)[0] == "lamp"
    assert "moon" not in causes(lamps)


@pytest.mark.parametrize("times", [0.4, 2.2])
def test_settings_change_all_light_by_one_factor(times):
    changed = [frame(clear=times if place >= 12 else 1.0, sky=times if place >= 12 else 1.0) for place in range(FRAMES)]
    assert causes(changed)[0] == "settings"
    # Stars alone, or the sky alone: something else.
    assert "settings" not in causes([frame(clear=0.4 if place >= 12 else 1.0) for place in range(FRAMES)])
    assert "settings" not in causes([frame(sky=2.2 if place >= 12 else 1.0) for place in range(FRAMES)])


def zoned(shape_at) -> list:
    """A run whose stars have a shape by place: x and y from the middle, in widths of the picture."""
    zones = []
    for place in range(15):
        x, y = (place % 5 + 0.5) / 5 - 0.5, ((place // 5 + 0.5) / 3 - 0.5) * 2 / 3
        zones.append(Zone(MeanStar(20, *shape_at(x, y)), 5.0, 0.05))
    return [replace(frame(), zones=tuple(zones))] * FRAMES


def test_lens_and_field_are_told_by_how_shapes_lie():
    def coma(x, y):
        size = 30.0 * (x**2 + y**2) ** 2 / max(x**2 + y**2, 1e-9)
        return ROUND + size * x * x, ROUND + size * y * y, size * x * y

    def tilt(x, y):
        wide = ROUND + (1.4 * (x * 0.8 + y * 0.6 + 0.5)) ** 2
        return wide, wide, 0.0

    def rotation(x, y):
        dx, dy = x - 0.3, y + 0.2
        return ROUND + 6 * dy * dy, ROUND + 6 * dx * dx, -6 * dx * dy

    def crossed(x, y):  # a plane that cuts the focus through the middle: soft on two opposite sides
        wide = ROUND + (2.2 * (x * 0.8 + y * 0.6)) ** 2
        return wide, wide, 0.0

    def upright(x, y):  # the same about an upright line: corners as soft as the sides beside them, which no lens leaves
        wide = ROUND + (3.0 * x) ** 4
        return wide, wide, 0.0

    shapes = ((coma, "coma"), (tilt, "tilt"), (crossed, "tilt"), (upright, "tilt"), (rotation, "rotation"))
    for shape, name in shapes:
        frames = zoned(shape)
        assert causes(frames)[0] == name
        if name == "rotation":
            about = static_field(laid(frames)).about
            assert np.hypot(about[0] - 0.3, about[1] + 0.2) < 0.12
    assert static_field(laid(zoned(lambda x, y: (ROUND, ROUND, 0.0)))).kind == ""


@pytest.mark.parametrize("power", [1, 2])
@pytest.mark.parametrize("corner", [1.12, 1.2, 1.28, 1.45, 1.7])
def test_soft_corners_are_a_lens_and_no_tilt_and_no_fault_within_what_people_allow(corner, power):
    """Wider by 12 to 35 % in all four corners, as lenses are: nothing is said up to the limit, and beyond it what it is."""

    def soft(x, y):
        wide = ROUND * (1.0 + (corner**2 - 1.0) * ((x**2 + y**2) / (0.4**2 + 0.2222**2)) ** power)
        return wide, wide, 0.0

    found = causes(zoned(soft))
    assert "tilt" not in found and "coma" not in found
    assert found == (["soft corners"] if corner >= 1.45 else [])
    assert static_field(laid(zoned(soft)), Limits(width=1.8)).kind == ""  # who lets more pass hears nothing of it
    if corner > 1.5:
        return
    # The same lens with one side twice as soft as the other is askew.
    askew = zoned(lambda x, y: tuple(one + 1.6 * (x + 0.5) ** 2 if place < 2 else one for place, one in enumerate(soft(x, y))))
    assert causes(askew)[0] == "tilt"


def test_what_comes_on_the_way_is_no_lens():
    """A drop on one side of the glass from the ninth frame on: shapes differ as a tilt would have it, but not in every frame."""
    dry, wet = zoned(lambda x, y: (ROUND, ROUND, 0.0)), zoned(lambda x, y: (ROUND + 1.5 * (x > 0.2), ROUND + 1.5 * (x > 0.2), 0.0))
    assert "tilt" not in causes([*dry[:9], *wet[9:]])
    assert causes(wet)[0] == "tilt"


def test_what_no_list_holds_is_not_guessed_at():
    assert causes([frame(4.0, 60.0)] * FRAMES) == [UNKNOWN]  # long all over, and the picture stands still
    ghost = replace(frame(), profile=Profile(0.0, 1.9, 0.3))
    assert causes([ghost] * FRAMES) == [UNKNOWN]
    by_turns = causes([frame(clear=0.45 if place % 2 else 1.0, sky=0.45 if place % 2 else 1.0) for place in range(FRAMES)])
    assert set(by_turns) == {UNKNOWN}  # stars and sky by one factor: no cloud does that


def test_every_cause_that_is_found_is_in_the_list_with_its_advice():
    found = {
        *causes(worm()),
        *causes(drift(0.07, 0, 1)),
        *causes([frame(clear=0.4 if 4 < place < 8 else 1.0) for place in range(FRAMES)]),
    }
    assert found == {"worm", "axis", "cloud"}
    assert all(CAUSE[one].now and CAUSE[one].next_time for one in found)
