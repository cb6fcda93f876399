"""Keeping pictures: how they come here, what is read of them at once, and when their files go again."""

import contextlib
import hashlib
import re
import uuid
from collections.abc import Iterable, Iterator, Sequence
from contextlib import contextmanager
from dataclasses import asdict
from datetime import datetime, timedelta
from itertools import islice
from pathlib import Path
from tempfile import NamedTemporaryFile
from typing import Any

from django.conf import settings
from django.contrib.auth.models import AbstractBaseUser
from django.db.models import Q, Sum

from widedusk.apart import readers
from widedusk.apart.process import read_apart
from widedusk.core.errors import Fault, InvalidInput, storable
from widedusk.core.frames.header import MOST_PICTURE_BYTES, Header
from widedusk.records.clock import true_now
from widedusk.records.owned import OwnedQuerySet
from widedusk.records.pictures.models import Picture
from widedusk.records.pictures.store import is_there, lay_down, let_file_go, lies_below, lying, names_below, store

MOST_WAITING = 60  # pictures of one person whose files lie here
MOST_KEPT = 500  # and those that a person wants to stay
MOST_BYTES_HERE = 20_000_000_000  # of one person's uploads
KEEP_FILES_FOR = timedelta(days=1)
KEEP_PREVIEWS_FOR = timedelta(days=400)
UNDO_FOR = timedelta(hours=1)  # that the file of a deleted picture stays to be brought back
MOST_LISTED = 5_000  # files of the folder that are looked at
NOT_PICTURES = {".txt", ".xmp", ".md", ".json", ".part", ".mp4", ".mov", ".db"}


def pictures_of(user: AbstractBaseUser) -> OwnedQuerySet[Picture]:
    """This person's pictures, the latest first, without their small views."""
    return Picture.objects.of(user).defer("preview")


def stored_header(header: Header) -> dict[str, Any]:
    return {**asdict(header), "taken": header.taken.isoformat() if header.taken else None}


def read_header(stored: dict[str, Any]) -> Header:
    """A header as it was stored."""
    taken = stored.get("taken")
    return Header(**{**stored, "taken": datetime.fromisoformat(taken) if taken else None})


def header_of(row: Picture) -> Header:
    """What a picture's file said of itself."""
    return read_header(row.header)


def _row(owner: AbstractBaseUser, path: Path, name: str, lies: str = "") -> Picture:
    """lies: where an upload is to lie in the store; else it is the folder's own file."""
    header = read_apart(readers.picture_header, path)
    return Picture.objects.create(
        owner_id=owner.pk,
        name=storable(name)[:120] or "picture",
        digest=digest_of(path),
        file=lay_down(lies, path) if lies else str(path),
        from_folder=not lies,
        size_bytes=path.stat().st_size,
        header=stored_header(header),
    )


def digest_of(path: Path) -> str:
    with path.open("rb") as file:
        return hashlib.file_digest(file, "sha256").hexdigest()


def room_for(owner: AbstractBaseUser, more: int) -> None:
    # What was deleted and may be brought back lies here too.
    here = Picture.objects.filter(owner_id=owner.pk, from_folder=False).exclude(file="")
    waiting = here.filter(kept=False).count()
    if here.count() + more > MOST_KEPT:
        raise InvalidInput([Fault("file", here.count(), f"You keep {MOST_KEPT} files here; let some go before you bring more.")])
    size = here.aggregate(size=Sum("size_bytes"))["size"] or 0
    if size > MOST_BYTES_HERE:
        told = f"Your files here take {size / 1e9:.0f} GB of {MOST_BYTES_HERE / 1e9:.0f}; let some go before you bring more."
        raise InvalidInput([Fault("file", size, told)])
    if waiting + more > MOST_WAITING:
        raise InvalidInput(
            [Fault("file", waiting, f"{waiting} pictures wait here already; measure them, or let them go, before you bring more.")]
        )


def ending_of(name: str) -> str:
    """What tells programs the kind of a file, where it is a plain one."""
    found = re.search(r"\.[A-Za-z0-9]{1,8}$", name)
    return found[0].lower() if found else ""


@contextmanager
def received(name: str, chunks: Iterable[bytes]) -> Iterator[tuple[Path, str]]:
    """An upload as a file of its own for a while, and the name it came with made safe. Raises InvalidInput beyond a picture's size;
    what is refused inside is told by that name."""
    safe = storable(Path(name.replace("\x00", "")).name)[-80:] or "picture"
    with NamedTemporaryFile(suffix=ending_of(safe)) as out:
        total = 0
        for chunk in chunks:
            total += len(chunk)
            if total > MOST_PICTURE_BYTES:
                told = f"“{safe}” has more than {MOST_PICTURE_BYTES / 1e6:.0f} MB. Give the JPEG instead."
                raise InvalidInput([Fault("file", total, told)])
            out.write(chunk)
        out.flush()
        path = Path(out.name)
        try:
            yield path, safe
        except InvalidInput as refused:  # the name it has meanwhile means nothing to a person
            raise InvalidInput([Fault("file", safe, one.message.replace(path.name, safe)) for one in refused.faults]) from None


def take_upload(owner: AbstractBaseUser, name: str, chunks: Iterable[bytes]) -> Picture:
    """Read an upload's header and lay it down. Raises InvalidInput for what is no picture; then nothing stays."""
    room_for(owner, 1)
    with received(name, chunks) as (path, safe):
        return _row(owner, path, safe, f"{uuid.uuid4().hex}{ending_of(safe)}")


@contextmanager
def opened(row: Picture) -> Iterator[Path]:
    """The file of a picture, wherever it lies. Raises FileNotFoundError."""
    if row.from_folder:
        if Path(row.file).is_symlink() or not Path(row.file).is_file():
            raise FileNotFoundError(row.file)
        yield Path(row.file)
    else:
        with lying(row.file) as path:
            yield path


def is_here(row: Picture) -> bool:
    return bool(row.file) and (Path(row.file).is_file() if row.from_folder else is_there(row.file))


def folder_pictures() -> list[str]:
    """Names of the pictures in the allowed folder of this machine, the newest first; empty where none is set."""
    root = Path(settings.WIDE_DUSK_PICTURE_FOLDER) if settings.WIDE_DUSK_PICTURE_FOLDER else None
    if root is None or not root.is_dir():
        return []
    found = [
        (path.stat().st_mtime, str(path.relative_to(root)))
        for path in islice(root.rglob("*"), MOST_LISTED)
        if path.is_file() and path.suffix.lower() not in NOT_PICTURES and not path.name.startswith(".")
    ]
    return [name for _, name in sorted(found, reverse=True)]


def take_from_folder(owner: AbstractBaseUser, names: Sequence[str]) -> list[Picture]:
    """Pictures that lie in the allowed folder; nothing outside it can be reached. Raises InvalidInput."""
    root = Path(settings.WIDE_DUSK_PICTURE_FOLDER).resolve() if settings.WIDE_DUSK_PICTURE_FOLDER else None
    rows = []
    for name in names:
        path = lies_below(root, name) if root else None
        if root is None or path is None or not path.is_file():
            raise InvalidInput([Fault("names", name, f"There is no picture “{name}” in the folder; choose one from the list.")])
        rows.append(_row(owner, path, path.name))
    return rows


def let_go(row: Picture) -> None:
    """Delete the file of a picture that was uploaded. What was measured of it stays."""
    if row.file and not row.from_folder:
        let_file_go(row.file)
        row.file, row.kept = "", False
        row.save(update_fields=("file", "kept", "updated_at"))


def let_strays_go(folder: str, known: Iterable[str]) -> None:
    """Files without a record, from a server that died in the middle of an upload, go after a day. known: names, or whole paths."""
    recorded = {Path(one).name for one in known}
    for name in names_below(folder):
        with contextlib.suppress(OSError):
            if Path(name).name not in recorded and store().get_modified_time(name) < true_now() - KEEP_FILES_FOR:
                let_file_go(name)


def let_old_files_go() -> int:
    """Uploads that nobody measured within a day, and those of pictures that were deleted an hour ago, kept or not; and strays."""
    day_ago, hour_ago = true_now() - KEEP_FILES_FOR, true_now() - UNDO_FOR
    old = Picture.objects.filter(from_folder=False).exclude(file="").defer("preview")
    old = old.filter(Q(kept=False, created_at__lt=day_ago) | Q(deleted_at__lt=hour_ago))
    for row in old:
        let_go(row)
    let_strays_go("", Picture.objects.exclude(file="").values_list("file", flat=True))
    return len(old)


def let_old_previews_go() -> int:
    """Small views of pictures measured long ago: figures and centroids stay, the view can be made again from the picture."""
    old = Picture.objects.exclude(preview=None).filter(updated_at__lt=true_now() - KEEP_PREVIEWS_FOR)
    return old.update(preview=None)
