"""What the one command must never do quietly: leak a secret, take a used port, swallow an error, overwrite a file."""

import json
import socket
import stat

import pytest

from widedusk.command import basics, install, server
from widedusk.command.basics import Failure


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
    assert len(first) >= 30
    assert stat.S_IMODE((var / "secrets.json").stat().st_mode) == 0o600


def test_what_is_remembered_is_added_to_not_replaced(var):
    basics.remember(database_port=5)
    basics.remember(web_port=6)
    assert basics.remembered() == {"database_port": 5, "web_port": 6}


def test_a_damaged_state_says_what_to_do(var):
    (var / "state.json").write_text("{half")
    with pytest.raises(Failure, match="remove it and run again"):
        basics.remembered()


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
    monkeypatch.setattr(server, "fingerprint", lambda paths: "new")
    with socket.socket() as busy:
        busy.bind(("127.0.0.1", 0))
        busy.listen()
        monkeypatch.setenv("WIDE_DUSK_PORT", str(busy.getsockname()[1]))
        with pytest.raises(Failure, match="is taken or no port number"):
            server.serve({}, "demo")
    monkeypatch.setenv("WIDE_DUSK_PORT", "eighty")
    with pytest.raises(Failure, match="Port eighty"):
        server.serve({}, "demo")


def test_a_server_that_dies_shows_the_end_of_its_log(monkeypatch, tmp_path):
    log = basics.LOG / "test-dead-server.log"
    log.unlink(missing_ok=True)
    with pytest.raises(Failure) as told:
        server.launch({"WIDE_DUSK_SECRET_KEY": ""}, basics.free_port(None), log)
    assert "The server did not come up" in str(told.value)
    assert "WIDE_DUSK_SECRET_KEY is not set" in str(told.value)
    log.unlink()


def test_another_process_with_our_old_number_is_left_alone(var):
    basics.remember(web_pid=1)
    assert server.stop() is False
    assert json.loads((var / "state.json").read_text())["web_pid"] == 1
