"""Pictures as they come off a card, whole and spoilt: what is read, and the plain sentence for what cannot be."""

import io
import struct
from dataclasses import replace
from datetime import datetime

import numpy as np
import pytest
import rawpy
import tifffile
from astropy.io import fits
from PIL import Image

from tests.invented import CLIP_E, a_pair, as_dng, patterns, sky, write_picture
from widedusk.core.errors import InvalidInput
from widedusk.core.frames.frame import read_frame
from widedusk.core.frames.measure import measure, why_not
from widedusk.core.frames.read import read_header, read_picture
from widedusk.core.frames.stars import Found
from widedusk.core.simulate.camera import CardHeader, Sensor, aimed, as_fits


@pytest.fixture(scope="module")
def book():
    return patterns()


@pytest.fixture(scope="module")
def electrons():
    """One rendered exposure, 1500 x 1000 pixels."""
    pair = a_pair(focal_mm=50.0, sensor=Sensor(1500, 1000, 24.0))
    return aimed(pair.camera, fwhm_px=2.8).take(*sky(7.5), pair.pointing, pair.mount, pair.shots[0]).electrons


def measured(path, book, focal=50.0):
    return measure(path, book, 36.0, focal, lambda *_: None)


def refusal(path, book, focal=50.0) -> str:
    with pytest.raises(InvalidInput) as caught:
        measured(path, book, focal)
    return caught.value.faults[0].message


@pytest.mark.parametrize("form", ["jpg", "tif8", "tif16", "fits", "fits-colour", "dng"])
def test_every_open_form_is_read_to_the_same_stars(form, electrons, book, tmp_path):
    whole = np.clip(electrons / CLIP_E * 65535, 0, 65535).astype(np.uint16)
    pair = a_pair(focal_mm=50.0, sensor=Sensor(1500, 1000, 24.0))
    path = tmp_path / f"star.{form[:4].rstrip('816-')}"
    if form == "jpg":
        write_picture(path, pair, pair.shots[0])
    elif form == "tif8":
        tifffile.imwrite(path, np.repeat((np.sqrt(whole / 65535) * 255).astype(np.uint8)[..., None], 3, axis=2))
    elif form == "tif16":
        tifffile.imwrite(path, np.repeat(whole[..., None], 3, axis=2), compression="lzw")
    elif form == "fits":
        path.write_bytes(as_fits(electrons, CLIP_E, CardHeader(datetime(2026, 12, 8, 20), 10.0, 50.0)))
    elif form == "fits-colour":
        fits.writeto(path, np.stack([whole[::-1]] * 3).astype(np.float32))
    else:
        as_dng(path, whole)
        assert rawpy.imread(str(path)).raw_image_visible.shape == (1000, 1500)
    found = measured(path, book)
    assert found.header.width_px == 1500 and found.header.height_px == 1000
    assert found.matched.x.size > 40 and not found.matched.mirrored
    assert found.matched.focal_px * found.binning == pytest.approx(50_000 / 24, rel=3e-3)
    assert found.binning == (2 if form == "dng" else 1)
    preview = Image.open(io.BytesIO(found.preview))
    assert preview.width <= 1500 and preview.format == "JPEG"


def test_headers_say_when_and_with_what(tmp_path, electrons):
    pair = a_pair()
    path = write_picture(tmp_path / "one.jpg", pair, pair.shots[0], "-03:30")
    header = read_header(path)
    assert header.taken == datetime(2026, 12, 8, 20, 0) and header.utc_offset_min == -210
    assert header.exposure_s == 10 and header.focal_mm == 85 and header.iso == 1600
    bare = tmp_path / "bare.jpg"
    Image.open(path).save(bare, "JPEG")
    nothing = read_header(bare)
    assert (nothing.taken, nothing.utc_offset_min, nothing.exposure_s, nothing.focal_mm) == (None, None, None, None)
    fits.writeto(tmp_path / "one.fits", electrons, fits.Header({"DATE-OBS": "2026-12-08T20:00:00.5", "EXPOSURE": 30.0}))
    assert read_header(tmp_path / "one.fits").taken == datetime(2026, 12, 8, 20, 0, 0, 500_000)


def test_what_is_no_picture_is_told_by_its_content_whatever_its_name(tmp_path, book):
    text = tmp_path / "night.jpg"
    text.write_text("M 42 tonight, then the Rosette. " * 4)
    assert "holds text, whatever its name says" in refusal(text, book)
    (tmp_path / "empty.jpg").write_bytes(b"")
    assert "is empty" in refusal(tmp_path / "empty.jpg", book)
    (tmp_path / "noise.arw").write_bytes(np.random.default_rng(1).bytes(4000))
    assert "damaged or cut short" in refusal(tmp_path / "noise.arw", book)
    fits.PrimaryHDU().writeto(tmp_path / "header.fits")
    assert "holds no picture, only a header" in refusal(tmp_path / "header.fits", book)


def test_spoilt_files_end_in_a_sentence(tmp_path, book, electrons):
    pair = a_pair()
    good = write_picture(tmp_path / "good.jpg", pair, pair.shots[0]).read_bytes()
    (tmp_path / "cut.jpg").write_bytes(good[: len(good) // 2])
    assert "damaged or cut short" in refusal(tmp_path / "cut.jpg", book)
    raw = as_dng(tmp_path / "cut.dng", electrons.astype(np.uint16)).read_bytes()
    (tmp_path / "cut.dng").write_bytes(raw[:4000])
    assert "cut.dng" in refusal(tmp_path / "cut.dng", book)
    # A bomb: a sound header that promises 65,000 x 65,000 pixels.
    start = good.index(b"\xff\xc0")
    bomb = bytearray(good)
    bomb[start + 5 : start + 9] = struct.pack(">HH", 65000, 65000)
    (tmp_path / "bomb.jpg").write_bytes(bytes(bomb))
    assert "pixels" in refusal(tmp_path / "bomb.jpg", book)
    Image.new("L", (160, 120)).save(tmp_path / "thumb.jpg")
    assert "not its thumbnail" in refusal(tmp_path / "thumb.jpg", book)
    header = fits.Header({"SIMPLE": True, "BITPIX": 16, "NAXIS": 2, "NAXIS1": 40000, "NAXIS2": 30000})
    (tmp_path / "huge.fits").write_bytes(header.tostring().encode())
    assert "at most 125 megapixels" in refusal(tmp_path / "huge.fits", book)


def test_a_hundred_megapixels_are_read_at_half_their_size(tmp_path):
    Image.new("L", (12_000, 8_400), 12).save(tmp_path / "large.jpg", quality=30)
    picture = read_picture(tmp_path / "large.jpg")
    assert picture.binning == 2 and picture.plane.shape == (4_200, 6_000) and picture.header.width_px == 12_000


def capped(points: int) -> np.ndarray:
    """The dark of a closed lens with hot pixels of every brightness."""
    dice = np.random.default_rng(points)
    image = np.full((1000, 1500), 3.0)
    image[dice.integers(0, 1000, points), dice.integers(0, 1500, points)] += 60 + dice.exponential(900.0, points)
    return image


SKIES = {
    "sixty hot pixels": (lambda pair: capped(60), "each a single pixel: is the cap on"),
    "many hot pixels": (lambda pair: capped(1500), "each a single pixel: is the cap on"),
    "cap": (lambda pair: np.full((1000, 1500), 3.0), "is the cap on"),
    "cloud": (lambda pair: np.full((1000, 1500), 900.0), "cloud, fog or dew"),
    "white": (lambda pair: np.full((1000, 1500), 11_000.0), "nearly white"),
}


@pytest.mark.parametrize("sort", SKIES)
def test_skies_without_stars_to_name_say_what_is_likely_wrong(sort, tmp_path, book):
    draw, words = SKIES[sort]
    pair = a_pair(focal_mm=50.0, sensor=Sensor(1500, 1000, 24.0))
    image = draw(pair) + np.random.default_rng(2).normal(0, 2.0, (1000, 1500))
    fits.writeto(tmp_path / "sky.fits", np.clip(image / CLIP_E * 65535, 0, 65535).astype(np.uint16))
    assert words in refusal(tmp_path / "sky.fits", book)


def test_shapes_tell_a_still_tracker_from_a_lens_out_of_focus():
    places = np.arange(40.0)
    usual = Found(places, places, places, 3000, 2000, 2.5, 1.1, 0.0, 0.1, 0.05, 0.002)
    assert "all the same way" in why_not(replace(usual, axis_ratio=3.4, alike=0.95), 1.0, 50.0)
    assert "14 px wide: out of focus" in why_not(replace(usual, fwhm_px=14.2), 1.0, 50.0)
    assert "Say which focal length" in why_not(usual, 1.0, None)


def test_a_focal_length_that_cannot_be_names_the_field(tmp_path, book):
    pair = a_pair()
    path = write_picture(tmp_path / "one.jpg", pair, pair.shots[0])
    assert "outside 3° to 80°" in refusal(path, book, 2000.0)
    assert "Are 135 mm and the size of the sensor right?" in refusal(path, book, 135.0)


@pytest.mark.parametrize(
    ("values", "cards"),
    [
        (np.full((500, 600), np.nan, np.float32), {}),
        (np.full((500, 600), 1e300), {}),  # more than a plane can hold
        (np.zeros((500, 600), np.float32), {}),
        (np.full((500, 600), 7, np.int16), {"BSCALE": 0.0, "BZERO": 0.0}),
        (np.full((500, 600), 7, np.int16), {"BSCALE": 1.0, "BZERO": "1E999"}),
    ],
)
def test_a_frame_without_any_light_is_refused_in_words_and_never_measured(values, cards, tmp_path):
    """FITS Standard 4.0: BSCALE and BZERO scale what lies in the file, and NaN is no value."""
    unit = fits.PrimaryHDU(values)
    for name, value in cards.items():
        unit.header[name] = value
    unit.writeto(tmp_path / "dark.fits", output_verify="ignore")
    for read in (read_picture, lambda path: read_frame(path, dict, (36.0, 50.0), None, lambda *_: None)):
        with pytest.raises(InvalidInput, match=r"holds no light|could not be read as FITS"):
            read(tmp_path / "dark.fits")
