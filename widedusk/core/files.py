"""Files as they are brought: bounded, and text before anything else."""

from typing import Literal
from xml.etree.ElementTree import Element

from defusedxml import DefusedXmlException
from defusedxml.ElementTree import fromstring

from widedusk.core.errors import Fault, InvalidInput, storable

MOST_BYTES = 1_000_000
MOST_ROWS = 2_000
TargetsFormat = Literal["csv", "ecsv", "votable"]
PlacesFormat = Literal["gpx", "geojson"]
PanelFormat = Literal["csv", "ecsv", "outlines"]


_FORMULA = ("=", "+", "-", "@", "\t", "\r")


def shielded(cell: object) -> object:
    """A text as it goes into a CSV file: a spreadsheet takes what begins like a formula for one, an apostrophe before it hinders.

    Source: OWASP, CSV Injection. Numbers stay numbers.
    """
    return f"'{cell}" if isinstance(cell, str) and cell.startswith((*_FORMULA, "'")) else cell


def bared(cell: str) -> str:
    """A text as it was before it was shielded."""
    return cell[1:] if cell[:1] == "'" and cell[1:2] in {*_FORMULA, "'"} else cell


def refuse(message: str, value: object = None, field: str = "file") -> InvalidInput:
    """What to raise for a file that cannot be taken in."""
    return InvalidInput([Fault(field, value, message)])


def text_of(content: bytes) -> str:
    """The text of a file. Raises InvalidInput when it is too large or not UTF-8."""
    if len(content) > MOST_BYTES:
        raise refuse(f"The file has {len(content):,} bytes; give at most {MOST_BYTES:,}.", len(content))
    try:
        return content.decode("utf-8-sig")
    except UnicodeDecodeError as caught:
        raise refuse(f"Byte {caught.start} is not UTF-8; save the file as UTF-8 and try again.") from caught


def bound_rows(count: int, what: str = "rows") -> None:
    """Raise InvalidInput for more rows than are taken in at a time."""
    if count > MOST_ROWS:
        raise refuse(f"The file has {count:,} {what}; give at most {MOST_ROWS:,} at a time.", count)


def xml_of(content: bytes) -> Element:
    """The XML of a file, without entities of its own and whatever else would reach outside. Raises InvalidInput."""
    try:
        return fromstring(content, forbid_dtd=True)  # type: ignore[no-any-return]
    except DefusedXmlException as caught:
        raise refuse("The file declares its own entities, which is not safe to read; export it again without.") from caught
    except (SyntaxError, ValueError, LookupError) as caught:  # ElementTree's ParseError, and encodings nobody knows
        raise refuse(f"This is no readable XML: {storable(str(caught))[:160]}.") from caught
