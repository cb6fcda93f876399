"""A large plane in blocks, row by row and then column by column: several times as fast as over both at once."""

import numpy as np
from numpy.typing import NDArray

Plane = NDArray[np.float32]


def _over(plane: Plane, step: int, how: np.ufunc) -> Plane:
    height, width = plane.shape[0] // step * step, plane.shape[1] // step * step
    rows = plane[0:height:step, :width].copy()
    for one in range(1, step):
        how(rows, plane[one:height:step, :width], out=rows)
    found = rows[:, ::step].copy()
    for one in range(1, step):
        how(found, rows[:, one::step], out=found)
    return found


def brightest(plane: Plane, step: int) -> Plane:
    """Of each block of step by step pixels the brightest; what is left over at the lower and right edge falls away."""
    return _over(plane, step, np.maximum)


def means(plane: Plane, step: int) -> Plane:
    """Of each block the mean."""
    return np.asarray(_over(plane, step, np.add) / np.float32(step * step))
