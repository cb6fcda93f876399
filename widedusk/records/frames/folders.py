"""Folders of frames: which there are, what lies in them, and keeping up with one that still fills."""

from collections import Counter
from collections.abc import Iterable, Iterator, Sequence
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import datetime, timedelta
from itertools import islice
from pathlib import Path
from uuid import uuid4

from django.conf import settings
from django.contrib.auth.models import AbstractBaseUser
from django.db import models, transaction
from django.db.models import QuerySet, Window
from django.db.models.functions import RowNumber

from widedusk.core.errors import Fault, InvalidInput, storable
from widedusk.records.clock import true_now
from widedusk.records.frames.models import CLOCK_STEPPED, Folder, Frame
from widedusk.records.kit.models import Rig
from widedusk.records.nights.models import Night
from widedusk.records.owned import OwnedQuerySet
from widedusk.records.pictures.pictures import (
    KEEP_FILES_FOR,
    MOST_BYTES_HERE,
    NOT_PICTURES,
    digest_of,
    ending_of,
    let_strays_go,
    received,
)
from widedusk.records.pictures.store import lay_down, let_file_go, lies_below, lying
from widedusk.records.targets.models import Target

MOST_FILES = 20_000  # of one folder
MOST_FOLDERS = 200  # listed, and of one person
WHOLE_AFTER_S = 1.0  # since a file last changed it is taken to be whole
LOOK_EVERY = timedelta(seconds=0.8)
MOST_TROUBLES = 20


def folders_of(user: AbstractBaseUser) -> OwnedQuerySet[Folder]:
    return Folder.objects.of(user).select_related("night__spot__place", "rig", "target")


def frames_of(user: AbstractBaseUser) -> QuerySet[Frame]:
    """This person's frames without what is large."""
    return Frame.objects.filter(owner_id=user.pk, folder__deleted_at=None).defer("preview", "crops", "stars", "known")


def _root() -> Path | None:
    root = Path(settings.WIDE_DUSK_PICTURE_FOLDER) if settings.WIDE_DUSK_PICTURE_FOLDER else None
    return root.resolve() if root is not None and root.is_dir() else None


def _is_picture(path: Path) -> bool:
    """Links are passed over: they may lead out of the allowed folder."""
    usual = path.suffix.lower() not in NOT_PICTURES and not path.name.startswith(".")
    return usual and not path.is_symlink() and path.is_file()


@dataclass(frozen=True)
class FolderThere:
    """path: below the allowed folder, empty for that folder itself. files: up to MOST_FILES."""

    path: str
    files: int


def folders_there() -> list[FolderThere]:
    """Folders of pictures below the allowed one, by name; none where no folder is allowed."""
    root = _root()
    if root is None:
        return []
    every = (root, *islice((one for one in sorted(root.rglob("*")) if one.is_dir() and not one.is_symlink()), MOST_FOLDERS))
    counted = [(one, sum(1 for _ in islice((path for path in one.iterdir() if _is_picture(path)), MOST_FILES))) for one in every]
    return [FolderThere("" if one == root else str(one.relative_to(root)), files) for one, files in counted if files or one != root]


def place_of(path: str) -> Path:
    """Where a folder lies. Raises InvalidInput for what is not there or lies outside the allowed folder."""
    root = _root()
    found = lies_below(root, path) if root is not None else None
    if root is None or found is None or not found.is_dir():
        told = (
            "This server was started without a folder of pictures; start it with WIDE_DUSK_PICTURE_FOLDER set."
            if root is None
            else f"There is no folder “{path}” below the one that this server may read; choose one from the list."
        )
        raise InvalidInput([Fault("path", path, told)])
    return found


@dataclass(frozen=True)
class Clock:
    """Of the camera: its zone in minutes east of UTC, None as the files say; how far it is ahead, s."""

    offset_min: int | None = None
    fast_s: float = 0.0


@dataclass(frozen=True)
class Whereabouts:
    """Of a folder: below the allowed one of a machine; no name: the server's."""

    path: str
    machine: str = ""


UPLOADS = "frames"  # folder of the store


@transaction.atomic
def folder_for_files(user: AbstractBaseUser, night: Night, rig: Rig, target: Target, clock: Clock) -> Folder:
    """Where files that are brought in the browser go: one for each night and rig. Raises InvalidInput."""
    row = folders_of(user).select_for_update(of=("self",)).filter(night=night, rig=rig, brought=True).first()
    if row is None:
        check_room_for_folder(user, "")
        row = Folder(owner_id=user.pk, night=night, rig=rig, brought=True, path="", name=f"Brought for {rig.name}"[:120])
        row.clock_offset_min, row.clock_fast_s = clock.offset_min, clock.fast_s
    row.target, row.state = target, "reading"
    row.save()
    return row


def check_room_for_folder(user: AbstractBaseUser, path: str) -> None:
    if folders_of(user).count() >= MOST_FOLDERS:
        raise InvalidInput([Fault("path", path, f"You have {MOST_FOLDERS} folders here; delete one you no longer need.")])


def take_frame(folder: Folder, name: str, chunks: Iterable[bytes]) -> tuple[Frame, bool]:
    """Lay a brought file down and note it. Returns the frame, and whether it is to be measured. Raises InvalidInput.

    The same file again changes nothing, so that one may begin anew after a broken line; one of that name which could not be read is
    replaced.
    """
    lies = Frame.objects.filter(owner_id=folder.owner_id).exclude(file="").aggregate(size=models.Sum("size_bytes"))["size"] or 0
    if lies > MOST_BYTES_HERE:
        told = f"{lies / 1e9:.0f} GB of yours wait to be measured; bring more when they are."
        raise InvalidInput([Fault("file", lies, told)])
    if folder.frames.count() >= MOST_FILES:
        raise InvalidInput([Fault("file", name, f"A folder holds {MOST_FILES:,} files; this one is full.")])
    with received(name, chunks) as (path, safe):
        digest, size = digest_of(path), path.stat().st_size
        if size == 0:
            raise InvalidInput([Fault("file", safe, f"“{safe}” is empty. Copy it from the card again.")])
        there = folder.frames.filter(name=safe).first()
        if there is not None and (there.digest == digest or there.state != "failed"):
            return there, False
        kept = lay_down(f"{UPLOADS}/{uuid4().hex}{ending_of(safe)}", path)
    new = {"file": kept, "size_bytes": size, "digest": digest, "state": "waiting", "fault": "", "job": None, "claim": None}
    row, _ = Frame.objects.update_or_create(
        folder=folder, name=safe, defaults=new, create_defaults={**new, "owner_id": folder.owner_id, "changed_ns": 0}
    )
    return row, True


@contextmanager
def opened_frame(row: Frame) -> Iterator[Path]:
    """The file of a frame, wherever it lies. Raises OSError when it has gone, InvalidInput when its folder has."""
    if row.folder.brought:
        with lying(row.file) as path:
            yield path
    elif row.folder.machine != settings.WIDE_DUSK_MACHINE:
        raise InvalidInput([Fault("path", row.folder.path, f"“{row.name}” lies on another machine than this worker.")])
    else:
        path = place_of(row.folder.path) / row.name
        if path.is_symlink():  # put there since the folder was looked through
            raise FileNotFoundError(row.name)
        yield path


def let_brought_files_go() -> None:
    """Files of frames that are measured, could not be read for a day, or were taken out with their folder; and strays."""
    day_ago = true_now() - KEEP_FILES_FOR
    over = models.Q(state="done") | models.Q(state="failed", measured_at__lt=day_ago) | models.Q(folder__deleted_at__lt=day_ago)
    for row in Frame.objects.exclude(file="").filter(over).only("pk", "file"):
        let_file_go(row.file)
        Frame.objects.filter(pk=row.pk).update(file="")
    let_strays_go(UPLOADS, Frame.objects.exclude(file="").values_list("file", flat=True))


@transaction.atomic
def bring_folder(
    user: AbstractBaseUser, night: Night, rig: Rig, target: Target, where: Whereabouts, watched: bool, clock: Clock
) -> Folder:
    """Take a folder that is there into a night, or go on with it if it is in it already: then its clock stays as it was put right.
    Raises InvalidInput."""
    lies = {"path": where.path, "machine": where.machine}
    row = folders_of(user).select_for_update(of=("self",)).filter(night=night, brought=False, **lies).first()
    if row is None:
        check_room_for_folder(user, where.path)
        row = Folder(owner_id=user.pk, night=night, name=(Path(where.path).name or "All pictures")[:120], **lies)
        row.clock_offset_min, row.clock_fast_s = clock.offset_min, clock.fast_s
    row.rig, row.target, row.watched, row.state = rig, target, watched, "reading"
    row.save()
    return row


def _listed(place: Path) -> Iterator[tuple[str, int, int]]:
    """Name, size and last change of each picture in a folder; what vanishes meanwhile is passed over."""
    for path in islice((one for one in place.iterdir() if _is_picture(one)), MOST_FILES + 1):
        try:
            told = path.stat()
        except OSError:
            continue
        yield path.name, told.st_size, told.st_mtime_ns


def _can_be_kept(name: str) -> bool:
    return len(name) <= 200 and storable(name) == name


def _troubles_with(files: Sequence[tuple[str, int, int]], empty: Sequence[str]) -> list[str]:
    """What keeps some of the files in a folder from being taken, in sentences."""
    troubles = []
    if len(files) > MOST_FILES:
        troubles.append(f"More than {MOST_FILES:,} files lie here; the first {MOST_FILES:,} by name are taken.")
    odd = [name for name, _, _ in files if not _can_be_kept(name)]
    if odd:
        troubles.append(f"{len(odd)} files have names that cannot be kept, “{storable(odd[0])[:40]}” for one; rename them.")
    if empty:
        many = "is empty" if len(empty) == 1 else f"and {len(empty) - 1} more are empty"
        troubles.append(f"“{empty[0]}” {many}: copy from the card again.")
    return troubles


def look_through(folder: Folder) -> list[Frame]:
    """Note files that are new, or that have changed since they could not be read. Returns the frames that now wait for measuring.

    A file that changed within the last second may still be written to: it is left for the next look (`left_young`).
    """
    now = true_now()
    if folder.brought:
        return list(folder.frames.filter(state="waiting", job=None))
    if folder.machine != settings.WIDE_DUSK_MACHINE:
        return []  # a worker over there looks
    try:
        files = sorted(_listed(place_of(folder.path)))
    except (InvalidInput, OSError):
        folder.troubles = [
            f"The folder “{folder.path}” cannot be read any more: a card that was taken out, or a name that changed."
        ]
        folder.looked_at = now
        folder.save(update_fields=("troubles", "looked_at"))
        return []
    known = dict(folder.frames.values_list("name", "changed_ns"))
    waiting: list[Frame] = []
    young = int((now.timestamp() - WHOLE_AFTER_S) * 1e9)
    fresh, changed = [], []
    folder.left_young = any(changed_ns > young for _, _, changed_ns in files[:MOST_FILES])
    whole = [one for one in files[:MOST_FILES] if one[2] <= young]
    for name, size, changed_ns in whole:
        if size == 0 or not _can_be_kept(name):
            continue
        if name not in known:
            fresh.append(Frame(owner_id=folder.owner_id, folder=folder, name=name, size_bytes=size, changed_ns=changed_ns))
        elif known[name] != changed_ns:
            changed.append((name, size, changed_ns))
    Frame.objects.bulk_create(fresh, ignore_conflicts=True, batch_size=2000)
    waiting += Frame.objects.filter(folder=folder, name__in=[one.name for one in fresh], state="waiting", job=None)
    for name, size, changed_ns in changed:
        again = Frame.objects.filter(folder=folder, name=name).exclude(state="running")
        if again.update(state="waiting", size_bytes=size, changed_ns=changed_ns, fault="", digest="", job=None, claim=None):
            waiting += again
    troubles = _troubles_with(files, [name for name, size, _ in whole if size == 0])
    troubles += [one for one in folder.troubles if one.startswith(CLOCK_STEPPED)]
    folder.looked_at, folder.troubles = now, troubles
    folder.save(update_fields=("looked_at", "troubles"))
    return waiting


def wants_a_look(folder: Folder) -> bool:
    """Whether a folder is watched and has not been looked through just now."""
    return folder.watched and folder.state == "reading" and (folder.looked_at is None or true_now() - folder.looked_at > LOOK_EVERY)


def stop_measuring(folder: Folder) -> None:
    """Let go what is not measured yet; what is measured stays. To read the folder once more finds the rest again."""
    folder.state, folder.watched = "stopped", False
    folder.save(update_fields=("state", "watched", "updated_at"))
    for row in folder.frames.filter(state="waiting").exclude(file="").only("pk", "folder", "file"):
        let_file_go(row.file)
    folder.frames.filter(state="waiting").delete()


MOST_UNREAD, PACE_OF = 20, 20


@dataclass(frozen=True)
class Standing:
    """How far a folder is. counts: frames by state, and of those measured by kind; unread: name and why, of the first that could
    not be; began: the moment of the earliest frame; measured: when the last was; pace_s: between the last twenty, None where that
    are too few."""

    counts: Counter[str]
    unread: tuple[tuple[str, str], ...]
    began: datetime | None
    measured: datetime | None
    pace_s: float | None


def standings(folders: Sequence[Folder]) -> dict[int, Standing]:
    """Of many folders at once, by number: in as many queries as for one."""
    rows = Frame.objects.filter(folder__in=folders)
    counts = {one.pk: Counter[str]() for one in folders}
    began: dict[int, datetime] = {}
    measured: dict[int, datetime] = {}
    told = rows.order_by().values_list("folder", "state", "kind")
    for folder, state, kind, many, first, last in told.annotate(
        models.Count("pk"), models.Min("began_at"), models.Max("measured_at")
    ):
        counts[folder][state] += many
        if state == "done":
            counts[folder][kind] += many
            if last is not None:
                measured[folder] = max(measured.get(folder, last), last)
        if first is not None:
            began[folder] = min(began.get(folder, first), first)
    unread: dict[int, list[tuple[str, str]]] = {}
    failed = rows.filter(state="failed").annotate(place=_place_by("name")).filter(place__lte=MOST_UNREAD)
    for folder, name, why in failed.order_by("name").values_list("folder", "name", "fault"):
        unread.setdefault(folder, []).append((name, why))
    latest: dict[int, list[datetime]] = {}
    ended = rows.exclude(measured_at=None).annotate(place=_place_by("-measured_at")).filter(place__lte=PACE_OF)
    for folder, moment in ended.values_list("folder", "measured_at"):
        if moment is not None:
            latest.setdefault(folder, []).append(moment)

    def pace_s(moments: Sequence[datetime]) -> float | None:
        return (max(moments) - min(moments)).total_seconds() / (len(moments) - 1) if len(moments) > 2 else None

    return {
        one.pk: Standing(
            counts[one.pk], tuple(unread.get(one.pk, ())), began.get(one.pk), measured.get(one.pk), pace_s(latest.get(one.pk, ()))
        )
        for one in folders
    }


def _place_by(order: str) -> Window:
    """Which of its folder's frames it is in an order, from 1."""
    return Window(RowNumber(), partition_by="folder", order_by=order)
