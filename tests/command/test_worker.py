"""The keeper of the worker: one is there after one died, and none when the keeper is told to stop."""

import os
import signal
import subprocess
import sys
import time

import pytest

from widedusk.command import basics, install, worker


@pytest.fixture
def elsewhere(tmp_path, monkeypatch):
    """A keeper whose worker is a stand-in that writes its number down and sleeps."""
    monkeypatch.setattr(basics, "VAR", tmp_path)
    monkeypatch.setattr(basics, "STATE", tmp_path / "state.json")
    code = f"""
import subprocess, sys
from pathlib import Path
from widedusk.command import worker
seen = Path({str(tmp_path / "seen")!r})
def launch(env, log):
    process = subprocess.Popen([sys.executable, "-c", "import time; time.sleep(60)"])
    with seen.open("a") as out: out.write(f"{{process.pid}}\\n")
    return process
worker.launch = launch
worker.BREATH_S = 0.05
worker.keep()
"""
    return tmp_path / "seen", code


def pids(path, count: int) -> list[int]:
    for _ in range(200):
        found = [int(line) for line in path.read_text().split()] if path.exists() else []
        if len(found) >= count:
            return found
        time.sleep(0.05)
    raise AssertionError(f"{found} instead of {count} workers")


def test_a_worker_that_dies_is_followed_by_another_until_the_keeper_stops(elsewhere):
    seen, code = elsewhere
    keeper = subprocess.Popen([sys.executable, "-c", code], cwd=basics.ROOT)
    try:
        first = pids(seen, 1)[0]
        os.kill(first, signal.SIGKILL)
        second = pids(seen, 2)[1]
        assert second != first
        keeper.terminate()
        assert keeper.wait(10) == 0
        with pytest.raises(ProcessLookupError):
            for _ in range(100):
                os.kill(second, 0)
                time.sleep(0.05)
    finally:
        keeper.kill()


def test_nothing_is_stopped_that_is_not_ours(elsewhere):
    stranger = subprocess.Popen([sys.executable, "-c", "import time; time.sleep(60)"])
    try:
        basics.remember(worker_pid=stranger.pid)
        assert worker.stop() is False and stranger.poll() is None
    finally:
        stranger.kill()


def test_patterns_that_cannot_be_made_say_so(tmp_path, monkeypatch):
    monkeypatch.setattr(basics, "VAR", tmp_path)
    monkeypatch.setattr(basics, "STATE", tmp_path / "state.json")
    (tmp_path / "in the way").write_text("")
    monkeypatch.setattr(install, "PATTERNS", tmp_path / "in the way" / "patterns.bin")
    monkeypatch.setattr(install, "PATTERN_CODE", "import sys; sys.exit('no room')")
    with pytest.raises(basics.Failure, match=r"no room[\s\S]*make room"):
        install.star_patterns()()
