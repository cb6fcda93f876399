"""The three colours of a picture apart, for what a lens does to each of them.

A mosaic is not filled in: of each colour the pixels that saw it are taken where they lie, so that nothing is smeared that the
lens left sharp. Green alone stands for light without colours.
"""

from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
import sep
from numpy.typing import NDArray

from widedusk.core.errors import InvalidInput
from widedusk.core.frames.cuts import filled
from widedusk.core.frames.header import Header
from widedusk.core.frames.lens_facts import ColourName
from widedusk.core.frames.read import (
    HALVE_ABOVE_PIXELS,
    LINEAR,
    Plane,
    bounded,
    exif_header,
    fits_array,
    halved,
    read_as,
    read_picture,
    refused,
    tiff_array,
)

NAMES: tuple[ColourName, ...] = ("red", "green", "blue")
LETTERS = "RGB"
TILE = 6  # pixels after which the larger kind of mosaic repeats


@dataclass(frozen=True)
class Colour:
    """left, top: where its first pixel lies against that of a plane that begins in the corner, pixels of the file. own: of a tile
    that the plane repeats, the pixels that saw this colour; what else is in it is not to be measured."""

    plane: Plane
    left: float = 0.0
    top: float = 0.0
    own: NDArray[np.bool_] | None = None

    def level(self, rows: slice = slice(None), columns: slice = slice(None), every: int = 3) -> float:
        """Median of a part of it, of every so many pixels each way."""
        part = self.plane[rows, columns]
        if self.own is None:
            return float(np.median(part[::every, ::every]))
        mine = self.own[
            np.ix_(*(np.arange(*one.indices(side)) % TILE for one, side in zip((rows, columns), self.plane.shape, strict=True)))
        ]
        return float(np.median(part[mine][:: every**2]))

    def take_sky_off(self) -> None:
        """From the pixels that are its own; in place."""
        box = int(np.clip(max(self.plane.shape) // 48, 32, 256))
        if self.own is None:
            sep.Background(self.plane, bw=box, bh=box).subfrom(self.plane)
            return
        half = TILE // 2  # a cell of three by three pixels holds every colour
        cells = np.zeros([side // half for side in self.plane.shape], dtype=np.float32)
        count = np.zeros((2, 2), dtype=np.float32)
        mine = [(int(row), int(column)) for row, column in np.argwhere(self.own)]
        for row, column in mine:
            cells[row // half :: 2, column // half :: 2] += self.plane[row::TILE, column::TILE]
            count[row // half, column // half] += 1
        for row, column in np.ndindex(2, 2):
            cells[row::2, column::2] /= count[row, column]
        box = max(box // half, 16)
        sky = sep.Background(cells, bw=box, bh=box).back()
        for row, column in mine:
            self.plane[row::TILE, column::TILE] -= sky[row // half :: 2, column // half :: 2]


@dataclass(frozen=True)
class Colours:
    """Green alone stands for a picture without colours. step: pixels of the file from one of the plane's to the next; own: variance
    that a pixel of the plane adds to a star beyond what one of the file adds, pixels of the file squared; pixel: how wide it is,
    in steps."""

    header: Header
    colours: dict[ColourName, Colour]
    step: int
    own: float
    clip: float
    curved: bool = False  # packed after a tone curve
    pixel: float = 1.0


def _of_planes(header: Header, planes: list[Plane], clip: float) -> Colours:
    """Whole planes, halved where they are large."""
    step = 1
    if planes[0].size > HALVE_ABOVE_PIXELS:
        planes, step = [halved(one) for one in planes], 2
    names = NAMES if len(planes) == 3 else ("green",)
    colours: dict[ColourName, Colour] = {name: Colour(np.ascontiguousarray(one)) for name, one in zip(names, planes, strict=True)}
    return Colours(header, colours, step, (step**2 - 1) / 12.0, clip)


def _of_array(header: Header, array: NDArray[Any], name: str) -> Colours:
    if array.ndim not in (2, 3):
        raise refused(f"“{name}” holds an array of {array.ndim} dimensions, no picture.", name)
    whole = np.issubdtype(array.dtype, np.integer)
    clip = float(np.iinfo(array.dtype).max) if whole else float(np.nanmax(array))
    if array.ndim == 3:
        array = np.moveaxis(array, int(np.argmin(array.shape)), 0)
    parts = [array] if array.ndim == 2 else [array[place] for place in range(3 if len(array) >= 3 else 1)]
    if array.dtype == np.uint8:
        return _of_planes(header, [LINEAR[one] for one in parts], 1.0)
    planes = [np.nan_to_num(one.astype(np.float32), copy=False, nan=0.0, posinf=0.0, neginf=0.0) for one in parts]
    return _of_planes(header, planes, clip)


def _of_mosaic(header: Header, mosaic: NDArray[Any], pattern: str, clip: float) -> Colours:
    """pattern: four letters, the first row's two before the second's. Of the two greens the one of the first row is taken."""
    colours: dict[ColourName, Colour] = {}
    for letter, name in zip(LETTERS, NAMES, strict=True):
        row, column = divmod(pattern.index(letter), 2)
        colours[name] = Colour(np.ascontiguousarray(mosaic[row::2, column::2], dtype=np.float32), float(column), float(row))
    least = np.min([one.plane.shape for one in colours.values()], axis=0)
    even = {
        name: Colour(np.ascontiguousarray(one.plane[: least[0], : least[1]]), one.left, one.top) for name, one in colours.items()
    }
    return Colours(header, even, 2, 0.0, clip, pixel=0.5)


def _cannot_part(name: str) -> InvalidInput:
    return refused(f"“{name}” lays its colours out in a way that cannot be taken apart here. Give the JPEG beside it.", name)


def _of_tiles(header: Header, mosaic: Plane, pattern: str, clip: float, name: str) -> Colours:
    """pattern: 36 letters, row after row. Red and blue share the mosaic itself; green, by which stars are found, has a plane in
    which the others' pixels are filled with what lies about them."""
    letters = np.array(list(pattern)).reshape(TILE, TILE)
    own = {colour: letters == letter for letter, colour in zip(LETTERS, NAMES, strict=True)}
    if not all(one[row : row + 3, column : column + 3].any() for one in own.values() for row in (0, 3) for column in (0, 3)):
        raise _cannot_part(name)
    mosaic = np.ascontiguousarray(mosaic[: mosaic.shape[0] // TILE * TILE, : mosaic.shape[1] // TILE * TILE])
    return Colours(
        header,
        {
            "red": Colour(mosaic, own=own["red"]),
            "green": Colour(filled(mosaic, own["green"]), own=own["green"]),
            "blue": Colour(mosaic, own=own["blue"]),
        },
        1,
        0.0,
        clip,
    )


def _jpeg(path: Path) -> Colours:
    """Its light alone: JPEGs keep colours at half the sharpness, which would be taken for the lens's fault."""
    picture = read_picture(path)
    return Colours(
        picture.header, {"green": Colour(picture.plane)}, picture.binning, (picture.binning**2 - 1) / 12.0, picture.clip, True
    )


def _tiff(path: Path) -> Colours:
    header, array = tiff_array(path)
    return _of_array(header, array, path.name)


def _fits(path: Path) -> Colours:
    header, array, pattern = fits_array(path)
    if array.ndim == 2 and sorted(pattern) == sorted("RGGB"):
        clip = float(np.iinfo(array.dtype).max) if np.issubdtype(array.dtype, np.integer) else float(np.nanmax(array))
        return _of_mosaic(header, array, pattern, clip)
    return _of_array(header, array, path.name)


def _raw(path: Path) -> Colours:
    import rawpy  # noqa: PLC0415

    with rawpy.imread(str(path)) as raw:
        bounded(raw.sizes.width, raw.sizes.height, 2, path.name)
        header = exif_header(path, "raw", raw.sizes.width, raw.sizes.height)
        mosaic = raw.raw_image_visible
        shape = None if raw.raw_pattern is None else raw.raw_pattern.shape
        if mosaic.ndim != 2 or shape not in {(2, 2), (TILE, TILE)}:
            raise _cannot_part(path.name)
        letters = raw.color_desc.decode("ascii", errors="replace")
        pattern = "".join(letters[one] for one in raw.raw_colors_visible[: shape[0], : shape[1]].ravel())
        black = np.float32(np.mean(raw.black_level_per_channel))
        clip = float(raw.white_level or mosaic.max()) - float(black)
        values = mosaic.astype(np.float32)
        values -= black
        return (
            _of_mosaic(header, values, pattern, clip) if len(pattern) == 4 else _of_tiles(header, values, pattern, clip, path.name)
        )


def read_colours(path: Path) -> Colours:
    """Read a picture colour by colour. Raises InvalidInput with what is wrong with the file and what to do."""
    return read_as(path, {"JPEG": _jpeg, "TIFF": _tiff, "FITS": _fits, "raw": _raw})
