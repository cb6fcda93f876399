"""Facts and judgements of frames against what was drawn into them, and against libraries that share no line with ours."""

import io
from dataclasses import replace
from datetime import UTC, datetime
from itertools import pairwise

import numpy as np
import pytest
import tifffile
from astropy import units as u
from astropy.io import fits
from astropy.table import Table
from astropy.timeseries import LombScargle
from PIL import Image
from scipy.optimize import minimize

from tests.invented import SIX, as_dng, of_tiles, patterns
from tests.invented_runs import GOOD, LIMITS, around_of, judged_invented, measured_run, observer, shots_of, the_sky, truly_culled
from tests.nightly import nightly
from widedusk.core.frames.attitude import Air
from widedusk.core.frames.frame import read_frame
from widedusk.core.judge.axis_of_run import Seen, axis_of_run
from widedusk.core.judge.course import Shot, course
from widedusk.core.judge.export import Line, sidecar, table_text, tables_fits
from widedusk.core.judge.finding import find_causes
from widedusk.core.judge.motion import worm_of
from widedusk.core.judge.word import judge, worth
from widedusk.core.simulate.camera import CardHeader, as_fits
from widedusk.core.simulate.series import Happening, take
from widedusk.core.simulate.spoiled import spoiled
from widedusk.core.sky.time import mjd_from_datetime
from widedusk.core.tracking.even_trail import true_excess


def one_frame(folder, cause: str, seed: int, happening=None, focal: float = 100.0):
    """A frame of an invented run, drawn with one happening in place of its own."""
    rng = np.random.default_rng(seed)
    run = spoiled(rng, cause, focal, bool(seed % 2), 8)
    at = min(next(iter(run.causes.values()), {2}))
    drawn = take(run.scene, the_sky(), at, happening or run.happenings[at], rng)
    path = folder / "one.fits"
    path.write_bytes(as_fits(drawn.electrons, run.clip_e, CardHeader(run.scene.start, run.scene.exposure_s, focal)))
    sensor_mm = run.scene.camera.sensor.width_px * run.scene.camera.sensor.pitch_um / 1000.0
    return run, drawn, read_frame(path, patterns, (sensor_mm, focal), None, lambda *_: None), at


@pytest.mark.parametrize("seed", [1, nightly(2)])
def test_starlight_that_comes_through_is_told_to_three_percent(tmp_path, seed):
    _, _, clear, _ = one_frame(tmp_path, GOOD, seed, Happening())
    for share in (0.8, 0.4):
        _, _, dimmed, _ = one_frame(tmp_path, GOOD, seed, Happening(clear=share))
        told = 10 ** (-0.4 * (clear.facts.zero_mag - dimmed.facts.zero_mag))
        assert told == pytest.approx(share, rel=0.03)


def test_the_background_and_its_slope_are_those_that_were_drawn(tmp_path):
    _, _, dark, _ = one_frame(tmp_path, GOOD, 5, Happening())
    _, _, lit, _ = one_frame(tmp_path, GOOD, 5, Happening(sky=2.5, slope=(0.4, 0.0)))
    assert lit.facts.background / dark.facts.background == pytest.approx(2.5, rel=0.02)
    ratio = [one.background / other.background for one, other in zip(lit.facts.zones, dark.facts.zones, strict=True)]
    left, right = np.mean(ratio[0::5]), np.mean(ratio[4::5])
    assert (right - left) / (right + left) == pytest.approx(0.4 * 0.8, rel=0.1)  # between the middles of the outer zones


@pytest.mark.parametrize("form", ["mosaic.fits", "two.dng", "six.dng", "large.fits", "plain.tif", "plain.jpg"])
def test_cuts_are_pixel_for_pixel_and_in_colour(tmp_path, form):
    """A white star of known width in the centre, a red one beside it, each drawn as a Gaussian; read back by Pillow.
    Mosaics and large pictures are measured at half their size, and cut whole."""
    sides = (6400, 5200) if form == "large.fits" else (1000, 700)
    x, y = sides[0] // 2 + 0.0, sides[1] // 2 + 0.0
    column, row = np.meshgrid(np.arange(sides[0], dtype=np.float32), np.arange(sides[1], dtype=np.float32), copy=False)

    def star(at_x: float) -> np.ndarray:
        return np.exp(-((column - at_x) ** 2 + (row - y) ** 2) / (2 * 2.5**2))

    rng = np.random.default_rng(3)
    light = 1000.0 + 9000.0 * star(x)
    three = np.stack([light + 9000.0 * star(x + 40), light, light], axis=-1)
    three += rng.normal(0, 400.0, three.shape if form != "large.fits" else (*sides[::-1], 1))
    path = tmp_path / form
    if form == "mosaic.fits":
        plane = three[..., 1].copy()
        plane[0::2, 0::2], plane[1::2, 1::2] = three[0::2, 0::2, 0], three[1::2, 1::2, 2]
        path.write_bytes(as_fits(plane, 65535.0, CardHeader(datetime(2026, 12, 8, tzinfo=UTC), 60.0, 100.0, mosaic="RGGB")))
    elif form.endswith(".dng"):
        tile = SIX if form == "six.dng" else ("RG", "GB")
        as_dng(path, of_tiles(np.clip(three, 0, 65535), tile).astype(np.uint16), tile)
    elif form == "large.fits":
        path.write_bytes(as_fits(three[..., 1], 65535.0, CardHeader(datetime(2026, 12, 8, tzinfo=UTC), 60.0, 100.0)))
    elif form == "plain.tif":
        tifffile.imwrite(path, np.clip(three, 0, 65535).astype(np.uint16), photometric="rgb")
    else:
        codes = 255 * np.clip(three / 16000.0, 0, 1) ** (1 / 2.2)
        Image.fromarray(codes.astype(np.uint8)).save(path, quality=97, subsampling=0)
    frame = read_frame(path, patterns, (36.0, 100.0), None, lambda *_: None)
    seen = np.asarray(Image.open(io.BytesIO(frame.crops)).convert("RGB"), dtype=float)
    assert seen.shape == (192, 5 * 192, 3)
    centre = np.square(seen[:, :192] / 255.0)  # the root that it was drawn with, undone
    green = centre[..., 1] - np.median(centre[..., 1])
    begins = 2 if form == "six.dng" else 0  # on a whole tile
    half = green[96 + begins, 76:117] > 0.5 * green[94:101, 94:101].max()
    assert np.count_nonzero(half) == pytest.approx(2.3548 * 2.5, abs=2.0)
    if form != "large.fits":
        red, blue = (centre[94:99, 134:139, one][begins:, begins:].mean() for one in (0, 2))
        assert red > 3 * blue


@pytest.mark.parametrize("focal", [nightly(35.0), 85.0, nightly(200.0)])
def test_the_noise_is_that_of_the_sky_whatever_stars_and_slopes_lie_on_it(tmp_path, focal):
    """Crowded or not, sloping or under a cloud that takes the stars: that of the light that was drawn, and of the readout."""
    told, drawn = [], []
    for happening in (Happening(), Happening(sky=3.0, slope=(0.3, -0.2)), Happening(clear=0.3, sky=1.2)):
        run, true, frame, _ = one_frame(tmp_path, GOOD, 7, happening, focal)
        told.append(frame.facts.noise * run.clip_e)
        drawn.append(true.noise_e)
    told, drawn = np.array(told), np.array(drawn)
    assert told == pytest.approx(drawn, rel=0.15)  # the corners, where it is darker, are calmer
    assert told / told[0] == pytest.approx(drawn / drawn[0], rel=0.05)


def test_coma_is_measured_by_zone(tmp_path):
    """Along the radius a star in a corner has the variance that was drawn: r⁴ times that of the corner."""
    run, _, frame, _ = one_frame(tmp_path, "coma", 3)
    sigma = run.scene.camera.lens.fwhm_px / 2.3548
    half = np.hypot(600, 400)
    for place, zone in enumerate(frame.facts.zones):
        x, y = ((place % 5 + 0.5) / 5 - 0.5) * 1200, ((place // 5 + 0.5) / 3 - 0.5) * 800
        away = np.hypot(x, y)
        if zone.star is None or zone.star.stars < 8 or away < 0.5 * half:
            continue
        ux, uy = x / away, y / away
        along = zone.star.xx * ux**2 + zone.star.yy * uy**2 + 2 * zone.star.xy * ux * uy
        drawn = sigma**2 + 1 / 12 + (run.scene.glass.coma_px * (away / half) ** 2) ** 2
        assert np.sqrt(along) == pytest.approx(np.sqrt(drawn), rel=0.1)


@pytest.mark.parametrize("kind", ["satellite", "aircraft", "meteor"])
def test_a_line_of_light_is_found_where_it_was_drawn(tmp_path, kind):
    found = 0
    for seed in (11, 13, 14):
        run, _, frame, at = one_frame(tmp_path, kind, seed, focal=135.0)
        drawn = run.happenings[at].streak
        middle = np.add(drawn.start, drawn.end) / 2
        along = np.subtract(drawn.end, drawn.start) / np.hypot(*np.subtract(drawn.end, drawn.start))
        for one in frame.facts.streaks:
            ends = np.array([[one.from_x - 0.5, one.from_y - 0.5], [one.to_x - 0.5, one.to_y - 0.5]]) * [1200, 800]
            aside = np.abs(np.cross(np.append(along, 0), np.column_stack([ends - middle, [0, 0]]))[:, 2])
            assert aside.max() < 6.0  # px: a thing that is not there must not be told
            found += one.kind == kind
    assert found >= 2


def test_frames_without_a_line_tell_of_none(tmp_path):
    for seed in range(20, 26):
        assert one_frame(tmp_path, GOOD, seed, focal=(35.0, 85.0, 200.0)[seed % 3])[2].facts.streaks == ()


@pytest.mark.parametrize("length", [1.0, 2.0, 3.5, 6.0])
def test_the_variance_of_an_even_trail_is_put_right(length):
    """Weighted moments of a drawn trail, by brute force over a plane of points, brought back to L² / 12."""
    grid = np.linspace(-12, 12, 961)
    light = np.mean([np.exp(-0.5 * (grid - at) ** 2) for at in np.linspace(-length / 2, length / 2, 401)], axis=0)
    variance = 1.0
    for _ in range(400):
        window = np.exp(-0.5 * grid**2 / variance) * light
        variance = 2 * np.sum(window * grid**2) / np.sum(window)
    assert float(true_excess(variance - 1.0)) == pytest.approx(length**2 / 12, rel=0.01)


def wander(rng, turns: float, count: int, shape=()):
    """Middles of exposures on a worm: half amplitude and period, and what is seen, drifting, with jitter; px. shape: shares of the
    amplitude that turn twice and three times as fast, each by a phase of its own."""
    amplitude, period, phase = rng.uniform(1.5, 8.0), rng.uniform(430, 640), rng.uniform(0, 2 * np.pi)
    exposure = turns * period / count - 2.0
    begins = np.arange(count) * (exposure + 2.0)
    inside = (np.arange(400) + 0.5) / 400 * exposure
    angle = 2 * np.pi * (begins[:, None] + inside) / period + phase
    waves = [share * np.sin(order * angle + rng.uniform(0, 2 * np.pi)) for order, share in zip((2, 3), shape, strict=False)]
    truth = np.mean(amplitude * (np.sin(angle) + sum(waves)), axis=1)
    seen = truth + rng.normal(0, 0.002) * begins + rng.normal(0, 0.12, count)
    return begins + exposure / 2, seen, exposure, amplitude, period


def test_periodic_error_is_found_and_its_uncertainty_is_honest():
    """Two hundred trackers, each watched for one and a half to four turns of its worm."""
    rng = np.random.default_rng(8)
    off_amplitude, off_period, sigmas = [], [], []
    for _ in range(200):
        turns = rng.uniform(1.5, 4.0)
        seconds, seen, exposure, amplitude, period = wander(rng, turns, int(turns * rng.uniform(7, 14)) + 4)
        found = worm_of(seconds, seen, exposure)
        assert found is not None
        off_amplitude.append(abs(found.half_amplitude_px / amplitude - 1))
        off_period.append(abs(found.period_s / period - 1))
        sigmas.append(
            [(found.half_amplitude_px - amplitude) / found.half_amplitude_sigma, (found.period_s - period) / found.period_sigma]
        )
    assert np.mean(np.array(off_amplitude) < 0.1) >= 0.95
    assert np.mean(np.array(off_period) < 0.05) >= 0.95
    within = np.abs(np.array(sigmas))
    assert np.all(np.mean(within < 1, axis=0) > 0.58) and np.all(np.mean(within < 1, axis=0) < 0.80)
    assert np.all(np.mean(within < 2, axis=0) > 0.89)


def test_the_shape_of_a_worm_is_found_and_its_uncertainty_is_honest():
    """Two hundred worms that are not round: a tenth to a half of the amplitude twice a turn, up to a fifth three times."""
    rng = np.random.default_rng(18)
    sigmas, of_amplitude = [], []
    for _ in range(200):
        twice, thrice = rng.uniform(0.1, 0.5), rng.uniform(0.05, 0.2)
        turns = rng.uniform(2.2, 5.0)
        seconds, seen, exposure, amplitude, _ = wander(rng, turns, int(turns * rng.uniform(9, 14)) + 6, (twice, thrice))
        found = worm_of(seconds, seen, exposure)
        of_amplitude.append((found.half_amplitude_px - amplitude) / found.half_amplitude_sigma)
        told = found.overtones
        assert [one.order for one in told] == [2, 3]
        truths = (twice * amplitude, thrice * amplitude)
        sigmas.append([(one.half_amplitude_px - truth) / one.sigma_px for one, truth in zip(told, truths, strict=True)])
    within = np.abs(np.array(sigmas))
    assert np.all(np.mean(within < 1, axis=0) > 0.58) and np.all(np.mean(within < 1, axis=0) < 0.80), np.mean(within < 1, axis=0)
    assert np.all(np.mean(within < 2, axis=0) > 0.89)
    # The turn itself is told no worse for them: they are no noise.
    assert 0.58 < np.mean(np.abs(of_amplitude) < 1) < 0.80 and np.mean(np.abs(of_amplitude) < 2) > 0.89
    seconds, seen, exposure, _, _ = wander(rng, 1.7, 24)
    assert worm_of(seconds, seen, exposure).overtones == ()


def test_the_period_is_that_of_another_periodogram():
    """astropy's Lomb–Scargle of the same path, its slope taken off first by its own fit."""
    rng = np.random.default_rng(4)
    for _ in range(10):
        seconds, seen, exposure, _, _ = wander(rng, 4.0, 44)
        found = worm_of(seconds, seen, exposure)
        slope = np.polyfit(seconds, seen, 1)
        periods = np.linspace(300, 900, 4000)
        power = LombScargle(seconds, seen - np.polyval(slope, seconds), nterms=1).power(1 / periods)
        assert found.period_s == pytest.approx(periods[np.argmax(power)], rel=0.02)


def test_weights_make_the_best_stack(tmp_path):
    """No other weights of the kept frames give a star of the stack a better signal to noise: by search, not by formula."""
    rng = np.random.default_rng(6)
    clear, noise, width = rng.uniform(0.4, 1, 12), rng.uniform(1, 3, 12), rng.uniform(2.2, 3.4, 12)

    def snr(weights):
        # Each frame is brought to one brightness first; a star is summed over the pixels it covers in that frame.
        weights = np.abs(weights)
        return np.sum(weights) / np.sqrt(np.sum((weights * noise * width / clear) ** 2))

    ours = np.square(clear / (noise * width))
    best = minimize(lambda weights: -snr(weights), np.ones(12), method="BFGS")
    assert snr(ours) == pytest.approx(-best.fun, rel=1e-6)

    run, pairs = measured_run(tmp_path, 2, "haze", 100.0, False, 10, True)
    laid = course(shots_of(run, [one for one, _ in pairs]), around_of(run, "haze"))
    true = np.array([(drawn.clear / drawn.noise_e) ** 2 for _, drawn in pairs])
    told = worth(laid)
    assert told / told.max() == pytest.approx(true / true.max(), rel=0.12)


@pytest.mark.parametrize(
    "cause", ["worm", "knock", "dew", "cloud", *map(nightly, ("axis", "wind", "settings", "tilt", "stopped", "none of these"))]
)
def test_the_cause_that_was_drawn_is_the_one_that_is_named(tmp_path, cause):
    """One run a cause here; hundreds in benchmarks/causes.py."""
    told = judged_invented(tmp_path, cause, 41, 14)
    assert told.found == told.wanted
    assert told.frames_right >= told.frames - 1


def test_a_good_run_is_kept(tmp_path):
    run, pairs = measured_run(tmp_path, 9, GOOD, 85.0, True, 10, False)
    laid = course(shots_of(run, [one for one, _ in pairs]), around_of(run, GOOD))
    words = judge(laid, find_causes(laid), LIMITS)
    assert [one.word for one in words] == ["keep"] * 10
    assert not truly_culled(run, [drawn for _, drawn in pairs]).any()
    assert all(0.8 <= one.weight <= 1.2 for one in words)


@pytest.mark.parametrize("south", [nightly(False), True])
def test_the_axis_comes_for_free_out_of_an_ordinary_run(tmp_path, south):
    """Within 1′ and a tenth, and within three times its own uncertainty; the tracker's worm wanders beside it."""
    off = {"altitude_arcmin": 14.0, "azimuth_arcmin": -22.0, "pe_half_amplitude_arcsec": 15.0}
    run, pairs = measured_run(tmp_path, 7 + south, GOOD, 100.0, south, 14, True, **off)
    seen = []
    for number, (frame, _) in enumerate(pairs):
        middle = mjd_from_datetime(run.scene.moment(run.scene.begins_s(number)))
        shot = Shot(f"{number}", middle, run.scene.exposure_s, frame.facts)
        columns = np.array([[one.ra_deg, one.dec_deg, one.v_mag, one.x, one.y] for one in frame.stars]).T
        seen.append(Seen(shot, *columns, 1200, 800, np.array(frame.known.toward), frame.known.bend))
    site = run.scene.mount.site
    found = axis_of_run(seen, observer(run), "refracted", Air(site.temperature_c, site.pressure_hpa))
    for told, sigma, true in (
        (found.altitude_arcmin, found.altitude_sigma, 14.0),
        (found.azimuth_arcmin, found.azimuth_sigma, -22.0),
    ):
        assert abs(told - true) < min(1.0 + 0.1 * abs(true), max(3 * sigma, 0.5))
    assert axis_of_run(seen[:4], observer(run), "refracted", Air()) is None  # too short to tell


LINE = Line(
    "IMG <7> & co.jpg", "2026-12-08T21:00:00+00:00", 120.0, "cull", "measured", 0.0, "dew", "Stars are 1.4 times as wide.",
    3.1, 1.1, 0.5, 0.02, 130.25, -45.5, float("nan"),
)  # fmt: skip


def test_tables_of_frames_and_stars_are_read_and_verified_by_astropy():
    stars = [np.arange(12.0).reshape(2, 6), np.empty((0, 6)), np.arange(6.0).reshape(1, 6)]
    lines = [LINE, replace(LINE, file="b – c.fits", reason="2″"), replace(LINE, sky_mag=21.3)]
    with fits.open(io.BytesIO(tables_fits(lines, stars)), checksum=True) as told:
        told.verify("exception")
        frames, listed = told["FRAMES"], told["STARS"]
        assert frames.data["FILENAME"].tolist() == ["IMG <7> & co.jpg", "b ? c.fits", "IMG <7> & co.jpg"]
        assert frames.data["DATE-OBS"][0] == LINE.began_utc and np.isnan(frames.data["SKYMAG"][0])
        assert u.Unit(frames.columns["SKYMAG"].unit) == u.mag / u.arcsec**2 and frames.columns["EXPTIME"].unit == "s"
        assert listed.data["FRAME"].tolist() == [1, 1, 3] and listed.data["VMAG"].tolist() == [2, 8, 2]
        assert all(len(one) <= 8 for one in frames.columns.names)
    with fits.open(io.BytesIO(tables_fits([LINE], [np.empty((0, 6))]))) as told:
        assert len(told["STARS"].data) == 0


@pytest.mark.parametrize(("word", "rating"), [("keep", "3"), ("less", "2"), ("cull", "-1")])
def test_a_sidecar_is_read_by_another_program(word, rating):
    """Pillow reads the packet out of a JPEG; ISO 16684-1 gives -1 to what is rejected."""
    packet = sidecar(Line(**{**vars(LINE), "word": word}))
    out = io.BytesIO()
    Image.new("L", (8, 8)).save(out, "JPEG", xmp=packet.encode())
    told = Image.open(out).getxmp()["xmpmeta"]["RDF"]["Description"]
    assert told["Rating"] == rating
    assert "1.4 times" in told["description"]["Alt"]["li"]["text"]


def test_the_table_is_read_by_another_program():
    table = Table.read(table_text([LINE, LINE], "ecsv"), format="ascii.ecsv")
    assert len(table) == 2 and table["file"][0] == LINE.file
    assert str(table["sky_mag"].unit) == "mag / arcsec2" and np.isnan(table["sky_mag"][0])
    assert table_text([LINE], "culled") == f"{LINE.file}\n" and table_text([LINE], "kept") == ""
    rows = Table.read(table_text([LINE], "csv"), format="ascii.csv")
    assert rows["ra_deg"][0] == 130.25


def test_a_trail_grows_with_its_length():
    """However long: no step back between one length and the next."""
    grown = [float(true_excess(np.asarray(one))) for one in np.linspace(0, 60, 200)]
    assert all(later > earlier for earlier, later in pairwise(grown))
