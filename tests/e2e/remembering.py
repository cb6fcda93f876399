"""A worker that measures as any other does, but what lies in one folder only once: the facts go into the tests' cache.

For the journey that is about judging a night. `--everything` measures that night anew, as the other journeys always do.
"""

import sys
from pathlib import Path

import django
from django.core.management import execute_from_command_line

from tests.cached_result import MEASURING, cached_result

WORDS = ("tests.e2e.remembering", "procrastinate", "--skip-checks", "worker")
FOLDER = "run"


def remember() -> None:
    """Have what is measured of a file there taken from whoever measured it earlier: facts are those of the file."""
    from widedusk.jobs import frames

    measured_apart = frames.apart

    def apart(read, path: Path, patterns: Path, optics: tuple[float, float], known: object, **how: object):
        def measured():
            return measured_apart(read, path, patterns, optics, known, **how)

        if path.parent.name != FOLDER:
            return measured()
        return cached_result("frame", (*MEASURING, "widedusk/apart/*"), (frames.digest_of(path), optics), measured)

    frames.apart = apart


if __name__ == "__main__":
    django.setup()
    remember()
    execute_from_command_line(sys.argv)
