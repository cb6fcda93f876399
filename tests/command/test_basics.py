"""What the one command must never do quietly: leak a secret, take a used port, swallow an error, overwrite a file."""

import errno
import os
import socket
import stat
import subprocess
import sys
import time

import pytest

from widedusk.command import background, basics, install, server
from widedusk.command.basics import ROOT, Failure


@pytest.fixture
def var(tmp_path, monkeypatch):
    """The command's own folder, elsewhere."""
    monkeypatch.setattr(basics, "VAR", tmp_path)
    monkeypatch.setattr(basics, "STATE", tmp_path / "state.json")
    monkeypatch.setattr(basics, "SECRETS", tmp_path / "secrets.json")
    monkeypatch.setattr(basics, "ROOT", tmp_path)
    return tmp_path


def test_secrets_are_made_once_and_only_their_owner_reads_them(var):
    first = basics.secret("database")
    assert basics.secret("database") == first != basics.secret("django")
    assert len(first) >= 50  # as `check --deploy` asks of a key (W009)
    assert len(first) >= 30
    assert stat.S_IMODE((var / "secrets.json").stat().st_mode) == 0o600


def test_what_is_remembered_is_added_to_not_replaced(var):
    basics.remember(database_port=5)
    basics.remember(web_port=6)
    assert basics.remembered() == {"database_port": 5, "web_port": 6}


def test_what_is_damaged_is_put_aside_and_the_rest_goes_on(var, capsys):
    (var / "state.json").write_text("{half")
    assert basics.remembered() == {}
    (aside,) = var.glob("state.json.damaged-*")
    assert aside.read_text() == "{half" and "was damaged and is kept as" in capsys.readouterr().out
    basics.remember(web_port=6)
    assert basics.remembered() == {"web_port": 6}


def test_a_file_is_written_whole_or_not_at_all(var, monkeypatch):
    basics.remember(web_port=6)

    def no_room(number: int) -> None:
        raise OSError(errno.ENOSPC, "No space left on device", "state.json")

    monkeypatch.setattr(basics.os, "fsync", no_room)
    with pytest.raises(OSError) as refused:
        basics.remember(web_port=7)
    assert basics.remembered() == {"web_port": 6} and [one.name for one in var.iterdir() if "state.json" in one.name] == [
        "state.json"
    ]
    assert "no room left on the disk" in basics.in_words(refused.value)


def test_a_lock_falls_with_its_holder(var):
    code = "from widedusk.command.basics import held; lock = held('x'); lock.__enter__(); print('mine', flush=True); input()"
    env = {**os.environ, "WIDE_DUSK_VAR": str(var)}
    holder = subprocess.Popen(
        [sys.executable, "-c", code], cwd=ROOT, env=env, stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True
    )
    assert holder.stdout is not None and holder.stdout.readline() == "mine\n"
    with basics.held("x", wait=False) as mine:
        assert not mine
    holder.kill()
    holder.wait()
    with basics.held("x", wait=False) as mine:
        assert mine


def test_a_used_port_is_never_taken():
    with socket.socket() as busy:
        busy.bind(("127.0.0.1", 0))
        busy.listen()
        port = busy.getsockname()[1]
        assert not basics.is_free(port)
        assert basics.free_port(port) != port
    assert basics.free_port(port) == port


def test_a_failing_program_is_told_with_its_output_and_the_way_to_mend_it():
    with pytest.raises(Failure) as told:
        basics.run(["bash", "-c", "echo the disk is full; exit 3"], why="Writing", mend="Make room.")
    assert "Writing failed (bash ended with 3)" in str(told.value)
    assert "the disk is full" in str(told.value) and "Make room." in str(told.value)
    with pytest.raises(Failure, match="there is no program no-such-program"):
        basics.run(["no-such-program"], why="Trying")


def test_a_fingerprint_follows_content_and_name(var):
    one, two = var / "a.py", var / "b.py"
    one.write_text("x")
    before = basics.fingerprint([one])
    assert basics.fingerprint([one, var / "missing.py"]) == before
    one.rename(two)
    assert basics.fingerprint([two]) != before
    two.write_text("y")
    two.rename(one)
    assert basics.fingerprint([one]) != before


def test_an_ordinary_user_without_sudo_is_told_whom_to_ask(monkeypatch):
    monkeypatch.setattr(install.os, "geteuid", lambda: 1000)
    monkeypatch.setattr(install.shutil, "which", lambda name: "/usr/bin/apt-get" if name == "apt-get" else None)
    with pytest.raises(Failure, match="Ask an administrator for: apt-get install chromium"):
        install._debian(["chromium"])
    monkeypatch.setattr(install.shutil, "which", lambda name: None)
    with pytest.raises(Failure, match="no apt-get"):
        install._debian(["chromium"])


def test_a_port_that_was_asked_for_and_is_taken_is_refused(var, monkeypatch):
    with socket.socket() as busy:
        busy.bind(("127.0.0.1", 0))
        busy.listen()
        taken = busy.getsockname()[1]
        monkeypatch.setenv("WIDE_DUSK_PORT", str(taken))
        with pytest.raises(Failure, match="is taken"):
            server.port_for(None)
        assert server.port_for(None, ours=taken) == taken
    for wrong in ("eighty", "0", "70000", "-1"):
        monkeypatch.setenv("WIDE_DUSK_PORT", wrong)
        with pytest.raises(Failure, match="is no port number"):
            server.port_for(None)


def test_a_server_that_dies_shows_the_end_of_its_log(monkeypatch, tmp_path):
    log = basics.LOG / "test-dead-server.log"
    log.unlink(missing_ok=True)
    with pytest.raises(Failure) as told:
        server.launch({"WIDE_DUSK_SECRET_KEY": ""}, basics.free_port(None), log)
    assert "The server did not come up" in str(told.value)
    assert "WIDE_DUSK_SECRET_KEY is not set" in str(told.value)
    log.unlink()


def test_only_what_carries_our_mark_is_ended(var):
    stranger = subprocess.Popen(
        [sys.executable, "-c", "import time; time.sleep(60)"], env={**os.environ, background.MARK: "web@elsewhere"}
    )
    code = "import subprocess, sys, time; subprocess.Popen([sys.executable, '-c', 'import time; time.sleep(60)']); time.sleep(60)"
    ours = subprocess.Popen([sys.executable, "-c", code], env={**os.environ, background.MARK: background.mark_of("web")})
    try:
        while len(background.marked("web")) < 2:  # what it started carries the mark as well
            time.sleep(0.05)
        assert background.first_of("web") == ours.pid
        ours.kill()
        assert background.sweep("web", patience_s=5) and not background.marked("web") and not background.sweep()
        assert stranger.poll() is None
    finally:
        stranger.kill()
        stranger.wait()


def test_patterns_that_cannot_be_made_say_so(var, monkeypatch):
    monkeypatch.setenv("WIDE_DUSK_CACHE", str(var / "cache"))
    monkeypatch.setattr(install, "ROOT", ROOT)
    monkeypatch.setattr(install, "fingerprint", lambda paths: "another")
    monkeypatch.setattr(install, "PATTERN_CODE", "import sys; sys.exit('no room')")
    with pytest.raises(Failure, match=r"no room[\s\S]*make room"):
        install.star_patterns()()


def test_a_worker_for_a_server_elsewhere_says_what_it_lacks():
    given = {"PATH": os.environ["PATH"], "WIDE_DUSK_DB_HOST": "192.0.2.7", "WIDE_DUSK_DB_PORT": "5432"}
    whole = {"WIDE_DUSK_DB_PASSWORD": "x", "WIDE_DUSK_SECRET_KEY": "x"}
    nowhere = str(ROOT / "no such folder")
    for more, told in (
        ({}, "set WIDE_DUSK_DB_PASSWORD, WIDE_DUSK_SECRET_KEY too"),
        (whole, "There is nothing to measure: set WIDE_DUSK_PICTURE_FOLDER"),
        ({**whole, "WIDE_DUSK_PICTURE_FOLDER": nowhere}, f"There is no folder {nowhere}"),
        ({**whole, "WIDE_DUSK_PICTURE_FOLDER": str(ROOT), "WIDE_DUSK_MACHINE": "my laptop, old"}, "name this machine by up to 40"),
    ):
        words = [sys.executable, "-m", "widedusk.command", "worker"]
        done = subprocess.run(words, cwd=ROOT, env={**given, **more}, capture_output=True, text=True, check=False)
        assert done.returncode == 1 and told in done.stdout + done.stderr
