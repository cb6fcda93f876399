"""Numbers as people write them: with a point or a comma, any minus sign, "f/2.8", "1/250".

Written strictly, as coordinates are: a text that could mean two numbers is refused rather than guessed at.
"""

import math
import re

_MINUS = re.compile("^[\u2010-\u2015\u2212\ufe63\uff0d]")
_SPACES = re.compile(r"(?<=\d)[ \u00a0\u2009\u202f](?=\d{3}(?!\d))")  # between groups of three digits
_STOP = re.compile(r"^[fFƒ]\s*/?\s*(?=[\d.,])")
_PLAIN = re.compile(r"[+-]?(?:\d+[.,]?\d*|[.,]\d+)(?:[eE][+-]?\d+)?")
_FRACTION = re.compile(r"(\d{1,6})\s*[/⁄]\s*(\d{1,6})")
_THOUSANDS = re.compile(r"[+-]?[1-9]\d{0,2},\d{3}")
_TO = r"\s*(?:[-\u2010-\u2015\u2212]|to)\s*"
_RANGE = re.compile(rf"(\d+(?:[.,]\d+)?){_TO}(\d+(?:[.,]\d+)?)")
LIKE = "Give a number, like 2.8."
FINITE = "Give a finite number."


class NoNumber(ValueError):
    """Not one number; its words say what would be right."""


def with_plain_minus(text: str) -> str:
    """Whatever minus or dash a text begins with, as "-"."""
    return _MINUS.sub("-", text)


def _bare(text: str, unit: str) -> str:
    """A text without what may stand around a number: spaces, the mark of an f-number, its own unit."""
    stripped = _SPACES.sub("", with_plain_minus(text.strip()))
    if unit and stripped.casefold().endswith(unit.casefold()):
        stripped = stripped[: -len(unit)].rstrip()
    return _STOP.sub("", stripped)


def parse_number(given: object, unit: str = "") -> float:
    """A finite number out of a number or of a text, which may end in the unit of its field.

    Raises NoNumber (a ValueError) for anything else, for a range, and for "1,250", which is 1.25 to some and 1250 to others.
    """
    if isinstance(given, bool) or not isinstance(given, (int, float, str)):
        raise NoNumber(LIKE)
    if not isinstance(given, str):
        return _finite(given)
    text = _bare(given, unit)
    if fraction := _FRACTION.fullmatch(text):
        if not int(fraction[2]):
            raise NoNumber(LIKE)
        return int(fraction[1]) / int(fraction[2])
    if _THOUSANDS.fullmatch(text):
        whole, rest = text.split(",")
        raise NoNumber(f"“{text}” can mean two numbers; write {whole}{rest} or {whole}.{rest}.")
    if _RANGE.fullmatch(text):
        raise NoNumber("This is a range; give one number.")
    if not _PLAIN.fullmatch(text):
        raise NoNumber(FINITE if text.casefold().lstrip("+-") in {"nan", "inf", "infinity"} else LIKE)
    return _finite(text.replace(",", "."))


def parse_range(given: object, unit: str = "") -> tuple[float, float]:
    """Both ends of "14-24"; one number is both ends. Raises NoNumber."""
    between = _RANGE.fullmatch(_bare(given, unit)) if isinstance(given, str) else None
    if not between:
        number = parse_number(given, unit)
        return number, number
    low, high = sorted((parse_number(between[1]), parse_number(between[2])))
    return low, high


def _finite(given: int | float | str) -> float:
    try:
        value = float(given)
    except OverflowError:
        value = math.inf
    if not math.isfinite(value):
        raise NoNumber(FINITE)
    return value
