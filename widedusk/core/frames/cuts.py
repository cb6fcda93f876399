"""Centre and four corners of a picture, pixel for pixel and in its colours, as people judge stars by eye."""

from collections.abc import Callable, Sequence
from io import BytesIO
from math import isqrt
from typing import Any

import numpy as np
from numpy.typing import NDArray

Plane = NDArray[np.float32]
CUT_PX = 192
CUTS = ((0.5, 0.5), (0.0, 0.0), (1.0, 0.0), (0.0, 1.0), (1.0, 1.0))  # centre and four corners
LOW, HIGH = 2.0, 42.0  # deviations of the sky from black to it, and from black to white
CALM_SHARE, OF_CALM = 0.9, 0.79  # of the pixels, and of the deviation of a Gaussian that is cut so
LEAST_NOISE = 1e-3  # of the brightest star, where a sky is of one code alone
AROUND = np.array([[1.0, 2.0, 1.0], [2.0, 4.0, 2.0], [1.0, 2.0, 1.0]])
LETTERS = "RGB"
MOST_BALANCE = 3.0


def boxes(width: int, height: int, tile: int = 2) -> list[tuple[int, int, int]]:
    """Left, top and side of each, on whole tiles of a mosaic, so that it begins alike in all."""
    side = min(CUT_PX // tile, width // tile, height // tile) * tile
    return [
        (round(right * (width - side)) // tile * tile, round(down * (height - side)) // tile * tile, side) for right, down in CUTS
    ]


def of_array(array: NDArray[Any], letters: str = "") -> tuple[Plane, ...]:
    """Out of an array of one plane, of three colours last, or of a mosaic.

    letters: of the tile that a mosaic repeats, two by two or six by six, row after row.
    """
    height, width = array.shape[:2]
    places = boxes(width, height, isqrt(len(letters)) or 2)
    found = [array[top : top + side, left : left + side].astype(np.float32) for left, top, side in places]
    if letters and array.ndim == 2:
        found = [in_colours(one, letters) for one in found]
    return tuple(np.nan_to_num(one, copy=False, nan=0.0, posinf=0.0, neginf=0.0) for one in found)


def in_colours(mosaic: Plane, letters: str) -> Plane:
    """Of each colour what its pixels within one step say, the nearest most; brought to one grey of the sky."""
    from scipy.ndimage import convolve  # noqa: PLC0415 - not needed where there is no mosaic

    told, tile = [], isqrt(len(letters))
    for letter in LETTERS:
        here = np.zeros_like(mosaic)
        for place, one in enumerate(letters):
            if one == letter:
                here[place // tile :: tile, place % tile :: tile] = 1.0
        told.append(convolve(mosaic * here, AROUND, mode="mirror") / convolve(here, AROUND, mode="mirror"))
    sky = np.array([max(float(np.median(one)), 1e-6) for one in told])
    balance = np.clip(sky.mean() / sky, 1.0 / MOST_BALANCE, MOST_BALANCE)
    return np.stack([one * much for one, much in zip(told, balance, strict=True)], axis=-1).astype(np.float32)


def filled(mosaic: Plane, own: NDArray[np.bool_]) -> Plane:
    """A plane of one colour: its own pixels as they are, those between by what its pixels within one step say, the nearest most.

    own: of the tile that the mosaic repeats, the pixels of this colour; one of them within one step of every other.
    """
    from scipy.ndimage import convolve  # noqa: PLC0415 - not needed where there is no mosaic

    found, others = mosaic.copy(), np.argwhere(~own)
    down, across = own.shape
    for row, column in others:
        found[row::down, column::across] = 0.0
    about, share = convolve(found, AROUND, mode="mirror"), convolve(own.astype(np.float32), AROUND, mode="wrap")
    for row, column in others:
        found[row::down, column::across] = about[row::down, column::across] / share[row, column]
    return found


def doubled(cuts: Callable[[], Sequence[Plane]]) -> Callable[[], tuple[Plane, ...]]:
    """Of a plane that was halved and cannot be had whole: each pixel twice, each way."""
    return lambda: tuple(np.repeat(np.repeat(one, 2, axis=0), 2, axis=1)[:CUT_PX, :CUT_PX] for one in cuts())


def drawn(cuts: Sequence[Plane]) -> bytes:
    """Side by side as one JPEG, each against its own sky: corners are darker."""
    from PIL import Image  # noqa: PLC0415

    flat = [one - np.median(one, axis=(0, 1)) for one in cuts]
    every = np.abs(np.concatenate([one.ravel() for one in flat]))
    calm = every[every <= np.quantile(every, CALM_SHARE)]  # codes of a JPEG are too coarse for a median
    noise = max(float(np.sqrt(np.mean(np.square(calm, dtype=float)))) / OF_CALM, float(every.max()) * LEAST_NOISE, 1e-6)
    codes = np.sqrt(np.clip((np.concatenate(flat, axis=1) / noise + LOW) / HIGH, 0.0, 1.0)) * 255
    out = BytesIO()
    Image.fromarray(codes.astype(np.uint8)).save(out, "JPEG", quality=88)
    return out.getvalue()
