"""What of the judge's word on a night is right, by what is true of it."""

from dataclasses import dataclass, field

import numpy as np

from tests.conftest import a_rig
from tests.outside.nights.camera import true_zenith_mag
from tests.outside.nights.drawing import GOOD, UNLISTED
from tests.outside.nights.series import Series, axis_of, judged, true_axis_arcmin
from widedusk.core.judge.account import JudgedRun
from widedusk.core.judge.reading import MOVED, UNKNOWN
from widedusk.core.judge.teach import WIDTH_SIGMA, left_out_of_axis, lessons, why_no_axis
from widedusk.core.judge.veils import WHITE

SURE = 0.9
SHOWS = 1.14  # elongation below which nobody sees what a tracker does
OF_THE_TRACKER = {"worm", "axis", "rate", "wind", "creep", "rotation"}


@dataclass(frozen=True)
class Outcome:
    """said: the likeliest cause, GOOD for none. stated: each cause with how sure it is. frames, frames_right: those that are not so
    near a limit that either word is right. off: by figure, its errors in its own sigmas."""

    seed: int
    causes: tuple[str, ...]
    said: str
    right: bool
    stated: tuple[tuple[str, float], ...]
    frames: int
    frames_right: int
    caps_kept: int
    lost: bool
    off: dict[str, tuple[float, ...]] = field(default_factory=dict)

    @property
    def surely_wrong(self) -> bool:
        return not self.right and bool(self.stated) and self.stated[0][1] >= SURE


def accepted(one: Series) -> set[str]:
    """The likeliest causes that would be right; not known always is, where there is something to know."""
    causes = set(one.night.causes)
    if causes == {GOOD}:
        white = float(np.median([frame.facts.background for frame in one.frames])) > WHITE
        return {GOOD, UNKNOWN} if white else {GOOD}  # exposed until the sky hid its stars: worth a word, though nobody listed it
    unseen = causes <= OF_THE_TRACKER and float(one.truth.elongation.max()) < SHOWS and "rotation" not in causes
    if "rotation" in causes:
        causes.add("axis")  # which is off by tens of degrees: it is what turns the field
    return {UNKNOWN, *causes, *((GOOD,) if unseen or causes == {UNLISTED} else ())}


def score(one: Series) -> Outcome:
    told = judged(one)
    stated = tuple((cause.key, cause.sure) for cause in told.causes if cause.key != MOVED)
    said = stated[0][0] if stated else GOOD
    culled = np.array([word.word == "cull" for word in told.words])
    sure = ~one.truth.undecided
    capped = np.array([frame.capped for frame in one.night.frames])
    return Outcome(
        one.night.seed,
        one.night.causes,
        said,
        said in accepted(one),
        stated,
        int(np.count_nonzero(sure)),
        int(np.count_nonzero((culled == one.truth.culled) & sure)),
        int(np.count_nonzero(capped & ~culled)),
        one.night.causes == (GOOD,) and bool(culled.mean() > 0.5),
        _off(one, told),
    )


def _off(one: Series, told: JudgedRun) -> dict[str, tuple[float, ...]]:
    """Of the figures that would be offered to plan with."""
    night, found = one.night, {}
    offered = {lesson.key: lesson for lesson in lessons(told, a_rig(half_amplitude=11.0), 20.0) if not lesson.why_not}
    if "star width" in offered:
        found["width"] = ((offered["star width"].value / one.truth.width_px - 1.0) / WIDTH_SIGMA,)
    if "periodic error" in offered and told.worm is not None:
        found["periodic error"] = ((told.worm.half_amplitude_arcsec - night.pe[0]) / told.worm.half_amplitude_sigma,)
    if "sky" in offered and told.zenith_sky is not None:
        found["sky"] = ((told.zenith_sky[0] - true_zenith_mag(night)) / told.zenith_sky[1],)
    axis = axis_of(one, left_out_of_axis(told)) if not why_no_axis(told) and night.guide_px is None else None
    if axis is not None and np.hypot(*night.axis_arcmin) < 180.0:
        high, east = true_axis_arcmin(night)
        found["axis"] = ((axis.altitude_arcmin - high) / axis.altitude_sigma, (axis.azimuth_arcmin - east) / axis.azimuth_sigma)
    return found
