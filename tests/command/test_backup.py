"""Backup and restore against a database of their own."""

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
    return postgres.query("SELECT count(*) FROM plans_plan", SCRATCH)


def test_there_and_back_and_nothing_overwritten_unasked(database, tmp_path):
    kept = tmp_path / "night.dump"
    postgres.backup(kept, overwrite=False)
    assert kept.stat().st_size > 10_000 and kept.stat().st_mode & 0o077 == 0
    with pytest.raises(Failure, match=r"exists\. Choose another name"):
        postgres.backup(kept, overwrite=False)
    postgres.backup(kept, overwrite=True)
    with pytest.raises(Failure, match="already holds accounts"):
        postgres.restore(kept, overwrite=False)
    postgres.query("DELETE FROM plans_plan", SCRATCH)
    assert plans() == "0"
    postgres.restore(kept, overwrite=True)
    assert plans() == "1"


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
