"""Files as they are brought: bounded, and text before anything else."""

from widedusk.core.errors import Fault, InvalidInput

MOST_BYTES = 1_000_000
MOST_ROWS = 2_000


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
