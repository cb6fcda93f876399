"""Where uploads lie until they are measured: a folder of this machine, or an object store that workers of other machines reach too.

Nothing else in the project knows which of the two it is.
"""

from collections.abc import Iterator
from contextlib import contextmanager, suppress
from functools import lru_cache
from pathlib import Path
from shutil import copyfileobj
from tempfile import NamedTemporaryFile
from urllib.parse import unquote, urlsplit

from django.conf import settings
from django.core.exceptions import ImproperlyConfigured, SuspiciousFileOperation
from django.core.files import File
from django.core.files.storage import FileSystemStorage, Storage

FORM = "http(s)://key:secret@host:port/bucket"


@lru_cache(maxsize=8)
def _store(folder: str, objects: str) -> Storage:
    if not objects:
        # For the server and its workers only: other people of the machine have no business there.
        return FileSystemStorage(location=folder, file_permissions_mode=0o600, directory_permissions_mode=0o700)
    from storages.backends.s3 import S3Storage  # noqa: PLC0415 - a heavy library, for those who use it

    told = urlsplit(objects)
    bucket = told.path.strip("/")
    if told.scheme not in {"http", "https"} or not (told.hostname and told.username and told.password and bucket):
        raise ImproperlyConfigured(f"WIDE_DUSK_OBJECT_STORE has the form {FORM}")
    port = f":{told.port}" if told.port else ""
    objects_there: Storage = S3Storage(
        endpoint_url=f"{told.scheme}://{told.hostname}{port}",
        access_key=unquote(told.username),
        secret_key=unquote(told.password),
        bucket_name=bucket,
        addressing_style="path",
        file_overwrite=False,
        default_acl=None,
    )
    return objects_there


def store() -> Storage:
    return _store(settings.WIDE_DUSK_PICTURES, settings.WIDE_DUSK_OBJECT_STORE)


def lay_down(name: str, path: Path) -> str:
    """Keep a copy of a file under a name that nothing else has; returns the name it has there. Raises OSError where there is no
    room; then nothing stays."""
    try:
        with path.open("rb") as content:
            return str(store().save(name, File(content)))
    except OSError:
        with suppress(OSError):
            store().delete(name)
        raise


def let_file_go(name: str) -> None:
    if name and is_there(name):
        store().delete(name)


def is_there(name: str) -> bool:
    try:
        return bool(name) and store().exists(name)
    except SuspiciousFileOperation:  # it lay in a folder that was set before
        return False


@contextmanager
def lying(name: str) -> Iterator[Path]:
    """A kept file as one that can be opened by its path, fetched for as long as it is wanted where it lies elsewhere.

    Raises FileNotFoundError.
    """
    if not is_there(name):
        raise FileNotFoundError(name)
    if isinstance(store(), FileSystemStorage):
        yield Path(store().path(name))
        return
    with NamedTemporaryFile(suffix=Path(name).suffix) as here:
        with store().open(name, "rb") as content:
            copyfileobj(content, here)
        here.flush()
        yield Path(here.name)


def names_below(folder: str) -> list[str]:
    """Every file of a folder of the store; none where there is no such folder yet."""
    try:
        files = store().listdir(folder)[1]
    except FileNotFoundError:
        return []
    return [f"{folder}/{one}" if folder else one for one in files]


def lies_below(root: Path, path: str) -> Path | None:
    """Where a path below a folder really leads; none where that is outside, or where no disk can have such a path."""
    try:
        found = (root / path).resolve()
        return found if found.is_relative_to(root) and found.exists() else None
    except (OSError, ValueError):
        return None
