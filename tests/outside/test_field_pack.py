"""The night pack against others: places by the minute and the view in the finder against astropy, stars about the pole against
astropy, frames against counting them one by one; and that steps follow rig, way and weather."""

import re
from datetime import UTC, date, datetime, timedelta
from itertools import pairwise

import astropy.units as u
import numpy as np
import pytest
from astropy.coordinates import AltAz, EarthLocation, SkyCoord
from astropy.time import Time

from tests.conftest import a_rig, a_spot
from widedusk.core.choices import Choices
from widedusk.core.field.durations import learned_min
from widedusk.core.field.hands import Hands
from widedusk.core.field.pack import Pack, field_pack
from widedusk.core.field.planned import PlanAsked, PlannedNight, of_plans, of_whole_night
from widedusk.core.field.steps import Step, steps_of
from widedusk.core.night.weather import air_of
from widedusk.core.plan.outlook import night_of
from widedusk.core.plan.packing import packing
from widedusk.core.plan.schedule.compose import Limits, composed, solved
from widedusk.core.plan.schedule.worth import PanelWish, Stand, Wish
from widedusk.core.pole.axis import arc_words
from widedusk.core.pole.dial import NORTH, SOUTH
from widedusk.core.scene import Spot, Target

EVENING = date(2026, 12, 9)
PLACES = (("one", 161.0, -59.7), ("two", 83.8, -5.4))
MADE_AT = datetime(2026, 12, 9, 12, tzinfo=UTC)


def whole(**how: object) -> PlannedNight:
    spot, choices = a_spot(-24.6), Choices(**how)  # type: ignore[arg-type]
    wishes = [Wish(Target(name, ra, dec, 2.0, 22.0), [PanelWish("", ra, dec)]) for name, ra, dec in PLACES]
    stands = [Stand("long", a_rig(135), choices), Stand("wide", a_rig(50), choices)]
    made, found = solved(composed(stands, wishes, spot, EVENING, Limits()), (), 2.0)
    air = air_of(night_of(spot, EVENING), None, choices)
    places = [(stand, wish, 0) for stand in range(len(stands)) for wish in range(len(wishes))]
    keys = {place: [f"run-{place[0]}{place[1]}{number}" for number in range(9)] for place in places}
    return of_whole_night(made, found.stretches, spot, EVENING, [0.0, 0.0], keys, air)


def single(spot: Spot, **how: object) -> PlannedNight:
    choices = Choices(**how)  # type: ignore[arg-type]
    dec = -30.0 if spot.latitude_deg < 0 else 36.4
    asked = PlanAsked("run-1", 1, Stand("one", a_rig(135), choices), Target("nebula", 60.0, dec, 2.0, 22.0), 0.0)
    return of_plans([asked], spot, EVENING, air_of(night_of(spot, EVENING), None, choices))


def packed(planned: PlannedNight, spot: Spot) -> Pack:
    listed = packing([], [], Choices(), None, {}, {}, 12_000.0)  # type: ignore[arg-type]
    rigs = [(number, "scope", None) for number, _ in enumerate(planned.stands)]
    return field_pack(planned, spot, (7, 3, False), rigs, listed, [], [], MADE_AT)


@pytest.mark.parametrize("latitude", [-24.6, 58.6])
def test_targets_and_the_poles_stars_stand_where_astropy_has_them(latitude):
    spot = a_spot(latitude)
    planned = single(spot, min_altitude_deg=5.0)
    pack = packed(planned, spot)
    here = EarthLocation(lat=latitude * u.deg, lon=spot.longitude_deg * u.deg, height=spot.height_m * u.m)
    minutes = np.arange(0, pack.minutes, 97)
    moments = Time([pack.first + timedelta(minutes=int(one)) for one in minutes])
    pressure = 1013.25 * np.exp(-spot.height_m / 8435.0) * u.hPa
    frame = AltAz(obstime=moments, location=here, pressure=pressure, temperature=10 * u.deg_C, obswl=0.55 * u.um)
    run = pack.runs[0]
    theirs = SkyCoord(60.0 * u.deg, planned.runs[0].frame.dec_deg * u.deg).transform_to(frame)
    up = theirs.alt.deg > 5.0
    ours = pack.targets[run.target]
    assert np.abs(np.array(ours.altitude_deg)[minutes] - theirs.alt.deg)[up].max() < 0.08  # told to a tenth
    turned = (np.array(ours.azimuth_deg)[minutes] - theirs.az.deg + 180.0) % 360.0 - 180.0
    assert np.abs(turned * np.cos(theirs.alt.rad))[up].max() < 0.08

    (pole,) = pack.poles
    book = NORTH if latitude > 0 else SOUTH
    first = pole.first
    for star, listed in zip(pole.stars, book, strict=True):
        assert star.name == listed.name
        at = SkyCoord(
            listed.ra_deg * u.deg,
            listed.dec_deg * u.deg,
            pm_ra_cosdec=listed.pm_ra_mas * u.mas / u.yr,
            pm_dec=listed.pm_dec_mas * u.mas / u.yr,
            distance=1000.0 / listed.parallax_mas * u.pc,
            obstime=Time("J2000"),
        )
        for minute in (10, 300, 600):
            now = Time(first + timedelta(minutes=minute))
            frame = AltAz(obstime=now, location=here, pressure=pressure, temperature=10 * u.deg_C, obswl=0.55 * u.um)
            stands = at.apply_space_motion(now).transform_to(frame)
            # The refracted pole: due north or south, lifted as a star at that height is.
            true = SkyCoord(
                alt=abs(latitude) * u.deg, az=(0.0 if latitude > 0 else 180.0) * u.deg, frame=AltAz(obstime=now, location=here)
            )
            aim = true.transform_to("icrs").transform_to(frame)
            angle = aim.position_angle(stands).deg  # from the zenith towards growing azimuth, which is to the right
            shown = (angle + (180.0 if pole.view == "inverted" else 0.0)) % 360.0
            off = (star.clock_deg[minute] - shown + 180.0) % 360.0 - 180.0
            assert abs(off) < 0.6, (star.name, minute, star.clock_deg[minute], shown)
            assert star.radius_arcmin[minute] == pytest.approx(aim.separation(stands).arcmin, abs=0.15)


def test_frames_are_done_when_counting_one_by_one_says_so():
    """A timer as it is: the delay, then shutter open, then the pause; frame after frame."""
    planned = whole(delay_s=7.0, gap_s=3.0, mirror_s=2.0)
    pack = packed(planned, a_spot(-24.6))
    for run in pack.runs:
        clock, done = 7.0, []
        for _ in range(run.frames):
            clock += run.exposure_s
            done.append(round(clock, 1))
            clock += run.interval_gap_s
        assert list(run.done_after_s) == pytest.approx(done, abs=0.051)
        assert run.interval_start_s == pytest.approx(run.exposure_s + run.interval_gap_s)
        looks = [cue.after_s for cue in run.cues if cue.key.startswith("look")]
        assert looks == pytest.approx([done[number - 1] for number in range(30, run.frames, 30)], abs=0.051)


def test_the_view_in_the_finder_lies_as_astropy_sees_the_sky():
    """Offsets from the middle of the view, zenith up, against astropy's position angles."""
    spot = a_spot(58.6)
    planned = single(spot, way="star", min_altitude_deg=10.0)
    (step,) = [one for one in steps_of(planned, spot, ["scope"]) if one.key.startswith("find3")]
    view, way = step.view, planned.runs[0].way
    assert view is not None and way is not None
    here = EarthLocation(lat=spot.latitude_deg * u.deg, lon=spot.longitude_deg * u.deg, height=spot.height_m * u.m)
    frame = AltAz(obstime=Time(planned.runs[0].change_at), location=here)
    begin, end = (SkyCoord(one.ra_deg * u.deg, one.dec_deg * u.deg).transform_to(frame) for one in way.path)
    # From begin to end as one stands facing it: zenith up, azimuth growing to the right.
    seen = np.degrees(np.arctan2(view.end.x - view.begin.x, view.begin.y - view.end.y)) % 360.0
    middle = SkyCoord(alt=(begin.alt + end.alt) / 2, az=(begin.az + end.az) / 2, frame=frame)
    theirs = middle.position_angle(end).deg % 360.0
    assert abs((seen - theirs + 180.0) % 360.0 - 180.0) < 1.5
    apart = np.hypot(view.end.x - view.begin.x, view.end.y - view.begin.y) * view.across_deg / 2.0
    assert apart == pytest.approx(begin.separation(end).deg, rel=0.03)


def test_what_is_left_falls_from_all_to_nothing():
    planned = whole()
    told = [one.percent for one in planned.left]
    assert told[0] == pytest.approx(100.0) and told[-1] == pytest.approx(0.0, abs=1e-6)
    assert all(one >= other - 1e-9 for one, other in pairwise(told))


@pytest.mark.parametrize(
    ("how", "way", "there", "absent"),
    [
        ({}, "scope", {"scope:0", "again:0"}, {"first:0", "mirror:0", "dew:0"}),
        ({}, "photographs", {"first:0", "turn:0", "second:0"}, {"scope:0"}),
        ({"mirror_s": 2.0}, "drift", {"mirror:0", "drift:0"}, {"scope:0", "first:0"}),
        ({"tracking": "untracked"}, "scope", {"camera:0"}, {"scope:0", "azimuth:0", "switch:0", "payload:0"}),
        ({"air_evening_c": 12.0, "air_low_c": 3.0, "humidity_percent": 92.0}, "scope", {"dew:0", "layers"}, set()),
    ],
)
def test_steps_follow_rig_way_and_weather(how, way, there, absent):
    spot = a_spot(58.6)
    planned = single(spot, **how)
    steps = steps_of(planned, spot, [way])
    keys = {one.key for one in steps}
    assert there <= keys and not absent & keys
    assert len(keys) == len(steps)
    assert steps[0].key == "bag" and steps[-1].key == "drive"
    said = [one.caution for one in steps if one.caution]
    assert len(said) == len(set(said)), "a caution stands once a night"
    assert all(len(one.sentence) <= 170 for one in steps)
    run = planned.runs[0]
    (keyed,) = [one for one in steps if one.kind == "run"]
    assert {figure.name: figure.text for figure in keyed.figures}["Frames"] == str(run.frames)


def test_the_version_is_of_the_content_and_not_of_the_moment():
    spot = a_spot(58.6)
    pack = packed(single(spot), spot)
    later = packed(single(spot), spot)
    assert pack.version == later.version
    assert packed(single(spot, gap_s=4.0), spot).version != pack.version


def test_a_shorter_sub_in_more_wind_and_never_a_better_night_for_it():
    """Laws: more wind or a worse axis keeps no more of the planned sub, and no longer sub is advised for wind."""
    pack = packed(whole(), a_spot(-24.6))
    for run in pack.runs:
        found = {(one.wind, one.axis_arcmin): one for one in run.subs}
        axes = sorted({axis for _, axis in found})
        for axis in axes:
            keeps = [found[(wind, axis)].keeps_percent for wind in ("none", "light", "fresh", "strong")]  # type: ignore[index]
            subs = [found[(wind, axis)].exposure_s for wind in ("none", "light", "fresh", "strong")]  # type: ignore[index]
            assert keeps == sorted(keeps, reverse=True) and subs == sorted(subs, reverse=True)
        for wind in ("none", "strong"):
            keeps = [found[(wind, axis)].keeps_percent for axis in axes]  # type: ignore[index]
            assert keeps == sorted(keeps, reverse=True)


def test_one_person_finishes_one_rig_before_the_next_and_the_axis_before_the_frame():
    """Laws of the order: what belongs together stands together, blocks as they are due, each rig aligned before it is framed, each
    run keyed in after its test frame, nothing after the drive."""
    spot = a_spot(-24.6)
    planned = whole()
    steps = steps_of(planned, spot, ["scope", "photographs"])
    keys = [one.key for one in steps]
    for run in planned.runs:
        mine = [place for place, one in enumerate(steps) if one.run == run.key]
        assert mine == list(range(mine[0], mine[-1] + 1)), run.key
        assert [one.kind for one in steps[mine[0] : mine[-1] + 1]][-2:] == ["test", "run"]
        align = [place for place, one in enumerate(steps) if one.rig == run.stand and one.phase == "polar alignment"]
        assert align and max(align) < mine[0]
    begins = [one.due for one in steps if one.key.startswith(("frame", "find1"))]
    assert begins == sorted(begins)
    # Through a scope the axis is aligned before the camera goes on and looked at again after; by pictures the camera is on before.
    assert keys.index("scope:0") < keys.index("payload:0") < keys.index("again:0")
    assert keys.index("payload:1") < keys.index("first:1") < keys.index("second:1")
    assert steps[-1].phase == "at the end" and keys[-1] == "drive"


def hands_busy(steps: tuple[Step, ...]) -> list[tuple[datetime, datetime]]:
    return sorted((one.due, one.due + timedelta(minutes=one.lasts_min)) for one in steps)


@pytest.mark.parametrize("way", ["scope", "photographs", "drift"])
@pytest.mark.parametrize("how", [{}, {"air_evening_c": 12.0, "air_low_c": 3.0, "humidity_percent": 92.0}, {"darkness": "nautical"}])
def test_one_pair_of_hands_does_one_thing_at_a_time(how, way):
    """A law of the whole night: from the walk to the drive no step begins before the last is over; each axis is aligned after stars
    are out and before anything is framed; darks and flats take as long as their frames do."""
    spot, planned = a_spot(-24.6), whole(**how)
    steps = steps_of(planned, spot, [way, way])
    busy = hands_busy(steps)
    for (_, end), (begin, _) in pairwise(busy):
        assert end <= begin + timedelta(seconds=31), [one.key for one in steps if one.due == begin]
    first = min(run.change_at for run in planned.runs)
    aligned = [one.due + timedelta(minutes=one.lasts_min) for one in steps if one.phase == "polar alignment"]
    assert max(aligned) <= first + timedelta(seconds=1)
    assert len([one for one in steps if one.key.startswith("darks")]) == len({(r.stand, r.exposure_s, r.iso) for r in planned.runs})
    for step in steps:
        if step.key.startswith("darks"):
            count, length = (float(one) for one in re.findall(r"(\d+) darks of (\d+) s", step.sentence)[0])
            assert step.goes_on_min == pytest.approx(count * (length + 2.0) / 60.0, abs=0.06)
    assert steps[-1].due >= max(one.due + timedelta(minutes=one.lasts_min + one.goes_on_min) for one in steps[:-1])


def test_plans_made_one_by_one_wait_for_the_person():
    """Two plans of one moment: the second is framed when the first is, ends as planned, and has so many frames fewer."""
    spot, choices = a_spot(-24.6), Choices()
    target = Target("nebula", 60.0, -30.0, 2.0, 22.0)
    asked = [PlanAsked(f"run-{n}", n, Stand(f"rig {n}", a_rig(50 + 85 * n), choices), target, 0.0) for n in range(2)]
    alone = [of_plans([one], spot, EVENING, None).runs[0] for one in asked]
    both = of_plans(asked, spot, EVENING, None)
    first, second = both.runs
    assert second.change_at >= first.begins_at and second.waits_min > 0.0 == first.waits_min
    before = next(run for run in alone if run.key == second.key)
    late = (second.begins_at - before.begins_at).total_seconds()
    fewer = before.frames - second.frames
    assert 0.0 <= fewer * (second.exposure_s + second.pause_s) - late < second.exposure_s + second.pause_s
    start = next(one for one in steps_of(both, spot, ["", ""]) if one.kind == "run" and one.run == second.key)
    assert "Later than its plan" in {figure.name for figure in start.figures}


def test_a_phone_alone_is_never_told_to_measure_photographs():
    """Whatever was chosen before, and however fine the axis has to be."""
    spot = a_spot(-24.6)
    for chosen in ("", "photographs"):
        keys = {one.key.split(":")[0] for one in steps_of(whole(comes_along="phone"), spot, [chosen, chosen])}
        assert not {"first", "turn", "second"} & keys and {"scope", "drift", "rough"} & keys
        assert "second" in {one.key.split(":")[0] for one in steps_of(whole(), spot, ["photographs", "photographs"])}


def test_a_step_takes_as_long_as_this_person_took():
    """The median of three nights; a rest of an hour and several ticks at once say nothing."""
    begin = datetime(2026, 12, 9, 18, tzinfo=UTC)
    nights = [
        [(begin, "azimuth:0"), (begin + timedelta(minutes=level), "level:0"), (begin + timedelta(minutes=90), "latitude:0")]
        for level in (5.0, 6.0, 9.0, 0.05, 70.0)
    ]
    learned = learned_min(nights)
    assert learned == {"level": 6.0}
    steps = {one.key: one for one in steps_of(single(a_spot(58.6)), a_spot(58.6), ["scope"], learned)}
    assert (steps["level:0"].lasts_min, steps["level:0"].yours) == (6.0, True)
    assert not steps["azimuth:0"].yours


def test_nobody_is_asked_for_anything_in_a_sleep():
    hands = Hands([(0.5, 0.6)])
    hands.take(0.65, 0.05)
    assert hands.earliest(0.49, 0.02) == 0.6  # it does not fit before
    assert hands.latest(0.7, 0.02, 0.3) == pytest.approx(0.63)
    assert hands.latest(0.62, 0.02, 0.3) == pytest.approx(0.48)  # what was taken first has 0.60 to 0.62
    assert hands.latest(0.35, 0.1, 0.3) == pytest.approx(0.3)


def test_a_star_without_a_name_is_found_from_one_that_has_one():
    """The 2.6 mag star in Carina (θ Carinae): from Miaplacidus, as astropy sees both."""
    spot = a_spot(-24.6)
    steps = steps_of(whole(), spot, ["scope", "scope"])
    told = next(one.sentence for one in steps if "star in Carina" in one.sentence)
    degrees = float(re.findall(r"(\d+)° \([^)]*\) from Miaplacidus", told)[0])
    theirs = SkyCoord("10h42m57.4s -64d23m40s").separation(SkyCoord("09h13m12.0s -69d43m02s")).deg
    assert degrees == pytest.approx(theirs, abs=0.6)


def test_the_axis_is_good_enough_for_the_strictest_run_of_its_rig():
    """Of all runs of a rig the least tolerance by Pole's own figure: the axis is aligned once for all of them."""
    spot, planned = a_spot(-24.6), whole()
    for rig in range(2):
        least = min(run.seen.tolerance.arcmin for run in planned.runs if run.stand == rig)
        told = [
            one.text
            for step in steps_of(planned, spot, ["", ""])
            if step.rig == rig
            for one in step.figures
            if one.name == "Good enough"
        ]
        assert told and set(told) == {arc_words(least)}
    assert len({arc_words(run.seen.tolerance.arcmin) for run in planned.runs if run.stand == 0}) > 1


def test_a_plan_made_once_more_knows_what_was_checked():
    """Keys are of rig, picture and order: with a longer gap the frames differ, and each run is still itself."""
    first, second = whole(), whole(gap_s=6.0)
    assert {run.key for run in first.runs} == {run.key for run in second.runs}
    assert [run.frames for run in first.runs] != [run.frames for run in second.runs]


def test_what_calls_is_loud_where_somebody_has_to_do_something():
    planned = whole(air_evening_c=12.0, air_low_c=3.0, humidity_percent=92.0)
    pack = packed(planned, a_spot(-24.6))
    loud = {one.kind for one in pack.cues if one.loud}
    assert {"change", "ends", "dew"} <= loud and not {"sunset", "sunrise", "dark", "setup"} & loud
    assert {one.run for one in pack.cues if one.kind in {"change", "ends"}} == {run.key for run in pack.runs}
    assert [one.moment for one in pack.cues] == sorted(one.moment for one in pack.cues)
    assert len({one.key for one in pack.cues}) == len(pack.cues)
