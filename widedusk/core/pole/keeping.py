"""When to look at the alignment again."""

from collections.abc import Sequence
from datetime import datetime, timedelta

from widedusk.core.choices import Choices
from widedusk.core.pole.axis import Axis, AxisError, UsualAxis, arc_words, axis_words
from widedusk.core.verdict import Level, Quantity, Verdict, Working

FRAMES = 30  # between two looks in a casual set-up; common practice, no source
MOST_TIMES = 12


def recheck_times(start: datetime, frames: int, exposure_s: float, gap_s: float, choices: Choices) -> list[datetime]:
    """Moments at which to look again, after every thirtieth frame or not at all."""
    if choices.recheck_school != "thirty frames" or choices.tracking == "untracked":
        return []
    step = FRAMES * (exposure_s + gap_s)
    return [start + timedelta(seconds=step * (number + 1)) for number in range(min((frames - 1) // FRAMES, MOST_TIMES))]


def keeping_verdict(
    axes: Sequence[Axis], tolerance_arcmin: float, times: Sequence[datetime], clocks: Sequence[str], choices: Choices
) -> Verdict:
    """Whether the last alignment holds, and when it is looked at again. axes: of this night, the latest first."""
    if choices.tracking == "untracked":
        return Verdict("Keeping it", "go", "The camera stands still: there is no alignment to look at again.", "no tracker in use")
    school = {
        "thirty frames": f"Look again after every {FRAMES} frames",
        "each target": "Look again at each change of target",
        "never": "No look again is planned",
    }[choices.recheck_school]
    when = f"{school}: {', '.join(clocks)}." if clocks else f"{school}."
    level: Level = "go"
    if not axes:
        level, sentence = "care", "No alignment is written down for this night and rig."
    elif isinstance(axes[0], UsualAxis):
        level = "go" if axes[0].worst_arcmin <= tolerance_arcmin else "care"
        sentence = f"{axes[0].way}: {axis_words(axes[0])}, not measured; {arc_words(tolerance_arcmin)} are enough."
    else:
        last = axes[0]
        level = "go" if last.total_arcmin <= tolerance_arcmin else "care"
        sentence = f"The axis last stood {axis_words(last)} from the pole; {arc_words(tolerance_arcmin)} are enough."
        if len(axes) > 1 and isinstance(axes[1], AxisError):
            moved = AxisError(
                last.altitude_arcmin - axes[1].altitude_arcmin, last.azimuth_arcmin - axes[1].azimuth_arcmin, 0, 0
            ).total_arcmin
            sentence += f" It moved {arc_words(moved)} since the time before."
    working = Working(
        "recheck",
        "When to look again",
        f"every {FRAMES} × (sub + gap)",
        (Quantity("School", text=choices.recheck_school),),
        Quantity("Looks", len(times), "", decimals=0),
        "Common practice, no source; after mounting the payload, a knock, or a change of target with force, at once",
        "common practice",
    )
    at_once = "And at once when tripod or head was touched, after mounting the payload, or after a change of target with force."
    figures = (Quantity("Looks", len(times), decimals=0, working="recheck"),)
    return Verdict("Keeping it", level, sentence, "what was touched", f"{when} {at_once}", figures, workings=(working,))
