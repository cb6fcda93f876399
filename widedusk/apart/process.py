"""One piece of work in a child process that is ended when it takes too much, and that reaches nothing but what it was given.

A file may be built to make its reader hang, swallow memory, or fetch other files. The reader runs here, so that the worst it
can do is die alone; what is left of it is a sentence. Children are forked from a small server of the standard library
(multiprocessing's forkserver), which has the readers loaded: a few hundredths of a second each.
"""

import contextlib
import logging
import math
import multiprocessing
import os
import resource
import signal
import sys
import time
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from multiprocessing.connection import Connection
from pathlib import Path
from typing import Any, Final, TypeVar, cast

import widedusk
from widedusk.core.errors import Fault, InvalidInput

T = TypeVar("T")
log = logging.getLogger(__name__)

GLANCE_S = 0.25  # how often it is asked whether the work is still wanted
MOST_OPEN_FILES = 64
WALL_CLOCK_FACTOR = 10.0
BUSY_SHARE = 0.3  # of the time waited for a child: so long for a turn at a processor, it was the machine that was slow

Tell = Callable[[float, str], None]


@dataclass(frozen=True)
class Bounds:
    """What a piece of work may take, beyond the memory that the readers themselves take."""

    cpu_s: float  # of the processor, so that a busy machine takes nothing from it
    memory_bytes: int

    @property
    def wall_s(self) -> float:
        """How long it is waited for at most."""
        return WALL_CLOCK_FACTOR * self.cpu_s


READING: Final = Bounds(cpu_s=4.0, memory_bytes=600_000_000)  # a table, a place, the header of a picture

PICTURE_S, PICTURE_BYTES, MORE_S_A_BYTE = 60.0, 30_000_000, 1e-6


def bounds_of_picture(size_bytes: int, memory_bytes: int = 1_500_000_000) -> Bounds:
    """What decoding and measuring one picture may take: a minute, and a second more for each megabyte above thirty."""
    return Bounds(PICTURE_S + MORE_S_A_BYTE * max(size_bytes - PICTURE_BYTES, 0), memory_bytes)


_server = multiprocessing.get_context("forkserver")
_server.set_forkserver_preload(["widedusk.apart.loaded"])


class Broken(Exception):
    """The work failed in a way that no file should make it fail: our fault."""


def load_beforehand(modules: Sequence[str]) -> None:
    """Modules that children find loaded; to be said before the first of them."""
    _server.set_forkserver_preload(list(modules))


def read_apart(reader: Callable[..., T], *given: Any, field: str = "file") -> T:
    """What a reader makes of a file, read in a child. Raises InvalidInput whatever goes wrong: a file is never our fault."""
    try:
        return apart(reader, *given, bounds=READING, field=field)
    except Broken as broken:
        log.warning("%s failed on a file: %s", reader.__name__, broken)
        raise InvalidInput(
            [Fault(field, None, "It cannot be read: its contents are not as they should be. Save it anew, then try again.")]
        ) from broken


def apart(work: Callable[..., T], *given: Any, bounds: Bounds, field: str = "file", tell: Tell | None = None) -> T:
    """Do the work in a child and return what it returns.

    work: a function of a module; what it is given and returns must be picklable. Paths among `given` are the only files it may
    open. With `tell`, the work is given a function to call with its progress as its last argument; every exception that
    `tell` raises ends the child and is passed on, and tell(-1.0, "") is called four times a second to ask just that.
    Raises InvalidInput with what the work found wrong, or with what it took too much of; Broken when it failed otherwise.
    """
    mine, its = _server.Pipe(duplex=False)
    files = tuple(str(one) for one in given if isinstance(one, Path))
    child = _server.Process(target=_inside, args=(its, work, given, bounds, files, tell is not None), daemon=True)
    try:
        child.start()
    except (EOFError, OSError):  # the server of children was ended from outside; the next start brings up another
        child = _server.Process(target=_inside, args=(its, work, given, bounds, files, tell is not None), daemon=True)
        child.start()
    its.close()
    try:
        return cast(T, _answered(mine, bounds, field, tell, child.pid))
    except EOFError:
        child.join(2.0)
        if child.exitcode == -signal.SIGXCPU:
            told = f"Reading it takes more than {bounds.cpu_s:.0f} s of computing. Give a smaller or simpler one."
            raise InvalidInput([Fault(field, None, told)]) from None
        log.warning("%s ended with %s and no answer", work.__name__, child.exitcode)
        told = "It brings its reader down: it is damaged, or built to do harm. Save it anew, or give another form."
        raise InvalidInput([Fault(field, None, told)]) from None
    finally:
        mine.close()
        child.kill()
        child.join()
        child.close()


def _answered(pipe: Connection, bounds: Bounds, field: str, tell: Tell | None, pid: int | None) -> Any:
    """Wait for the child's last word, passing on what it tells before."""
    until = time.monotonic() + bounds.wall_s
    while time.monotonic() < until:
        if tell is not None:
            tell(-1.0, "")
        if not pipe.poll(GLANCE_S):
            continue
        kind, said = pipe.recv()
        if kind == "done":
            return said
        if kind == "refused":
            raise InvalidInput(said)
        if kind == "memory":
            megabytes = bounds.memory_bytes / 1e6
            told = f"Reading it takes more than {megabytes:.0f} MB of memory: it is larger than it looks. Give a smaller one."
            raise InvalidInput([Fault(field, None, told)])
        if kind == "failed":
            raise Broken(said)
        if tell is not None:
            tell(*said)
    if _waited_for_processor_s(pid) > BUSY_SHARE * bounds.wall_s:
        told = f"The server is busy: it could not read this within {bounds.wall_s:.0f} s. Try again in a minute."
    else:
        told = f"It could not be read within {bounds.wall_s:.0f} s. Try again; if that ends the same way, save it anew."
    raise InvalidInput([Fault(field, None, told)])


def _waited_for_processor_s(pid: int | None) -> float:
    """How long a process was ready to work and had to wait for a processor; nothing where the system does not tell."""
    with contextlib.suppress(OSError, ValueError, IndexError):
        return int(Path(f"/proc/{pid}/schedstat").read_text().split()[1]) / 1e9
    return 0.0


def _inside(
    pipe: Connection, work: Callable[..., object], given: tuple[Any, ...], bounds: Bounds, files: tuple[str, ...], tells: bool
) -> None:
    """What the child does: takes its bounds upon itself, works, answers once, ends."""
    answer: tuple[str, object]
    try:
        _limit(bounds)
        _stay_inside(files)
        more = (lambda share, doing: pipe.send(("told", (share, doing))),) if tells else ()
        answer = ("done", work(*given, *more))
    except InvalidInput as refused:
        answer = ("refused", refused.faults)
    except MemoryError:
        answer = ("memory", None)
    except RecursionError:
        answer = ("refused", [Fault("file", None, "It is nested too deeply. Save it anew in a simpler form.")])
    except BaseException as caught:
        answer = ("failed", f"{type(caught).__name__}: {str(caught)[:500]}")
    with contextlib.suppress(BrokenPipeError):
        pipe.send(answer)


def _limit(bounds: Bounds) -> None:
    """Memory from here on, seconds of the processor, no core file, no file written, few opened."""
    now_bytes = int(Path("/proc/self/statm").read_text().split()[0]) * os.sysconf("SC_PAGE_SIZE")
    cpu_s = math.ceil(bounds.cpu_s)
    for what, limit, end in (
        (resource.RLIMIT_AS, now_bytes + bounds.memory_bytes, 0),
        (resource.RLIMIT_CPU, cpu_s, 2),  # at the limit it is told to end, two seconds later it is ended
        (resource.RLIMIT_CORE, 0, 0),
        (resource.RLIMIT_FSIZE, 0, 0),
        (resource.RLIMIT_NOFILE, MOST_OPEN_FILES, 0),
    ):
        resource.setrlimit(what, (limit, limit + end))


_LIBRARIES = tuple(os.path.realpath(one) + os.sep for one in (sys.prefix, sys.base_prefix, Path(widedusk.__file__).parent))
_SYSTEM = ("/proc/self/", "/proc/meminfo", "/proc/cpuinfo", "/sys/", "/dev/null", "/dev/urandom", "/etc/localtime", "/usr/")
_NEVER = (
    *("socket.", "subprocess.", "urllib.", "ftplib.", "http.", "shutil.", "webbrowser.", "pty."),
    *("os.exec", "os.fork", "os.posix_spawn", "os.spawn", "os.system", "os.remove", "os.rename", "os.rmdir", "os.mkdir"),
    *("os.chmod", "os.chown", "os.link", "os.symlink", "os.truncate", "os.kill"),
)
_WRITING = os.O_WRONLY | os.O_RDWR | os.O_CREAT | os.O_APPEND | os.O_TRUNC


def _stay_inside(files: tuple[str, ...]) -> None:
    """From here on Python itself refuses sockets, other programs, and every file but those given and the libraries' own.

    This is Python's audit hook, a second fence behind the readers' own: it stops a library that follows an address in a file,
    and cannot be taken off again. C code that opens files by itself is not seen by it; none of ours is given an address.
    """
    allowed = {os.path.realpath(one) for one in files}

    def watch(event: str, args: tuple[Any, ...]) -> None:
        if event.startswith(_NEVER):
            raise PermissionError(f"{event} is not for a reader of files")
        if event != "open" or isinstance(args[0], int):
            return
        real, flags = os.path.realpath(os.fsdecode(args[0])), args[2]
        if isinstance(flags, int) and flags & _WRITING:
            raise PermissionError("a reader writes nothing")
        if real not in allowed and not real.startswith((*_LIBRARIES, *_SYSTEM)):
            raise PermissionError("a reader opens no other file")

    sys.addaudithook(watch)
