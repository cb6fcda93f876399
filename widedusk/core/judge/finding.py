"""Which causes a run shows: each with the frames it acts on, how sure that is, and what spoke for and against it.

Every cause has its own test, on what it alone does to stars, background and path (`trails`, `veils`); the signatures are those of
`causes`. What is wrong and answers to no test is called not known: no cause is guessed at.
"""

import numpy as np

from widedusk.core.judge.course import Course
from widedusk.core.judge.limits import USUAL_LIMITS, Limits
from widedusk.core.judge.motion import Motion
from widedusk.core.judge.reading import MOVED, UNKNOWN, Finding, Mask, Read, mask_of, read, told
from widedusk.core.judge.trails import knocks, moving, of_the_field, standing
from widedusk.core.judge.veils import WHITE, as_one, background, focus, settings, step_in, streaks, veiled

HARMLESS = frozenset({"satellite", "aircraft", "meteor", MOVED})
DRIVE = {"stopped", "hemisphere", "rate"}
SHAKEN = {"wind", "knock"}
LEAST_UNKNOWN = 0.15  # of the frames, from which something wrong that nothing explains is told


def find_causes(run: Course, path: Motion | None = None, limits: Limits = USUAL_LIMITS) -> tuple[Finding, ...]:
    """Every cause that the run shows, that which acts on most frames first; then what is wrong and not explained. path: of the run,
    where it was read already. limits: beyond which the corners of a lens are a fault."""
    step = step_in(run)
    looked = read(as_one(run, step), path, limits)
    found: list[Finding] = []
    if run.black.any():
        found.append(told("cap", run.black, 0.9, "No stars, and the background is black."))
    drive = standing(looked)
    if drive:
        found += [*drive, *settings(run, step), *background(looked, np.zeros(run.count, dtype=bool))]
    else:
        shapes, jumps = of_the_field(looked), knocks(looked)
        knocked = mask_of(run.count, [one for one in jumps if one.cause == "knock"])
        found += [*shapes, *jumps]
        if not any(one.cause == "rotation" for one in shapes):
            found += moving(looked, knocked)
        found += [*settings(run, step), *veiled(looked, knocked)]
        found += background(looked, mask_of(run.count, [one for one in found if one.cause == "obstructed"]))
        found += focus(looked, mask_of(run.count, [one for one in found if one.cause in {"dew", "tilt", "soft corners"}]))
    found += streaks(run)
    found += _unexplained(looked, found)
    return tuple(sorted(found, key=lambda one: (one.cause in HARMLESS, -len(one.frames) * one.sure)))


def _wrong(read: Read) -> tuple[tuple[str, Mask, set[str]], ...]:
    """What can be seen to be wrong with each frame, whatever did it, and the causes that can do that."""
    run = read.run
    double = (np.nan_to_num(run.second) > 0.15) | run.double
    odd = run.has_stars & (read.field is not None and read.field.kind == "unknown")
    long = {"worm", "axis", "creep", "rotation", "tilt", "coma"} | DRIVE | SHAKEN
    return (
        ("stars are long", read.long, long),
        ("stars are wide", read.wide, long | {"dew", "focus crept", "out of focus"}),
        ("stars are dim", read.dim, {"dew", "cloud", "haze", "obstructed", "settings", "out of focus", "cap"} | DRIVE | SHAKEN),
        ("the background is bright", read.bright, {"moon", "lamp", "settings", "haze", "cloud", "dew", "obstructed"}),
        ("the sky is white", run.level > WHITE, {"moon", "lamp", "settings"}),
        ("stars are double", double & run.has_stars, {"worm", "creep", "out of focus"} | DRIVE | SHAKEN),
        ("the shape of stars differs over the picture", odd, {"out of focus"} | DRIVE),
    )


def _unexplained(read: Read, found: list[Finding]) -> list[Finding]:
    count, told_of = read.run.count, []
    for words, mask, causes in _wrong(read):
        left = mask & ~mask_of(count, [one for one in found if one.cause in causes])
        if np.count_nonzero(left) >= max(2, LEAST_UNKNOWN * count):
            why = f"In {np.count_nonzero(left)} frames {words}, and no cause on the list does just that."
            told_of.append(told(UNKNOWN, left, 0.5, why))
    return told_of
