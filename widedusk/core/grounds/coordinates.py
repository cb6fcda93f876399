"""A place on the Earth out of whatever was pasted.

    -24.62, 16.94      24.62 S 16.94 E      24°37'12"S 16°56'24"E      24 37 12 S, 16 56 24 E      geo:-24.62,16.94
    -24,62; 16,94      (-24.62, 16.94)      Lat: -24.62 Lon: 16.94     a link to a map with both in it

Written strictly: a text that could mean two places is refused rather than guessed at.
"""

import re
from dataclasses import dataclass

from widedusk.core.errors import Fault, InvalidInput

_NUMBER = r"\d+(?:\.\d+)?"
_DEGREES = (
    rf"(?P<sign>[+\-−])?\s*(?P<deg>{_NUMBER})\s*(?:°|d|deg)?"
    rf"(?:\s*(?P<min>{_NUMBER})\s*(?:'|′|’|m(?:in)?))?(?:\s*(?P<sec>{_NUMBER})\s*(?:\"|″|”|''|(?-i:s(?:ec)?)))?\s*"
)
_END = r"\s*[,;]?\s*"
_LED = re.compile(rf"\s*(?P<before>[NSEW])\s*{_DEGREES}(?P<after>){_END}", re.IGNORECASE)
_ANGLE = re.compile(rf"\s*(?P<before>){_DEGREES}(?P<after>[NSEW])?{_END}", re.IGNORECASE)
_SPACED = re.compile(
    rf"\s*(?P<before>)(?P<sign>)(?P<deg>\d+)\s+(?P<min>{_NUMBER})(?:\s+(?P<sec>{_NUMBER}))?\s*(?P<after>[NSEW]){_END}",
    re.IGNORECASE,
)
_GEO = re.compile(rf"geo:(-?{_NUMBER}),(-?{_NUMBER})(?:,-?{_NUMBER})?(?:;.*)?", re.IGNORECASE)  # RFC 5870
# "-24,62 16,94", "24,62° S; 16,94° E": two numbers with decimal commas, and nothing but a space, a semicolon or ", " between.
_COMMAS = re.compile(r"([^,;]*\d),(\d+\s*°?\s*[NSEW]?)(?:,\s+|\s*;\s*|\s+)([^,;]*\d),(\d+\s*°?\s*[NSEW]?)", re.IGNORECASE)
_CALLED = re.compile(r"\s*[,;]?\s*\b(?:lat(?:itude)?|lon(?:g|gitude)?|lng)\b\s*[:=]?\s*", re.IGNORECASE)
_LONGITUDE_FIRST = re.compile(r"\s*(?:lon|lng)", re.IGNORECASE)
_LINK = re.compile(r"https?://\S+", re.IGNORECASE)
_IN_LINK = re.compile(r"(?<![\d.])(-?\d{1,2}\.\d{2,})(?:,|/|%2C|&\w+=)(-?\d{1,3}\.\d{2,})(?![\d.])", re.IGNORECASE)
MOST_LETTERS = 400  # of what is pasted; a link to a map is long
WANTED = "Write it like -24.62, 16.94 or 24°37'12\"S 16°56'24\"E."


@dataclass(frozen=True)
class Coordinates:
    latitude_deg: float
    longitude_deg: float  # positive to the east

    @property
    def words(self) -> str:
        north, east = "S" if self.latitude_deg < 0 else "N", "W" if self.longitude_deg < 0 else "E"
        return f"{abs(self.latitude_deg):.4f}° {north}, {abs(self.longitude_deg):.4f}° {east}"


@dataclass(frozen=True)
class _Angle:
    degrees: float
    letter: str  # N, S, E or W; empty when only a sign was written


def _refuse(text: str, why: str) -> InvalidInput:
    return InvalidInput([Fault("coordinates", text, why)])


def _angle(found: re.Match[str], text: str) -> _Angle:
    minutes, seconds = float(found["min"] or 0), float(found["sec"] or 0)
    letters = (found["before"] or "") + (found["after"] or "")
    if letters and found["sign"]:
        raise _refuse(text, f"One direction is told twice in “{text.strip()}”. {WANTED}")
    if minutes >= 60 or seconds >= 60:
        raise _refuse(text, f"Minutes and seconds of an angle stay below 60. {WANTED}")
    if "." in found["deg"] and found["min"]:
        raise _refuse(text, f"Degrees with decimals take no minutes. {WANTED}")
    value = float(found["deg"]) + minutes / 60 + seconds / 3600
    negative = letters.upper() in {"S", "W"} or found["sign"] in {"-", "−"}
    return _Angle(-value if negative else value, letters.upper())


def _angles(text: str) -> list[_Angle] | None:
    """All angles of a text, or None when it is made of anything else."""
    for form in (_SPACED, _LED, _ANGLE):
        found, at = [], 0
        while at < len(text):
            match = form.match(text, at)
            if match is None or match.end() == at:
                break
            found.append(_angle(match, text))
            at = match.end()
        if at == len(text) and found:
            return found
    return None


def _as_numbers(text: str) -> str:
    """The same place without what people paste around it: brackets, "Lat:" and "Lon:", a link, decimal commas."""
    if _LINK.fullmatch(text):
        pairs = set(_IN_LINK.findall(text))
        if len(pairs) != 1:
            raise _refuse(text, f"There is not exactly one place in this link. {WANTED}")
        return ", ".join(pairs.pop())
    bare = text.strip("()[] ")
    if len(_CALLED.findall(bare)) == 2:
        swapped = _LONGITUDE_FIRST.match(bare)
        halves = [half for half in _CALLED.split(bare) if half]
        bare = ", ".join(reversed(halves) if swapped else halves)
    commas = _COMMAS.fullmatch(bare)
    return f"{commas[1]}.{commas[2]}, {commas[3]}.{commas[4]}" if commas else bare


def read_coordinates(text: str) -> Coordinates:
    """Latitude and longitude out of one text, latitude first unless letters say otherwise. Raises InvalidInput."""
    bare = _as_numbers(text.strip())
    geo = _GEO.fullmatch(bare)
    angles = [_Angle(float(geo[1]), ""), _Angle(float(geo[2]), "")] if geo else _angles(bare)
    if angles is None or len(angles) != 2:
        raise _refuse(text, f"“{bare[:60]}” is no pair of coordinates. {WANTED}")
    first, second = angles
    if bool(first.letter) != bool(second.letter):
        raise _refuse(text, f"Give both directions a letter, or neither. {WANTED}")
    if first.letter in {"E", "W"}:
        first, second = second, first
    if first.letter and (first.letter not in {"N", "S"} or second.letter not in {"E", "W"}):
        raise _refuse(text, f"One of them should be N or S, the other E or W. {WANTED}")
    if abs(first.degrees) > 90 >= abs(second.degrees):
        raise _refuse(
            text, f"{first.degrees:g}° is no latitude; latitude comes first. Did you mean {second.degrees:g}, {first.degrees:g}?"
        )
    if abs(first.degrees) > 90 or abs(second.degrees) > 180:
        raise _refuse(text, "Latitude goes from -90 to 90°, longitude from -180 to 180°.")
    return Coordinates(first.degrees, second.degrees)
