"""Backup and restore against a database of their own."""

import subprocess
from pathlib import Path

import pytest

from tests.demo import own
from widedusk.command import postgres
from widedusk.command.basics import Failure

SCRATCH = own("widedusk_backup_test")


@pytest.fixture
def database(demo_copy, monkeypatch):
    """A scratch database with the demo in it."""
    demo_copy(SCRATCH)
    monkeypatch.setattr(postgres, "DATABASE", SCRATCH)
    yield SCRATCH
    postgres.query(f'DROP DATABASE "{SCRATCH}" WITH (FORCE)', "postgres")


def plans() -> str:
    return postgres.query("SELECT count(*) FROM nights_run", SCRATCH)


def test_there_and_back_and_nothing_overwritten_unasked(database, tmp_path):
    kept = tmp_path / "night.dump"
    postgres.backup(kept, overwrite=False)
    assert kept.stat().st_size > 10_000 and kept.stat().st_mode & 0o077 == 0
    with pytest.raises(Failure, match=r"exists\. Choose another name"):
        postgres.backup(kept, overwrite=False)
    postgres.backup(kept, overwrite=True)
    with pytest.raises(Failure, match="already holds accounts"):
        postgres.restore(kept, overwrite=False)
    postgres.query("DELETE FROM nights_run", SCRATCH)
    assert plans() == "0"
    postgres.restore(kept, overwrite=True)
    assert plans() == "1"
    # Its checksum stands beside it, for sha256sum and for us: a backup that has changed since is not brought in.
    assert (
        subprocess.run(["sha256sum", "--check", "night.dump.sha256"], cwd=tmp_path, check=False, capture_output=True).returncode
        == 0
    )
    kept.write_bytes(kept.read_bytes()[:-1] + b"!")
    with pytest.raises(Failure, match="checksum differs"):
        postgres.restore(kept, overwrite=True)
    assert plans() == "1"


def test_a_backup_that_fails_leaves_the_one_before_and_only_the_latest_are_kept(database, tmp_path, monkeypatch):
    kept = tmp_path / "night.dump"
    postgres.backup(kept, overwrite=False)
    before, real = kept.read_bytes(), postgres.run

    def full(command, **more):
        if str(command[0]).endswith("pg_dump"):
            Path(command[-1]).write_bytes(b"half of it")
            raise Failure("no space left on device")
        return real(command, **more)

    monkeypatch.setattr(postgres, "run", full)
    with pytest.raises(Failure, match="no space"):
        postgres.backup(kept, overwrite=True)
    assert kept.read_bytes() == before and sorted(one.name for one in tmp_path.iterdir()) == ["night.dump", "night.dump.sha256"]
    monkeypatch.setattr(postgres, "run", real)
    stamps = iter(f"20261126T01000{second}" for second in range(4))
    monkeypatch.setattr(postgres.time, "strftime", lambda form: next(stamps))
    for _ in range(4):
        postgres.backup_of_many(tmp_path, 2)
    assert sorted(one.name for one in tmp_path.glob("wide-dusk-*")) == [
        f"wide-dusk-20261126T01000{second}.dump{end}" for second in (2, 3) for end in ("", ".sha256")
    ]


def test_what_is_no_backup_is_refused_and_changes_nothing(database, tmp_path):
    with pytest.raises(Failure, match="There is no file"):
        postgres.restore(tmp_path / "none.dump", overwrite=True)
    letter = tmp_path / "letter.txt"
    letter.write_text("dear diary")
    with pytest.raises(Failure, match="no backup made by"):
        postgres.restore(letter, overwrite=True)
    with pytest.raises(Failure, match="no folder"):
        postgres.backup(tmp_path / "nowhere" / "x.dump", overwrite=False)
    assert plans() == "1"


def test_the_cluster_listens_on_loopback_only_and_wants_a_password(database):
    assert postgres.query("SHOW listen_addresses", SCRATCH) == "127.0.0.1"
    assert postgres.query("SHOW password_encryption", SCRATCH) == "scram-sha-256"
    rules = postgres.query("SELECT DISTINCT auth_method FROM pg_hba_file_rules", SCRATCH)
    assert rules == "scram-sha-256"
