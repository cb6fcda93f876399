"""The three colours of a picture apart, for what a lens does to each of them.

A mosaic is not filled in: of each colour one pixel in four is taken where it lies, so that nothing is smeared that the lens
left sharp. Green alone stands for light without colours.
"""

from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

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


@dataclass(frozen=True)
class Colour:
    """left, top: where its first pixel lies against that of a plane that begins in the corner, pixels of the file."""

    plane: Plane
    left: float = 0.0
    top: float = 0.0


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
        if mosaic.ndim != 2 or shape != (2, 2):
            raise refused(
                f"“{path.name}” lays its colours out in a way that cannot be taken apart here. Give the JPEG beside it.", path.name
            )
        letters = raw.color_desc.decode("ascii", errors="replace")
        pattern = "".join(letters[one] for one in raw.raw_colors_visible[:2, :2].ravel())
        black = np.float32(np.mean(raw.black_level_per_channel))
        clip = float(raw.white_level or mosaic.max()) - float(black)
        return _of_mosaic(header, mosaic.astype(np.float32) - black, pattern, clip)


def read_colours(path: Path) -> Colours:
    """Read a picture colour by colour. Raises InvalidInput with what is wrong with the file and what to do."""
    return read_as(path, {"JPEG": _jpeg, "TIFF": _tiff, "FITS": _fits, "raw": _raw})
