"""Work of the tests that gives the same whenever its code and what it is given are the same: done once and kept in the cache.

For pictures that are drawn, and for facts that were measured where a test is about judging them; never for what a test is about.
"""

import os
import pickle
import time
from collections.abc import Callable
from functools import cache
from hashlib import sha256
from pathlib import Path
from typing import TypeVar

from widedusk.command.basics import ROOT, fingerprint
from widedusk.command.install import cache_folder

T = TypeVar("T")
FORGET_AFTER_S = 14 * 86_400
DRAWING = ("widedusk/core/simulate/*", "widedusk/core/catalogue/*", "widedusk/core/frames/facts.py", "standins/*")
# Everything that a reader may stand on; test_cached_result.py holds it to what is loaded.
MEASURING = (*DRAWING, "widedusk/core/*.py", *(f"widedusk/core/{room}/*" for room in ("frames", "sky", "tracking")))


def code_files(patterns: tuple[str, ...]) -> list[Path]:
    """Files of ours on which a result hangs: those that the patterns name, and the tests' own drawing."""
    named = [path for pattern in patterns for path in ROOT.glob(pattern) if path.suffix in {".py", ".csv"}]
    return [*named, *(ROOT / "tests").glob("invented*.py")]


@cache
def _code(patterns: tuple[str, ...]) -> str:
    """Digest of these files, and of the packages they stand on."""
    return fingerprint([*code_files(patterns), ROOT / "requirements" / "run.txt", ROOT / "requirements" / "test.txt"])


@cache
def _forget_old() -> None:
    for old in (cache_folder() / "made-by-tests").glob("*"):
        if time.time() - old.stat().st_mtime > FORGET_AFTER_S:
            old.unlink(missing_ok=True)


def cached_result(what: str, code: tuple[str, ...], given: object, make: Callable[[], T]) -> T:
    """What `make` returned when it was last called for the same code and what is given, whose repr() tells all of it."""
    _forget_old()
    key = sha256(f"{_code(code)} {given!r}".encode()).hexdigest()[:32]
    file = cache_folder() / "made-by-tests" / f"{what}-{key}"
    if file.is_file():
        os.utime(file)
        earlier: T = pickle.loads(file.read_bytes())  # noqa: S301 - written by the tests themselves
        return earlier
    result = make()
    file.parent.mkdir(exist_ok=True)
    partial = file.with_name(f".{file.name}.{os.getpid()}")
    partial.write_bytes(pickle.dumps(result))
    partial.replace(file)
    return result
