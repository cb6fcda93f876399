"""A started site comes back by itself, part by part, and leaves nothing behind when it is stopped.

The site is a real one beside the tests' own: a cluster, a web server and workers in a folder that goes with the test.
"""

import hashlib
import json
import os
import resource
import signal
import subprocess
import sys
import time
import urllib.request
from collections.abc import Callable, Iterator
from pathlib import Path

import pytest

from tests import cluster
from widedusk.command import scratch
from widedusk.command.basics import ROOT
from widedusk.command.install import PATTERNS

BACK_WITHIN_S = 30.0  # ten seconds are promised and measured in benchmarks/fault_run.py; a busy machine is slow, not wrong


class Site:
    """What ./wide-dusk does, with its folder elsewhere, where a cluster with nobody's records lies already."""

    def __init__(self, var: Path) -> None:
        self.var = var
        for folder in (var, *list(var.parents)[:2]):
            folder.chmod(0o711)  # the database's user must get there
        cluster.copy_to(var)
        self.env = {**os.environ, "WIDE_DUSK_VAR": str(var), "WIDE_DUSK_PATTERNS": str(PATTERNS)}
        of_this_run = ("WIDE_DUSK_DB_PORT", "WIDE_DUSK_DB_PASSWORD", "WIDE_DUSK_DB_NAME", "WIDE_DUSK_SECRET_KEY")
        for name in (*of_this_run, *(name for name in self.env if name.startswith("PYTEST_"))):
            self.env.pop(name, None)

    def command(self, *words: str, given: str = "", **env: str) -> subprocess.CompletedProcess[str]:
        return subprocess.run(
            [sys.executable, "-m", "widedusk.command", *words],
            cwd=ROOT,
            env={**self.env, **env},
            input=given,
            capture_output=True,
            text=True,
            check=False,
            timeout=300,
        )

    def python(self, code: str) -> str:
        """Ask this site's own command code something."""
        done = subprocess.run([sys.executable, "-c", code], cwd=ROOT, env=self.env, capture_output=True, text=True, check=True)
        return done.stdout

    def marked(self, *parts: str) -> dict[int, int]:
        code = f"import json; from widedusk.command.background import marked; print(json.dumps(marked(*{parts!r})))"
        return {int(pid): parent for pid, parent in json.loads(self.python(code)).items()}

    def first_of(self, part: str) -> int | None:
        """The process the keeper started for a part; none in the moment between two of them."""
        found = self.marked(part)
        return next((pid for pid in found if found[pid] not in found), None)

    def cluster(self) -> Path:
        return scratch.cluster_folder(self.var)

    def database(self) -> int:
        code = "from widedusk.command import postgres; print(postgres.number())"
        return int(self.python(code))

    def answers(self) -> bool:
        port = json.loads((self.var / "keeper.json").read_text())["web_port"]
        try:
            with urllib.request.urlopen(f"http://127.0.0.1:{port}/health", timeout=3) as answer:
                return answer.status == 200
        except OSError:
            return False


@pytest.fixture(scope="module")
def site(tmp_path_factory) -> Iterator[Site]:
    one = Site(tmp_path_factory.mktemp("site"))
    done = one.command("start")
    assert done.returncode == 0, done.stdout + done.stderr
    yield one
    done = one.command("stop")
    assert done.returncode == 0 and not one.marked(), done.stdout


def until(holds: Callable[[], bool], what: str) -> None:
    end = time.monotonic() + BACK_WITHIN_S
    while not holds():
        assert time.monotonic() < end, what
        time.sleep(0.1)


@pytest.mark.parametrize("part", ["web", "pictures", "plans", "errands", "keeper", "watch"])
def test_a_part_that_is_killed_is_there_again(site, part):
    before = site.first_of(part)
    assert before is not None
    os.kill(before, signal.SIGKILL)
    until(lambda: site.first_of(part) not in (None, before) and site.answers(), part)


def test_the_database_and_a_web_worker_come_back_with_what_was_written(site):
    added = site.command(
        "manage",
        "shell",
        "-c",
        "from django.contrib.auth.models import User; User.objects.create_user('kept', password='under-the-lamp')",
    )
    assert added.returncode == 0, added.stdout + added.stderr
    web = site.marked("web")
    os.kill(max(web), signal.SIGKILL)
    os.kill(site.database(), signal.SIGKILL)
    until(lambda: site.answers() and len(site.marked("web")) >= 3, "database")
    told = site.command("password", "kept", given="another-lantern\n")
    assert "signed out everywhere" in told.stdout, told.stdout + told.stderr
    assert "no account" in site.command("password", "nobody", given="x\n").stderr
    assert "too short" in site.command("password", "kept", given="x\n").stderr


def test_a_part_that_cannot_run_is_left_alone_after_five_tries_and_the_reason_told(site, tmp_path):
    code = """
import time
from widedusk.command import keeper
part = keeper.Part("spoilt", ("no_such_module_at_all",), {})
while not part.given_up:
    part.look()
    time.sleep(0.02)
print(part.failures, part.why)
"""
    told = site.python(code)
    assert told.startswith("5 ") and "No module named no_such_module_at_all" in told


def test_settings_given_anew_are_taken_and_the_same_again_changes_nothing(site, tmp_path):
    before = site.first_of("web")
    assert site.command("start").returncode == 0
    assert site.first_of("web") == before
    done = site.command("start", WIDE_DUSK_NOW="2027-01-02T20:00:00+00:00")
    assert done.returncode == 0, done.stdout
    assert site.first_of("web") != before
    port = json.loads((site.var / "keeper.json").read_text())["web_port"]
    with urllib.request.urlopen(f"http://127.0.0.1:{port}/api/session") as answer:
        assert json.load(answer)["now"].startswith("2027-01-02T20:00")


@pytest.mark.parametrize(
    ("env", "words"),
    [
        ({"WIDE_DUSK_NOW": "tonight"}, "is no moment"),
        ({"WIDE_DUSK_NOW": "@/no/such/clock"}, "names a file that cannot be read"),
        ({"WIDE_DUSK_SEARCH_S": "soon"}, "give seconds from 0.5 to 60"),
        ({"WIDE_DUSK_PORT": "70000"}, "is no port number"),
        ({"WIDE_DUSK_PICTURE_FOLDER": "/no/such/folder"}, "There is no folder"),
    ],
)
def test_a_setting_that_cannot_be_is_told_in_a_sentence_and_the_site_goes_on(site, env, words):
    done = site.command("start", **env)
    assert done.returncode == 1 and words in done.stdout and "Traceback" not in done.stdout + done.stderr
    assert site.answers()


def test_a_refused_or_broken_restore_and_a_full_disk_leave_site_and_backup_as_they_were(site, tmp_path):
    kept = tmp_path / "night.dump"
    made = site.command("backup", str(kept))
    assert made.returncode == 0, made.stdout
    before, whole, web = kept.read_bytes(), kept.stat().st_size, site.first_of("web")
    # A limit of what one file may grow to stands for a disk that is full.
    words = [sys.executable, "-m", "widedusk.command", "backup", str(kept), "--overwrite"]
    full = subprocess.run(
        words,
        cwd=ROOT,
        env=site.env,
        capture_output=True,
        text=True,
        check=False,
        preexec_fn=lambda: resource.setrlimit(resource.RLIMIT_FSIZE, (whole // 2, whole // 2)),
    )
    assert full.returncode == 1 and "Writing the backup" in full.stdout and "Traceback" not in full.stdout + full.stderr
    assert kept.read_bytes() == before and sorted(one.name for one in tmp_path.iterdir()) == ["night.dump", "night.dump.sha256"]
    unasked = site.command("restore", str(kept))
    assert unasked.returncode == 1 and "already holds accounts" in unasked.stdout
    (tmp_path / "night.dump.sha256").unlink()
    kept.write_bytes(before[: whole * 3 // 4])  # its list is whole, what it lists is not
    torn = site.command("restore", str(kept), "--overwrite")
    assert torn.returncode == 1 and "Nothing was changed" in torn.stdout
    until(site.answers, "after a restore that failed")
    assert "signed out everywhere" in site.command("password", "kept", given="a-third-lantern\n").stdout
    kept.write_bytes(before)
    done = site.command("restore", str(kept), "--overwrite")
    assert done.returncode == 0 and "The site runs again" in done.stdout, done.stdout + done.stderr
    until(site.answers, "after a restore")
    assert site.first_of("web") != web


def test_two_starts_at_once_make_one_site_and_start_a_killed_database_once(site):
    os.kill(site.database(), signal.SIGKILL)  # the keeper starts it, too
    both = [
        subprocess.Popen(
            [sys.executable, "-m", "widedusk.command", "start"], cwd=ROOT, env=site.env, stdout=subprocess.PIPE, text=True
        )
        for _ in range(2)
    ]
    said = [one.communicate(timeout=240)[0] for one in both]
    assert [one.returncode for one in both] == [0, 0], said
    roots = [pid for pid, parent in site.marked("web").items() if parent not in site.marked("web")]
    assert len(roots) == 1 and site.answers()
    told = json.loads((site.var / "keeper-status.json").read_text())["database"]
    assert (told["state"], told["failures"]) == ("kept", 0), told


# Tests begun in the background hand on that an interrupt is to be ignored; a start at a terminal hears it.
STARTED_IN_FRONT = """
import signal, sys
from widedusk.command.__main__ import main
signal.signal(signal.SIGINT, signal.default_int_handler)
sys.argv = ["wide-dusk", "start"]
sys.exit(main())
"""


def test_a_start_that_is_interrupted_leaves_nothing_running(site, pytestconfig):
    """At once when it is to be kept, and by night a moment later; one that was up before the signal came was not interrupted."""
    interrupted = 0
    for later_s in (0.0, 1.0) if pytestconfig.getoption("everything") else (0.0,):
        site.command("stop")
        process = subprocess.Popen([sys.executable, "-c", STARTED_IN_FRONT], cwd=ROOT, env=site.env, stdout=subprocess.DEVNULL)
        end = time.monotonic() + 120
        while not (site.var / "keeper.json").exists():
            assert time.monotonic() < end, "nothing is to be kept"
            time.sleep(0.02)
        time.sleep(later_s)
        process.send_signal(signal.SIGINT)
        if process.wait(60) != 0:
            interrupted += 1
            until(lambda: not site.marked(), "still running")
    assert interrupted
    site.command("stop")
    assert site.command("status").returncode == 1
    assert site.command("start").returncode == 0 and site.answers()


def cluster_digest(site: Site) -> str:
    """Of everything in the files of its cluster, and of when each was written."""
    files = sorted(path for path in site.cluster().rglob("*") if path.is_file())
    told = [f"{path} {path.stat().st_mtime_ns} {hashlib.sha256(path.read_bytes()).hexdigest()}" for path in files]
    assert len(told) > 500
    return hashlib.sha256("\n".join(told).encode()).hexdigest()


def test_a_run_of_the_checks_leaves_the_sites_own_cluster_as_it_was(site):
    site.command("stop")
    before = cluster_digest(site)
    done = site.command("test", "tests/web/test_shape.py::test_every_endpoint_says_what_it_returns")
    assert done.returncode == 0 and "1 passed" in done.stdout, done.stdout + done.stderr
    assert cluster_digest(site) == before
    assert not (site.cluster() / "postmaster.pid").exists()


def test_a_lost_password_and_a_torn_state_are_mended_and_nothing_is_lost(site):
    site.command("stop")
    (site.var / "secrets.json").write_text("{half")
    (site.var / "state.json").write_text("")
    done = site.command("start")
    assert done.returncode == 0 and "giving it the new one" in done.stdout, done.stdout
    count = site.command(
        "manage",
        "shell",
        "-v",
        "0",
        "-c",
        "from django.contrib.auth.models import User; print(User.objects.filter(username='kept').count())",
    )
    assert count.stdout.strip().endswith("1"), count.stdout + count.stderr
