"""Files in and out of the API."""

from ninja import Schema, UploadedFile

from widedusk.core.files import MOST_BYTES, refuse


class FileOut(Schema):
    name: str
    media: str
    text: str


class Added(Schema):
    id: int
    name: str


class AddedOut(Schema):
    """What a file brought."""

    added: list[Added]
    there: int  # already known, left as they are


def content_of(file: UploadedFile) -> bytes:
    """The bytes of an upload, bounded before they are read. Raises InvalidInput."""
    if (file.size or 0) > MOST_BYTES:
        raise refuse(f"The file has {file.size:,} bytes; give at most {MOST_BYTES:,}.", file.name)
    return bytes(file.read())
