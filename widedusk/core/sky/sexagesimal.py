"""Right ascension and declination as they are written.

00h42m44s   00:42:44.3   0 42 44   10.684   10,684      +41°16′09″   41:16:09   -5 15   -5.25
"""

import re

from widedusk.core.errors import Fault, InvalidInput
from widedusk.core.number_text import with_plain_minus

_NUMBER = r"\d+(?:\.\d+)?"
_REST = rf"(?P<minutes>{_NUMBER})\s*[m'′’:]?\s*(?:(?P<seconds>{_NUMBER})\s*[s\"″”]?)?"
_PART = rf"(?P<whole>{_NUMBER})\s*(?P<mark>[hd°:]?)\s*(?:{_REST})?"
_WRITTEN = re.compile(rf"\s*(?P<sign>[+-]?)\s*{_PART}\s*", re.IGNORECASE)
RIGHT_ASCENSION = "Write it like 00h42m44s, 00:42:44, or in degrees like 10.684."
DECLINATION = "Write it like +41°16′09″, 41:16:09, or in degrees like 41.269."


def _read(text: str, field: str, hours: bool) -> float:
    """Degrees. Raises InvalidInput for what cannot be read."""
    wanted = RIGHT_ASCENSION if hours else DECLINATION
    found = _WRITTEN.fullmatch(with_plain_minus(text.strip()).replace(",", "."))
    mark = found["mark"].lower() if found else ""
    if found is None or (mark == "h" and not hours) or ("." in found["whole"] and found["minutes"]):
        raise InvalidInput([Fault(field, text, f"“{text.strip()[:40]}” cannot be read. {wanted}")])
    minutes, seconds = float(found["minutes"] or 0.0), float(found["seconds"] or 0.0)
    if minutes >= 60.0 or seconds >= 60.0:
        raise InvalidInput([Fault(field, text, f"Minutes and seconds stay below 60. {wanted}")])
    value = float(found["whole"]) + minutes / 60.0 + seconds / 3600.0
    in_hours = hours and (mark in {"h", ":"} or (mark == "" and found["minutes"] is not None))
    value *= 15.0 if in_hours else 1.0
    return -value if found["sign"] == "-" else value


def read_right_ascension(given: float | str, field: str = "ra_deg") -> float:
    """Degrees from a number of them, or from hours, minutes and seconds. Raises InvalidInput."""
    return given if isinstance(given, (int, float)) else _read(given, field, hours=True)


def read_declination(given: float | str, field: str = "dec_deg") -> float:
    """Degrees from a number of them, or from degrees, minutes and seconds. Raises InvalidInput."""
    return given if isinstance(given, (int, float)) else _read(given, field, hours=False)
