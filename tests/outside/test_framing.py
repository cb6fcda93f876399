"""Frames, compositions and panels against astropy's WCS, brute force over centres and angles, and HEALPix."""

from dataclasses import replace
from datetime import UTC, date, datetime, timedelta
from itertools import combinations

import astropy.units as u
import numpy as np
import pytest
from astropy.coordinates import ICRS, AltAz, BarycentricMeanEcliptic, EarthLocation, SkyCoord, get_body
from astropy.table import Table
from astropy.time import Time
from astropy.wcs import WCS
from astropy_healpix import HEALPix
from scipy.optimize import minimize
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components

from tests.conftest import a_rig, a_spot
from tests.nightly import nightly
from widedusk.core.catalogue.catalogue import catalogue
from widedusk.core.choices import Choices
from widedusk.core.errors import InvalidInput
from widedusk.core.framing.above import above, ecliptic
from widedusk.core.framing.angles import angles_of
from widedusk.core.framing.compose import compose, judged
from widedusk.core.framing.frame import Frame, Subject, corners, from_picture, holds, on_picture, outline, ra_dec_deg, sides_deg
from widedusk.core.framing.framing import Framing
from widedusk.core.framing.pair import pair
from widedusk.core.framing.panel_file import read_panels, write_panels
from widedusk.core.framing.panels import fewest, lay, share_covered
from widedusk.core.kit.assembly import Assembly, Placed
from widedusk.core.kit.parts import BallHead, Bracket, Counterweight, LensRing
from widedusk.core.night.verdict import window_verdict
from widedusk.core.night.windows import night_at, track
from widedusk.core.plan.frame_over import frame_clear, frame_through_window
from widedusk.core.plan.groups import CONSIDERED, as_subject, framed, groups
from widedusk.core.plan.outlook import looked_at
from widedusk.core.plan.ranking import Wanted, rank
from widedusk.core.scene import Target
from widedusk.core.sky.horizon import HorizonProfile
from widedusk.core.sky.places import unit_vectors
from widedusk.core.sky.time import mjd_from_datetime

PIXELS = 6000


def tan_wcs(frame: Frame, height_px: int) -> WCS:
    """The same frame as a header would tell it (Greisen & Calabretta 2002): a square pixel, north turned by the angle."""
    header = WCS(naxis=2)
    header.wcs.ctype = ["RA---TAN", "DEC--TAN"]
    header.wcs.crval = [frame.ra_deg, frame.dec_deg]
    header.wcs.crpix = [(PIXELS + 1) / 2, (height_px + 1) / 2]
    scale = np.degrees(2 * frame.half[0]) / PIXELS
    angle = np.radians(frame.angle_deg)
    # x grows to the right, y upward; with north up, east is to the left
    header.wcs.cd = scale * np.array([[-np.cos(angle), np.sin(angle)], [np.sin(angle), np.cos(angle)]])
    return header


def arcsec_apart(vectors, ra_deg, dec_deg):
    other = unit_vectors(np.radians(ra_deg), np.radians(dec_deg))
    return np.degrees(np.linalg.norm(vectors - other, axis=-1)) * 3600


@pytest.mark.parametrize("dec", [-89.0, -61.3, -0.5, 0.0, 23.0, 70.0, 89.0])
@pytest.mark.parametrize(("angle", "wide", "high"), [(0.0, 7.5, 5.0), (37.0, 20.4, 13.7), (213.0, 60.0, 42.0)])
def test_corners_pixels_and_angle_against_astropy(dec, angle, wide, high):
    frame = Frame(359.7, dec, angle, wide, high)
    height_px = round(PIXELS * frame.half[1] / frame.half[0])
    header = tan_wcs(frame, height_px)
    aside = frame.half[0] / PIXELS * 2  # focal lengths a pixel
    left, top = (1 - PIXELS) / 2, (height_px - 1) / 2
    # astropy's rows grow upward, ours downward
    px = np.array([[0, height_px - 1], [PIXELS - 1, height_px - 1], [PIXELS - 1, 0], [0, 0], [1234, 567]], dtype=float)
    ra, dec_found = header.wcs_pix2world(px, 0).T
    ours = from_picture(frame, (px[:, 0] + left) * aside, (top - px[:, 1]) * aside)
    assert arcsec_apart(ours, ra, dec_found).max() < 1.0
    x, y = on_picture(frame, unit_vectors(np.radians(ra), np.radians(dec_found)))
    back = np.stack([x / aside - left, top - y / aside], axis=1)
    assert np.abs(back - px).max() * np.degrees(aside) * 3600 < 1.0
    edge = corners(frame)
    assert np.degrees(2 * np.arcsin(np.linalg.norm(edge[0] - edge[2]) / 2)) == pytest.approx(
        np.degrees(2 * np.arctan(np.hypot(*frame.half))), abs=1e-9
    )
    middle = SkyCoord(frame.ra_deg, frame.dec_deg, unit="deg")
    up_ra, up_dec = ra_dec_deg(from_picture(frame, np.array(0.0), np.array(-1e-4)))
    told = middle.position_angle(SkyCoord(up_ra, up_dec, unit="deg")).deg
    assert (told - angle + 180) % 360 - 180 == pytest.approx(0, abs=0.01 / np.cos(np.radians(dec)))


def some_subjects(rng) -> tuple[list[Subject], float, float]:
    wide, high = [(2.5, 1.7), (7.5, 5.0), (20.4, 13.7), (40.0, 27.0)][rng.integers(4)]
    around = Frame(rng.uniform(0, 360), np.degrees(np.arcsin(rng.uniform(-1, 1))), rng.uniform(0, 180), wide, high)
    found = []
    for number in range(rng.integers(1, 7)):
        x, y = rng.uniform(-0.7, 0.7, 2) * around.half
        ra, dec = ra_dec_deg(from_picture(around, np.array(x), np.array(y)))
        long_deg = rng.uniform(0, 0.35) * high
        found.append(Subject(f"{number}", float(ra), float(dec), long_deg, long_deg * rng.uniform(0.2, 1), rng.uniform(0, 180)))
    return found, wide, high


def gap_deg(frame: Frame, edge) -> float:
    x, y = on_picture(frame, edge)
    least = min((frame.half[0] - np.abs(x)).min(), (frame.half[1] - np.abs(y)).min())
    return float(np.degrees(least)) if np.isfinite(least) else -180.0


def test_no_centre_and_no_angle_leaves_a_wider_margin(pytestconfig):
    """Random sets, each by brute force: every 5° of angle, the centre let run downhill from there."""
    rng = np.random.default_rng(15)
    short = []
    for _ in range(200 if pytestconfig.getoption("everything") else 50):
        subjects, wide, high = some_subjects(rng)
        ours = compose(subjects, wide, high)
        edge = np.concatenate([outline(one) for one in subjects])
        assert ours.margin_deg == pytest.approx(gap_deg(ours.frame, edge), abs=1e-6)

        ra, dec = np.arctan2(edge[:, 1], edge[:, 0]), np.arcsin(edge[:, 2])
        half = np.tan(np.radians([wide, high]) / 2)
        here = np.radians([ours.frame.ra_deg, ours.frame.dec_deg])

        def lacking(p, ra=ra, dec=dec, half=half, here=here):
            """The textbook's gnomonic formula (Smart, Spherical Astronomy): centre moved by p[0] and p[1], turned by p[2]."""
            centre_dec = here[1] + p[1]
            away = ra - here[0] - p[0] / max(np.cos(here[1]), 1e-3)
            depth = np.sin(centre_dec) * np.sin(dec) + np.cos(centre_dec) * np.cos(dec) * np.cos(away)
            xi = np.cos(dec) * np.sin(away) / depth
            eta = (np.cos(centre_dec) * np.sin(dec) - np.sin(centre_dec) * np.cos(dec) * np.cos(away)) / depth
            across, along = xi * np.cos(p[2]) - eta * np.sin(p[2]), xi * np.sin(p[2]) + eta * np.cos(p[2])
            gap = min(half[0] - np.abs(across).max(), half[1] - np.abs(along).max())
            return -float(np.degrees(gap)) if depth.min() > 0 else 180.0

        grid = [(lacking((0, 0, angle)), angle) for angle in np.radians(np.arange(0, 180, 5))]
        best = max(
            -minimize(lacking, (0, 0, angle), method="Nelder-Mead", options={"xatol": 1e-6, "fatol": 1e-5, "maxiter": 120}).fun
            for _, angle in sorted(grid)[:3]
        )
        short.append(best - ours.margin_deg)
    assert max(short) < 0.01


def test_a_bright_star_is_kept_out_at_the_least_cost():
    """By brute force: every degree of angle, every hundredth of a frame of the middle, on a plane of its own (Smart's formula)."""
    rng = np.random.default_rng(4)
    tried = 0
    for _ in range(12):
        centre = np.array([rng.uniform(0, 360), rng.uniform(-60, 60)])
        wide = 1 / np.cos(np.radians(centre[1]))
        places = [(centre[0] + rng.uniform(-1.2, 1.2) * wide, centre[1] + rng.uniform(-1, 1)) for _ in range(3)]
        subjects = [Subject(f"{number}", ra % 360, dec, 0.4) for number, (ra, dec) in enumerate(places)]
        halo = Subject("bright", float(centre[0] + 1.6 * wide) % 360, float(centre[1] + rng.uniform(-1, 1)), 0.5)
        free, ours = compose(subjects, 6.0, 4.0), compose(subjects, 6.0, 4.0, avoided=[halo])
        edge = np.concatenate([outline(one) for one in subjects])
        assert ours.margin_deg <= free.margin_deg + 1e-9 and ours.margin_deg == pytest.approx(gap_deg(ours.frame, edge), abs=1e-6)

        def plane(vectors, at=centre):
            ra, dec, (ra0, dec0) = np.arctan2(vectors[:, 1], vectors[:, 0]), np.arcsin(vectors[:, 2]), np.radians(at)
            depth = np.sin(dec0) * np.sin(dec) + np.cos(dec0) * np.cos(dec) * np.cos(ra - ra0)
            east = np.cos(dec) * np.sin(ra - ra0) / depth
            return np.stack([east, (np.cos(dec0) * np.sin(dec) - np.sin(dec0) * np.cos(dec) * np.cos(ra - ra0)) / depth], axis=1)

        wanted, round_it = plane(edge), plane(outline(halo))
        half, best = np.tan(np.radians([3.0, 2.0])), -np.inf
        steps = np.linspace(-1, 1, 161) * half[0]
        for angle in np.radians(np.arange(0, 180)):
            turn = np.array([[np.cos(angle), -np.sin(angle)], [np.sin(angle), np.cos(angle)]]).T
            (low, high), (near, far) = (
                [getattr(points @ turn, end)(axis=0) for end in ("min", "max")] for points in (wanted, round_it)
            )
            gap = [half[axis] - np.maximum(high[axis] - steps, steps - low[axis]) for axis in (0, 1)]
            out = [(near[axis] >= steps + half[axis]) | (far[axis] <= steps - half[axis]) for axis in (0, 1)]
            both = np.where(out[0][:, None] | out[1][None], np.minimum(gap[0][:, None], gap[1][None]), -np.inf)
            best = max(best, float(np.degrees(both.max())))
        if not ours.let_in:
            tried += 1
            x, y = on_picture(ours.frame, outline(halo))
            assert not ((np.abs(x) < ours.frame.half[0] - 1e-5) & (np.abs(y) < ours.frame.half[1] - 1e-5)).any()
            # the grid of middles is 0.04° fine; nothing on it may be better than that
            assert ours.margin_deg > best - 0.01
            assert ours.margin_deg < best + 0.06
    assert tried >= 8
    among = compose([Subject("left", 10, 0, 1.0), Subject("right", 14, 0, 1.0)], 6.0, 4.0, avoided=[Subject("amid", 12, 0, 0.5)])
    assert among.let_in == ("amid",) and not among.cut


def test_panels_go_through_files_and_come_back():
    wanted = (Subject("Bubble", 200.0, -41.0, 1.5, 0.7, 20.0), Subject("Point", 201, -42))
    framing = Framing("Sweep", 200.25, -41.5, 33.0, 3, 2, 0.25, "turned", ((0, 1),), wanted)
    laid = framing.panels(7.5, 5.0)
    assert read_panels(write_panels(framing, laid, "ecsv").encode()) == framing
    assert read_panels(write_panels(framing, laid, "csv").encode()) == replace(framing, wanted=())
    table = Table.read(write_panels(framing, laid, "ecsv"), format="ascii.ecsv")
    assert str(table["ra_deg"].unit) == "deg" and len(table) == 6 and list(table["shot"]).count("no") == 1
    lines = write_panels(framing, laid, "outlines").splitlines()
    assert len(lines) == 5
    for line, one in zip(lines, framing.kept(laid), strict=True):
        numbers = np.array(line.removeprefix("POLYGON ICRS ").split(), dtype=float).reshape(4, 2)
        assert arcsec_apart(corners(one.frame), *numbers.T).max() < 0.01
    good = write_panels(framing, laid, "csv")
    for broken, said in (
        (good.replace("middle_ra_deg", "somewhere"), "“middle_ra_deg” is missing"),
        (good.replace("200.25", "north"), "“north” is not a number"),
        (good.replace(",3,2,0.25", ",40,40,0.25"), "1600 panels"),
        (good.replace(",0.25,", ",0.6,"), "from 0 to 50 %"),
        (good.replace("Sweep", "Other", 1), "several framings"),
        ("\n".join(lines), "Outlines do not say"),
        ("", "no rows"),
    ):
        with pytest.raises(InvalidInput) as caught:
            read_panels(broken.encode())
        assert said in caught.value.faults[0].message, said


def test_what_a_rig_cannot_take_is_not_composed_and_focal_lengths_are_told():
    pair = [Subject("west", 10, 40, 1.0), Subject("east", 14, 41, 1.0)]
    free, bare = compose(pair, 7.5, 5.0), compose(pair, 7.5, 5.0, only_deg=(0, 90))
    assert bare.frame.angle_deg in {0.0, 90.0} and bare.margin_deg < free.margin_deg
    upright = compose(pair, 7.5, 5.0, within_deg=(45, 135))
    assert 45 <= upright.frame.angle_deg <= 135
    # A lens longer by fits_up_to holds them with nothing to spare.
    x, y = free.frame.half / free.fits_up_to
    longest = compose(pair, *np.degrees(2 * np.arctan([x, y])))
    assert longest.margin_deg == pytest.approx(0, abs=0.01)
    assert compose([*pair, Subject("far", 30, 44, 1.0)], 7.5, 5.0).cut
    assert judged(Frame(190, -40, 0, 7.5, 5.0), pair).cut == ("west", "east")  # behind the camera
    across = compose([Subject("before", 359.9, 20), Subject("after", 0.2, 20)], 7.5, 5.0)
    assert min(across.frame.ra_deg, 360 - across.frame.ra_deg) < 0.2
    with pytest.raises(InvalidInput, match="too far from the others"):
        compose([Subject("here", 0, 0), Subject("there", 180, 0)], 40, 27)


@pytest.mark.parametrize("grid", ["turned", "equatorial"])
@pytest.mark.parametrize(
    ("ra", "dec", "angle", "wide", "high", "columns", "rows", "overlap"),
    [
        (100.0, -70.0, 0.0, 7.5, 5.0, 5, 3, 0.2),
        (359.6, 0.5, 180.0, 20.4, 13.7, 3, 3, 0.25),
        (83.0, 55.0, 33.0, 20.4, 13.7, 3, 4, 0.15),
        (12.0, 88.5, 90.0, 7.5, 5.0, 3, 3, 0.2),
        (200.0, -30.0, 0.0, 40.0, 27.0, 2, 3, 0.1),
    ],
)
def test_panels_leave_no_hole_and_share_what_was_asked(ra, dec, angle, wide, high, columns, rows, overlap, grid):
    laid = lay(Frame(ra, dec, angle, wide, high), columns, rows, overlap, grid)
    assert len(laid.panels) == columns * rows
    headers = {
        (one.row, one.column): tan_wcs(one.frame, round(PIXELS * one.frame.half[1] / one.frame.half[0])) for one in laid.panels
    }
    # Pixels of 0.11°, and of wider fields 0.23° and 0.46°: a fifth or less of what panels share.
    sky = HEALPix(nside=512 if high < 10 else 256 if high < 25 else 128, order="nested")
    lon, lat = sky.healpix_to_lonlat(np.arange(sky.npix))
    towards = unit_vectors(lon.rad, lat.rad) @ unit_vectors(*np.radians([ra, dec]))
    near = np.flatnonzero(towards > np.cos(np.radians(min(75, 0.6 * np.hypot(wide * columns, high * rows)))))
    lon, lat = lon[near], lat[near]
    seen = {}
    for place, header in headers.items():
        px, py = header.wcs_world2pix(np.stack([lon.deg, lat.deg], axis=1), 0).T
        depth = unit_vectors(lon.rad, lat.rad) @ unit_vectors(*np.radians(header.wcs.crval))
        seen[place] = (depth > 0) & (np.abs(px - header.wcs.crpix[0] + 1) <= PIXELS / 2)
        seen[place] &= np.abs(py - header.wcs.crpix[1] + 1) <= (2 * header.wcs.crpix[1] - 1) / 2
    count = sum(one.astype(int) for one in seen.values())
    # No hole: whatever nobody sees is joined to the outside, so the patch that is seen has no second edge.
    dark = np.sort(near[count == 0])
    around = np.asarray(sky.neighbours(dark)).ravel()
    at = np.minimum(np.searchsorted(dark, around), len(dark) - 1)
    joined = dark[at] == around
    links = (np.ones(joined.sum()), (np.tile(np.arange(len(dark)), 8)[joined], at[joined]))
    links = coo_array(links, shape=(len(dark), len(dark)))
    assert connected_components(links, directed=False)[0] == 1
    # The least overlap, where rows and where columns meet, is the one asked for.
    assert laid.overlap == pytest.approx(overlap, abs=0.01)
    for (row, column), one in seen.items():
        beside = seen.get((row, column + 1))
        if beside is not None:
            assert (one & beside).sum() / one.sum() >= overlap - 0.01
    moves = [(abs(b.row - a.row), abs(b.column - a.column)) for a, b in zip(laid.panels, laid.panels[1:], strict=False)]
    assert all(sorted(move) == [0, 1] for move in moves)
    if laid.grid == "equatorial":
        assert {one.frame.angle_deg for one in laid.panels} == {angle % 360}


def test_the_fewest_panels_see_all_of_a_target_and_no_fewer_do():
    cloud = Subject("cloud", 80.0, -72.0, 11.0, 8.0, 120.0)
    frame = Frame(cloud.ra_deg, cloud.dec_deg, 30.0, 5.0, 3.4)
    laid = fewest(frame, [cloud], 0.2)
    assert share_covered(laid.panels, cloud) == 1.0
    count = len(laid.panels)
    for columns in range(1, count):
        for rows in range(1, (count - 1) // columns + 1):
            assert share_covered(lay(frame, columns, rows, 0.2).panels, cloud) < 1.0
    for columns, overlap, words in ((2, 0.6, "50 %"), (2, -0.05, "50 %"), (40, 0.2, "160 nights")):
        with pytest.raises(InvalidInput, match=words):
            lay(frame, columns, columns, overlap)


@pytest.mark.parametrize("latitude", [-24.6, nightly(60.1)])
def test_what_fits_together_is_in_the_frame_and_nothing_easy_is_missed(latitude, pytestconfig):
    """Each group by astropy's WCS, by day every fifth; and every pair that a circle within the short side holds is found, alone or
    in a group."""
    night = night_at(a_spot(latitude, 16.9), date(2026, 12, 9))
    rig = a_rig()
    ranked = rank(catalogue(), rig, night, Choices(), Wanted(smallest_percent=2, largest_percent=100), limit=CONSIDERED).rows
    found = groups(ranked, rig)
    _, high = sides_deg(rig)
    assert found and [one.worth for one in found] == sorted((one.worth for one in found), reverse=True)
    for one in found if pytestconfig.getoption("everything") else found[::5]:
        frame = framed(one, rig)[0].frame
        height_px = round(PIXELS * frame.half[1] / frame.half[0])
        header = tan_wcs(frame, height_px)
        for member in one.members:
            ra, dec = ra_dec_deg(outline(as_subject(member.entry.target)))
            x, y = header.wcs_world2pix(np.stack([ra, dec], axis=1), 1).T
            assert x.min() >= 0.5 and x.max() <= PIXELS + 0.5 and y.min() >= 0.5 and y.max() <= height_px + 1
        assert 2 <= len(one.members) <= 4 and one.usable_min == min(each.usable_min for each in one.members)
        assert one.worth > max(each.worth for each in one.members)
    held = [{each.entry.key for each in one.members} for one in found]
    targets = [one.entry for one in ranked if 0.02 * high <= one.entry.target.extent_deg <= high][:12]
    places = SkyCoord([one.target.ra_deg for one in targets], [one.target.dec_deg for one in targets], unit="deg")
    for a, b in combinations(range(len(targets)), 2):
        apart = places[a].separation(places[b]).deg
        radii = [targets[one].target.extent_deg / 2 for one in (a, b)]
        if abs(radii[0] - radii[1]) < apart and 0.15 * high < apart and apart + sum(radii) < 0.95 * high:
            assert any({targets[a].key, targets[b].key} <= group for group in held), (targets[a].key, targets[b].key)


@pytest.mark.parametrize("latitude", [-33.0, 52.0])
def test_ground_zenith_and_moon_stand_where_astropy_has_them(latitude):
    spot = replace(a_spot(latitude, 16.9), horizon=HorizonProfile(((0.0, 3.0), (90.0, 20.0), (200.0, 8.0))))
    for hours in (18.0, 22.5, 27.0):
        moment = datetime(2026, 12, 20, tzinfo=UTC) + timedelta(hours=hours)
        found = above(spot, mjd_from_datetime(moment))
        place = EarthLocation(spot.longitude_deg * u.deg, latitude * u.deg, spot.height_m * u.m)
        frame = AltAz(obstime=Time(moment), location=place)
        line = SkyCoord(*found.horizon.T, unit="deg").transform_to(frame)
        azimuth = np.radians(np.arange(0, 362, 2))
        turn = (line.az.deg - np.degrees(azimuth) + 180) % 360 - 180
        assert np.abs(turn * np.cos(line.alt.rad)).max() < 0.02
        # astropy's frame has no air; a horizon of 3° is lifted by a quarter of a degree
        lifted = np.degrees(spot.horizon.altitude_at(azimuth)) - line.alt.deg
        assert lifted.min() > 0.0 and lifted.max() < 0.3
        zenith = SkyCoord(*found.zenith, unit="deg").transform_to(frame)
        assert zenith.alt.deg > 89.98
        moon = get_body("moon", Time(moment), place)
        there = SkyCoord(*found.moon, unit="deg")
        assert there.separation(SkyCoord(moon.ra, moon.dec)).deg < 0.02
        assert found.moon_up == (moon.transform_to(frame).alt.deg > 0)
    theirs = BarycentricMeanEcliptic(np.arange(0, 361, 5) * u.deg, np.zeros(73) * u.deg).transform_to(ICRS())
    assert SkyCoord(*ecliptic().T, unit="deg").separation(SkyCoord(theirs.ra, theirs.dec)).arcsec.max() < 1


def test_two_cameras_share_what_healpix_says():
    first = Frame(310.0, 44.0, 30.0, 20.0, 13.5)
    found = pair(first, (12.0, 8.0), 7.0, -4.0, 25.0)
    pixels = HEALPix(nside=512, order="ring")
    every = pixels.healpix_to_lonlat(np.arange(pixels.npix))
    vectors = unit_vectors(every[0].rad, every[1].rad)
    one, two = holds(first, vectors), holds(found.second, vectors)
    area = pixels.pixel_area.to_value(u.deg**2)
    assert found.both_deg2 == pytest.approx((one & two).sum() * area, rel=0.02)
    assert found.either_deg2 == pytest.approx((one | two).sum() * area, rel=0.005)
    assert found.of_second == pytest.approx((one & two).sum() / two.sum(), abs=0.01)
    # Its middle lies where it was asked, on the plane of the first.
    x, y = tan_wcs(first, 4000).wcs_world2pix([[found.second.ra_deg, found.second.dec_deg]], 1)[0]
    scale = np.degrees(2 * first.half[0]) / PIXELS
    assert np.degrees(np.arctan(np.radians((x - (PIXELS + 1) / 2) * scale))) == pytest.approx(7.0, abs=0.01)
    assert np.degrees(np.arctan(np.radians((y - 4001 / 2) * scale))) == pytest.approx(-4.0, abs=0.01)


def test_a_rig_says_which_angles_it_can_take():
    """Common practice, no source: a ring turns, a bare bracket does not, a ball head does nearly."""
    parts = {"camera": a_rig().camera, "lens": replace(a_rig().lens, collar=False), "tracker": a_rig().tracker}
    bare = Assembly("bare", [Placed(one) for one in (*parts.values(), Bracket("arm", 300.0), Counterweight("weight", 1000.0))])
    assert angles_of(bare).only_deg == (0.0, 90.0) and "180°" in angles_of(bare).meridian
    ring = replace(bare, placed=[*bare.placed, Placed(LensRing("ring", 150.0))])
    assert angles_of(ring).only_deg is None and "ring" in angles_of(ring).why
    ball = Assembly("ball", [*(Placed(one) for one in parts.values()), Placed(BallHead("head", 400.0))])
    assert angles_of(ball).only_deg is None and "slot" in angles_of(ball).why and "stays" in angles_of(ball).meridian
    still = Assembly("still", [Placed(parts["camera"]), Placed(parts["lens"])])
    assert "Nothing tracks" in angles_of(still).why


def test_the_frame_over_the_ground_as_astropy_sees_it():
    """A hill in the south-east: the lowest clearance of the edge by astropy's altitudes, within refraction."""
    spot = replace(a_spot(-24.6, 16.9), horizon=HorizonProfile(((0.0, 3.0), (120.0, 28.0), (150.0, 34.0), (240.0, 4.0))))
    frame = Frame(160.9, -59.7, 30.0, 20.0, 13.0)
    target = Target("Keel", 160.9, -59.7, 10.0, 21.0)
    found = frame_through_window(spot, date(2027, 2, 9), target, frame, Choices())
    assert len(found) == 3
    night, path = looked_at(spot, date(2027, 2, 9), target, Choices())
    for one, minute in zip((found[0], found[2]), path.best_run, strict=True):
        moment = Time(float(night.mjd[minute]), format="mjd")
        place = EarthLocation(spot.longitude_deg * u.deg, spot.latitude_deg * u.deg, spot.height_m * u.m)
        x, y = frame.half
        along = np.linspace(-1, 1, 60)
        px = np.concatenate([along * x, np.full(60, x), along * x, np.full(60, -x)])
        py = np.concatenate([np.full(60, -y), along * y, np.full(60, y), along * y])
        ra, dec = ra_dec_deg(from_picture(frame, px, py))
        seen = SkyCoord(ra, dec, unit="deg").transform_to(AltAz(obstime=moment, location=place))
        ground = np.interp(seen.az.deg, [0, 120, 150, 240, 360], [3, 28, 34, 4, 3])
        assert one.clear_deg == pytest.approx((seen.alt.deg - ground).min(), abs=0.5)
        assert ("clear" in one.words) == (one.clear_deg >= 0)
    hidden = replace(spot, horizon=HorizonProfile(((0.0, 85.0), (180.0, 85.0))))
    assert frame_through_window(hidden, date(2027, 2, 9), target, frame, Choices()) == ()


def test_a_window_is_not_green_before_the_whole_frame_is_clear():
    """Minute by minute by astropy's own altitude and azimuth of places all over the frame's edge, and the profile by hand."""
    spot = replace(
        a_spot(-24.62, 16.94), horizon=HorizonProfile(((0.0, 2.0), (80.0, 2.0), (95.0, 52.0), (110.0, 2.0), (300.0, 2.0)))
    )
    target, frame = Target("one", 83.8, -5.4, 1.0, 22.0), Frame(83.8, -5.4, 30.0, 10.0, 7.0)
    night = night_at(spot, date(2026, 12, 9))
    path = track(night, target, Choices())
    first, last = path.best_run
    clear = frame_clear(night, frame)(path.best_run)
    where = EarthLocation.from_geodetic(spot.longitude_deg, spot.latitude_deg, spot.height_m)
    high = round(PIXELS * frame.half[1] / frame.half[0])
    along, wide, tall = np.linspace(0.0, 1.0, 41), PIXELS, high
    px = np.concatenate([along * wide, np.full(41, wide), along * wide, np.zeros(41)])
    py = np.concatenate([np.zeros(41), along * tall, np.full(41, tall), along * tall])
    edge = tan_wcs(frame, high).pixel_to_world(px - 0.5, py - 0.5)
    truth = []
    for minute in range(first, last + 1, 7):
        seen = edge.transform_to(AltAz(obstime=Time(night.mjd[minute], format="mjd"), location=where, pressure=915 * u.hPa))
        profile = np.interp(seen.az.deg, [0.0, 80.0, 95.0, 110.0, 300.0], [2.0, 2.0, 52.0, 2.0, 2.0], period=360.0)
        truth.append(float((seen.alt.deg - profile).min()))
    assert np.abs(clear[::7] - truth).max() < 0.25
    verdict = window_verdict(night, path, target, Choices(), frame_clear(night, frame))
    assert clear.min() < 0.0 < clear.max()
    assert verdict.level == "care"
    begins = next(minute for minute in range(len(clear)) if (clear[minute:] >= 0.0).all())
    assert f"from {spot.clock(float(night.mjd[first + begins]))}" in verdict.sentence
    open_ = night_at(replace(spot, horizon=HorizonProfile(((0.0, 0.0), (180.0, 0.0)))), date(2026, 12, 9))
    assert window_verdict(open_, track(open_, target, Choices()), target, Choices(), frame_clear(open_, frame)).level == "go"
