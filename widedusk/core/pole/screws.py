"""From an axis error to the hand on the screw: which one, which way, how far."""

from dataclasses import dataclass
from fractions import Fraction

import numpy as np

from widedusk.core.errors import Fault, InvalidInput
from widedusk.core.pole.axis import AxisError, arc_words, hand
from widedusk.core.pole.slip import NO_DOUBT, SlipDoubt, slip_words
from widedusk.core.verdict import Level, Quantity, Verdict, Working

LEAST_CHANGE_SIGMA = 3.0  # a screw's travel is learnt only from a change well above what measuring it leaves open
DONE_SHARE = 0.5  # of the tolerance: nearer than this, another turn is more likely to spoil than to mend. Our own


@dataclass(frozen=True)
class ScrewMove:
    """One screw. degrees: by which altitude or azimuth of the axis changes, always positive; turns: none until learnt."""

    screw: str  # "altitude" or "azimuth"
    way: str  # "down", "up", "to the west (left, facing the pole)"
    degrees: float
    turns: float | None
    words: str


def turns_words(turns: float) -> str:
    """A number of turns in eighths, sixths and such, as a hand can do them: “about one third of a turn”."""
    if turns < 1 / 16:
        return "less than a sixteenth of a turn"
    parts = [Fraction(n, d) for d in (1, 8, 6, 4, 3, 2) for n in range(d)]
    whole = int(turns)
    nearest = min([*parts, Fraction(1)], key=lambda part: abs(float(part) - (turns - whole)))
    if nearest == 1:
        whole, nearest = whole + 1, Fraction(0)
    names = {2: "half", 3: "third", 4: "quarter", 6: "sixth", 8: "eighth"}
    counts = {1: "one", 2: "two", 3: "three", 5: "five", 7: "seven"}
    if not nearest:
        return "about one turn" if whole == 1 else f"about {whole} turns"
    part = f"{counts[nearest.numerator]} {names[nearest.denominator]}{'s' if nearest.numerator > 1 else ''}"
    part = "half" if nearest == Fraction(1, 2) else part
    if whole == 0:
        return "about half a turn" if part == "half" else f"about {part} of a turn"
    return f"about {whole} and {'a half' if part == 'half' else part} turns"


def screw_moves(
    error: AxisError, south: bool, pole_altitude_deg: float, altitude_turn_deg: float | None, azimuth_turn_deg: float | None
) -> tuple[ScrewMove, ...]:
    """What brings the axis to the pole: azimuth and altitude, the larger first."""
    sideways_deg = float(abs(error.azimuth_arcmin) / 60.0 / np.cos(np.radians(min(pole_altitude_deg, 89.0))))
    move_east = error.azimuth_arcmin < 0
    facing = "south" if south else "north"
    side = f"to the {'east' if move_east else 'west'} ({hand(move_east, south)}, facing {facing})"
    level = "up" if error.altitude_arcmin < 0 else "down"

    def move(screw: str, way: str, degrees: float, turn: float | None) -> ScrewMove:
        turns = degrees / turn if turn else None
        far = f"{turns_words(turns)}, {arc_words(degrees * 60)}" if turns is not None else arc_words(degrees * 60)
        lead = "Turn the head" if screw == "azimuth" else "Tilt the axis"
        return ScrewMove(screw, way, degrees, turns, f"{lead} {way}: {far}{' of azimuth' if screw == 'azimuth' else ''}.")

    moves = (
        move("azimuth", side, sideways_deg, azimuth_turn_deg),
        move("altitude", level, abs(error.altitude_arcmin) / 60.0, altitude_turn_deg),
    )
    return moves if sideways_deg >= moves[1].degrees else moves[::-1]


def learn_turn(before: AxisError, after: AxisError, screw: str, turns: float, pole_altitude_deg: float) -> tuple[float, float]:
    """Degrees a turn of a screw, with its standard deviation, from two measurements around a known turn. Raises InvalidInput."""
    if not 0.05 <= abs(turns) <= 50:
        raise InvalidInput([Fault("turns", turns, f"{turns:g} turns cannot be right; give the turns made, from 0.05 to 50.")])
    if screw == "azimuth":
        stretch = 1.0 / np.cos(np.radians(min(pole_altitude_deg, 89.0))) / 60.0
        change, spread = (
            (after.azimuth_arcmin - before.azimuth_arcmin) * stretch,
            np.hypot(after.azimuth_sigma, before.azimuth_sigma) * stretch,
        )
    else:
        change, spread = (
            (after.altitude_arcmin - before.altitude_arcmin) / 60.0,
            np.hypot(after.altitude_sigma, before.altitude_sigma) / 60.0,
        )
    if abs(change) < LEAST_CHANGE_SIGMA * spread:
        raise InvalidInput(
            [
                Fault(
                    "turns",
                    turns,
                    f"The {screw} changed by {abs(change) * 60:.1f}′, no more than measuring leaves open ({spread * 60:.1f}′). "
                    "Turn the screw farther between the two measurements.",
                )
            ]
        )
    return float(abs(change / turns)), float(spread / abs(turns))


def axis_verdict(
    error: AxisError, moves: tuple[ScrewMove, ...], tolerance_arcmin: float, how: str, source: str, slip: SlipDoubt = NO_DOUBT
) -> Verdict:
    """Is the axis good enough, and if not, what to turn. how: how it was measured; source: of the formula.

    slip: whether the camera may have moved unseen; where that is likely nothing is certain, and no screw is turned yet.
    """
    total, spread = error.total_arcmin, error.total_sigma
    if total + spread <= tolerance_arcmin:
        level: Level = "go"
        near = total <= DONE_SHARE * tolerance_arcmin or total <= 2 * spread
        sentence = f"The axis stands {arc_words(total)} from the pole; {arc_words(tolerance_arcmin)} are enough."
        advice = "Lock it and leave it." if near else "It serves. Turning further may mend or spoil it."
    else:
        level = "care" if total <= 3 * tolerance_arcmin else "stop"
        sentence = f"The axis stands {arc_words(total)} from the pole; this rig and sub need {arc_words(tolerance_arcmin)}."
        advice = "Turn the screws as said, lock, then measure again."
    if slip.reason:
        third = slip_words(slip, "rely on it" if level == "go" else "turn a screw")
        then = "If it agrees, lock the axis." if level == "go" else "Then turn the screws as said, lock, and measure again."
        level, advice = ("care" if level == "go" else level), f"{third} {then}"
    elif slip.unseen:
        advice = f"{advice} {slip_words(slip, '')}"
    working = Working(
        "axis",
        "Distance of the axis from the pole",
        "ε = √(high² + east²)",
        (
            Quantity("Above the pole", error.altitude_arcmin, "′", decimals=2),
            Quantity("its standard deviation", error.altitude_sigma, "′", "σ", 2),
            Quantity("To the east of it, on the sky", error.azimuth_arcmin, "′", decimals=2),
            Quantity("its standard deviation", error.azimuth_sigma, "′", "σ", 2),
        ),
        Quantity("Off the pole", total, "′", "ε", 2),
        source,
        "published",
        how,
    )
    turn = Working(
        "moves",
        "What to turn",
        "azimuth = east / cos(altitude of the pole); turns = angle / degrees a turn",
        tuple(Quantity(f"{one.screw.capitalize()}, {one.way}", one.degrees, "°", decimals=3) for one in moves),
        Quantity("First", text=moves[0].words),
        "Spherical trigonometry; degrees a turn as measured or typed for this tracker",
        "definition",
    )
    return Verdict(
        "Axis",
        level,
        sentence,
        how,
        advice,
        (
            Quantity("Off the pole", total, "′", decimals=1, working="axis"),
            Quantity("give or take", spread, "′", decimals=2, working="axis"),
        ),
        workings=(working, turn),
        caution="Hold the rig while a clamp or screw is loose; counterweights fall on feet.",
    )
