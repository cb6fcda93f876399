"""Work of the tests that gives the same whenever its code and what it is given are the same: done once and kept in the cache.

For pictures that are drawn, and for facts that were measured where a test is about judging them; never for what a test is about.
"""

import os
import pickle
import time
from collections.abc import Callable
from functools import cache
from hashlib import sha256
from typing import TypeVar

from widedusk.command.basics import ROOT, files_below, fingerprint
from widedusk.command.install import cache_folder

T = TypeVar("T")
FORGET_AFTER_S = 14 * 86_400
DRAWING = ("widedusk/core/simulate", "widedusk/core/catalogue", "standins")
MEASURING = (*DRAWING, "widedusk/core/frames", "widedusk/core/sky", "widedusk/core/errors.py")


@cache
def _code(folders: tuple[str, ...]) -> str:
    """Digest of the code in some folders, of the tests' own drawing and of the packages all of it stands on."""
    files = files_below(*folders, suffixes=(".py", ".csv"))
    own = (ROOT / "tests").glob("invented*.py")
    return fingerprint([*files, *own, ROOT / "requirements" / "run.txt", ROOT / "requirements" / "test.txt"])


@cache
def _forget_old() -> None:
    for old in (cache_folder() / "made-by-tests").glob("*"):
        if time.time() - old.stat().st_mtime > FORGET_AFTER_S:
            old.unlink(missing_ok=True)


def made_before(what: str, code: tuple[str, ...], given: object, make: Callable[[], T]) -> T:
    """What `make` returned when it was last called for the same code and what is given, whose repr() tells all of it."""
    _forget_old()
    key = sha256(f"{_code(code)} {given!r}".encode()).hexdigest()[:32]
    kept = cache_folder() / "made-by-tests" / f"{what}-{key}"
    if kept.is_file():
        os.utime(kept)
        found: T = pickle.loads(kept.read_bytes())  # noqa: S301 - written by the tests themselves
        return found
    made = make()
    kept.parent.mkdir(exist_ok=True)
    beside = kept.with_name(f".{kept.name}.{os.getpid()}")
    beside.write_bytes(pickle.dumps(made))
    beside.replace(kept)
    return made
