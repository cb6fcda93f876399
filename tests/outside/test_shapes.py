"""Shapes of stars narrower than two pixels, against stars drawn by dense integration over their pixels, any way turned."""

from datetime import datetime
from io import BytesIO

import numpy as np
import pytest
from astropy.io import fits
from PIL import Image

from widedusk.core.frames.read import read_picture
from widedusk.core.frames.shapes import typical_shape
from widedusk.core.simulate.camera import CardHeader, as_jpeg

HEIGHT, WIDTH, PARTS = 600, 900, 9
WIDER = 8.0 * np.log(2.0) / 12.0  # what a pixel adds to the square of a star's width


def drawn(fwhm: float, ratio: float, angle_deg: float) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """A field of stars at random places in their pixels, and where they stand."""
    dice = np.random.default_rng(int(100 * fwhm + angle_deg))
    grid_x, grid_y = (one.ravel() for one in np.meshgrid(np.arange(40, WIDTH - 40, 60), np.arange(40, HEIGHT - 40, 60)))
    x, y = grid_x + dice.uniform(-0.5, 0.5, grid_x.size), grid_y + dice.uniform(-0.5, 0.5, grid_y.size)
    sigma, turn = fwhm / np.sqrt(8.0 * np.log(2.0)), np.radians(angle_deg)
    image, parts, reach = np.zeros((HEIGHT, WIDTH)), (np.arange(PARTS) + 0.5) / PARTS - 0.5, 14
    for column, row, light in zip(x, y, dice.uniform(2000, 9000, x.size), strict=True):
        columns, rows = (np.arange(round(one) - reach, round(one) + reach + 1) for one in (column, row))
        ux = (columns[:, None] + parts).ravel()[None, :] - column
        uy = (rows[:, None] + parts).ravel()[:, None] - row
        along, across = ux * np.cos(turn) + uy * np.sin(turn), uy * np.cos(turn) - ux * np.sin(turn)
        fine = np.exp(-0.5 * ((along / (sigma * ratio)) ** 2 + (across / sigma) ** 2)) / (2 * np.pi * sigma**2 * ratio)
        side = 2 * reach + 1
        image[rows[0] : rows[-1] + 1, columns[0] : columns[-1] + 1] += light * fine.reshape(side, PARTS, side, PARTS).mean(
            axis=(1, 3)
        )
    return image, x, y


@pytest.mark.parametrize("fwhm", [1.0, 1.3, 1.7, 2.2, 3.0])
@pytest.mark.parametrize(("ratio", "angle_deg"), [(1.0, 0.0), (1.4, 25.0), (1.4, 100.0)])
def test_narrow_stars_keep_their_shape_in_jpeg_and_mosaic(fwhm, ratio, angle_deg, tmp_path):
    image, x, y = drawn(fwhm, ratio, angle_deg)
    (tmp_path / "a.jpg").write_bytes(as_jpeg(image.astype(np.float32), 12_000.0, CardHeader(datetime(2026, 12, 8), 10, 100.0), 100))
    mosaic = fits.PrimaryHDU(np.rint(image * 4.0).astype(np.uint16)[::-1])
    mosaic.header["BAYERPAT"] = "RGGB"
    mosaic.writeto(tmp_path / "a.fits")
    assert Image.open(BytesIO((tmp_path / "a.jpg").read_bytes())).size == (WIDTH, HEIGHT)
    for name, binning in (("a.jpg", 1), ("a.fits", 2)):
        picture = read_picture(tmp_path / name)
        assert picture.binning == binning
        height, width = picture.plane.shape
        # Places as finding gives them: to a good part of a pixel.
        column, row = ((one + 0.5) / binning - 0.5 for one in (x, y))
        places = np.rint(column - (width - 1) / 2.0), np.rint(row - (height - 1) / 2.0)
        found = typical_shape(picture.plane, *places, max(fwhm / binning, 1.0), 1e9)
        assert found is not None
        told = found.in_file(binning)
        assert told.short_px == pytest.approx(np.sqrt(fwhm**2 + WIDER), rel=0.03), name
        assert told.long_px == pytest.approx(np.sqrt((fwhm * ratio) ** 2 + WIDER), rel=0.03), name
        if ratio > 1.0:
            assert abs((told.angle_deg - angle_deg + 90.0) % 180.0 - 90.0) < 4.0, name
