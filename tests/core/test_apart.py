"""Work in a child process: bounded in memory and time, cut off from files and network, ended when it is wanted no more."""

import os
import socket
import subprocess
import sys
import time
import urllib.request
from pathlib import Path

import numpy as np
import pytest

from widedusk.apart.process import Bounds, Broken, apart, read_apart
from widedusk.core.errors import Fault, InvalidInput

SHORT = Bounds(cpu_s=20.0, memory_bytes=200_000_000)


def sums(numbers: np.ndarray) -> float:
    return float(numbers.sum())


def swallows(megabytes: int) -> int:
    return sum(len(bytearray(1_000_000)) for _ in [np.ones(megabytes * 125_000)])


def sleeps(seconds: float) -> None:
    time.sleep(seconds)


def computes() -> None:
    while True:
        pass


def computes_when_nobody_else_does(processor: int) -> None:
    os.sched_setaffinity(0, {processor})
    os.nice(19)
    computes()


def dies() -> None:
    os.abort()


def fails() -> None:
    raise KeyError("not as it should be")


def refuses() -> None:
    raise InvalidInput([Fault("row 3", 7, "This cannot be right.")])


def reads(path: Path, other: str = "") -> str:
    return Path(other or path).read_text()


def calls(port: int) -> None:
    urllib.request.urlopen(f"http://127.0.0.1:{port}/")


def writes(path: str) -> None:
    Path(path).write_text("here")


def starts_another() -> None:
    os.system("true")  # noqa: S605


def tells(tell) -> str:
    for step in range(4):
        tell(step / 4, f"step {step}")
    return "told"


def test_it_returns_what_the_work_returns_and_passes_on_what_it_tells():
    assert apart(sums, np.arange(1000.0), bounds=SHORT) == 499_500
    heard: list[str] = []
    assert apart(tells, bounds=SHORT, tell=lambda share, doing: heard.append(doing)) == "told"
    assert [one for one in heard if one] == ["step 0", "step 1", "step 2", "step 3"]


def test_a_busy_machine_is_not_put_down_to_the_file():
    """Beside a process that leaves it next to nothing of the processor, a reader is waited for, and then that is said."""
    processor = min(os.sched_getaffinity(0))
    code = f"import os; os.sched_setaffinity(0, {{{processor}}})\nwhile True: pass"
    busy = [subprocess.Popen([sys.executable, "-c", code]) for _ in range(3)]
    try:
        with pytest.raises(InvalidInput, match="The server is busy: it could not read this within 3 s"):
            apart(computes_when_nobody_else_does, processor, bounds=Bounds(0.3, 200_000_000))
    finally:
        for process in busy:
            process.kill()
            process.wait()


def test_what_takes_too_much_ends_in_a_sentence():
    assert apart(swallows, 50, bounds=SHORT)
    with pytest.raises(InvalidInput, match="more than 200 MB of memory"):
        apart(swallows, 800, bounds=SHORT)
    with pytest.raises(InvalidInput, match="more than 1 s of computing"):
        apart(computes, bounds=Bounds(1.0, 200_000_000))
    with pytest.raises(InvalidInput, match="could not be read within 2 s"):
        apart(sleeps, 60.0, bounds=Bounds(0.2, 200_000_000))
    with pytest.raises(InvalidInput, match="brings its reader down"):
        apart(dies, bounds=SHORT)


def test_what_is_wrong_with_a_file_is_told_and_what_is_our_fault_too():
    with pytest.raises(InvalidInput) as told:
        apart(refuses, bounds=SHORT)
    assert told.value.faults == [Fault("row 3", 7, "This cannot be right.")]
    with pytest.raises(Broken, match="KeyError"):
        apart(fails, bounds=SHORT)
    with pytest.raises(InvalidInput, match="cannot be read"):
        read_apart(fails)


def test_it_reaches_nothing_but_what_it_was_given(tmp_path):
    given, other = tmp_path / "given.txt", tmp_path / "other.txt"
    given.write_text("mine")
    other.write_text("not yours")
    assert apart(reads, given, bounds=SHORT) == "mine"
    for work, what in (
        (reads, (given, str(other))),
        (reads, (given, "/etc/passwd")),
        (writes, (str(tmp_path / "new.txt"),)),
        (starts_another, ()),
    ):
        with pytest.raises(Broken, match="PermissionError"):
            apart(work, *what, bounds=SHORT)
    assert not (tmp_path / "new.txt").exists()
    with socket.create_server(("127.0.0.1", 0)) as server:
        server.settimeout(0.3)
        with pytest.raises(Broken, match="not for a reader"):
            apart(calls, server.getsockname()[1], bounds=SHORT)
        with pytest.raises(TimeoutError):
            server.accept()


class NoMore(Exception):
    pass


def test_it_is_ended_when_it_is_wanted_no_more():
    began = time.monotonic()

    def tell(share: float, doing: str) -> None:
        if time.monotonic() - began > 0.5:
            raise NoMore

    before = {one.name for one in Path("/proc").iterdir() if one.name.isdecimal()}
    with pytest.raises(NoMore):
        apart(waits, bounds=Bounds(60.0, 200_000_000), tell=tell)
    assert time.monotonic() - began < 30
    left = [one for one in Path("/proc").iterdir() if one.name.isdecimal() and one.name not in before and _waits(one)]
    assert not left


def waits(tell) -> None:
    time.sleep(60)


def _waits(process: Path) -> bool:
    """A child of our own server of children; those of other tests that run beside this one are theirs."""

    def parent(of: Path) -> str:
        return (of / "stat").read_text().rsplit(")", 1)[1].split()[1]

    try:
        return b"forkserver" in (process / "cmdline").read_bytes() and parent(Path("/proc") / parent(process)) == str(os.getpid())
    except OSError:
        return False
