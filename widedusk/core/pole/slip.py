"""What two pictures cannot tell: whether the camera moved in its head between them, and where that is likely."""

from dataclasses import dataclass

from widedusk.core.exposure.setting import EASY_LOAD
from widedusk.core.kit.parts import Rig
from widedusk.core.kit.payload import carried_mass_g
from widedusk.core.pole.axis import AxisError, arc_words

# Where heads give way under a lens. Our own, no source.
LONG_MM = 200.0
HEAVY_G = 1200.0
# An axis that is farther off than anybody expected is as likely a camera that moved.
TIMES_EXPECTED = 3.0
MIN_ODD_ARCMIN = 10.0


@dataclass(frozen=True)
class SlipDoubt:
    """unseen: the pictures cannot show a slip. reason: why one is likely here, empty where nothing speaks for it."""

    unseen: bool
    reason: str = ""


NO_DOUBT = SlipDoubt(False)


def slip_doubt(rig: Rig, error: AxisError, expected_arcmin: float | None) -> SlipDoubt:
    """Of an axis told by two pictures. expected_arcmin: how far off the person expects it; None where nobody asked."""
    if rig.tracker is not None and (load := carried_mass_g(rig) / rig.tracker.rating_g) > EASY_LOAD:
        return SlipDoubt(True, f"the tracker carries {load * 100:.0f} % of its rating")
    if rig.lens.mass_g >= HEAVY_G:
        return SlipDoubt(True, f"the lens weighs {rig.lens.mass_g / 1000:.1f} kg")
    if rig.lens.focal_mm >= LONG_MM:
        return SlipDoubt(True, f"the lens is {rig.lens.focal_mm:g} mm long")
    if expected_arcmin is not None and error.total_arcmin > max(TIMES_EXPECTED * expected_arcmin, MIN_ODD_ARCMIN):
        return SlipDoubt(True, f"you expected {arc_words(expected_arcmin)}")
    return SlipDoubt(True)


def slip_words(doubt: SlipDoubt, before: str) -> str:
    """What two pictures cannot show and, where a slip is likely, what to take before one does something."""
    cannot = (
        "Two pictures cannot show whether the camera moved in its head between them; a third can, with the axis turned once more."
    )
    return f"Take a third picture before you {before}: {doubt.reason}. {cannot}" if doubt.reason else cannot
