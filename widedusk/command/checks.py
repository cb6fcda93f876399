"""./wide-dusk test: every check the project has, in one go; and the generated schema they compare against."""

import difflib
import json
import os
import subprocess
import time
from collections.abc import Callable, Iterable, Mapping, Sequence
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

from widedusk.command import install
from widedusk.command.basics import FRONTEND, ROOT, VAR, VENV, Failure, fingerprint, run, say, timed
from widedusk.command.server import manage

Step = tuple[str, Callable[[], object]]
# Two processes, each with databases and a server of its own; a file of tests is run by one of them.
SHARED = ["-n", "2", "--dist", "loadfile", "--no-loadscope-reorder"]
SCHEMA = FRONTEND / "src" / "api" / "schema.d.ts"
CHOICES = SCHEMA.with_name("choices.json")


def write_schema(env: Mapping[str, str], target: Path = SCHEMA, choices: Path = CHOICES) -> None:
    """Turn the API's OpenAPI document into TypeScript types, and the choices it describes into what the form is made of."""
    document = VAR / "openapi.json"
    words = f"from widedusk.api import api; api.write_document({str(document)!r})"
    manage(env, "shell", "-v", "0", "-c", words, why="Writing the OpenAPI document")
    described = {one.pop("name"): one for one in json.loads(document.read_text())["x-choices"]}
    choices.write_text(json.dumps(described, ensure_ascii=False))
    programs, node = FRONTEND / "node_modules" / ".bin", install.node_env()
    layout: list[str | Path] = [programs / "prettier", "--config", FRONTEND / "package.json", "--write", choices]
    run(layout, env=node, cwd=FRONTEND, why="Laying out the choices")
    generate: list[str | Path] = [programs / "openapi-typescript", document, "-o", target]
    run(generate, env=node, cwd=FRONTEND, why="Generating the TypeScript schema")


def _schema_is_fresh(env: Mapping[str, str]) -> None:
    pairs = [(one, VAR / one.name) for one in (SCHEMA, CHOICES)]
    write_schema(env, *(fresh for _, fresh in pairs))
    for kept, fresh in pairs:
        old, new = (path.read_text().splitlines() if path.exists() else [] for path in (kept, fresh))
        if old != new:
            changes = "\n".join(list(difflib.unified_diff(old, new, "committed", "from the API", lineterm="", n=1))[:20])
            raise Failure(f"{kept.relative_to(ROOT)} is stale; run ./wide-dusk schema and commit it.\n{changes}")


def _run_step(one: Step) -> str | None:
    """Run a step and tell of it; its name if it failed."""
    name, step = one
    started = time.monotonic()
    try:
        step()
    except Failure as failure:
        say(f"  FAIL  {name}\n{failure}")
        return name
    say(f"  ok    {name} ({time.monotonic() - started:.0f} s)")
    return None


def _mypy_cache() -> Path:
    """What mypy remembers, for these models and packages only: its Django plugin stumbles over a cache of earlier ones."""
    models = [*(ROOT / "widedusk").rglob("models.py"), ROOT / "widedusk" / "settings" / "__init__.py", ROOT / "pyproject.toml"]
    return VAR / "mypy" / fingerprint([*models, ROOT / "requirements" / "run.txt", ROOT / "requirements" / "test.txt"])[:20]


def run_checks(
    env: Mapping[str, str], words: Sequence[str], options: Sequence[str] = (), waits: Iterable[Callable[[], None]] = ()
) -> int:
    """Run all checks and return the exit code. With words for pytest, only pytest runs, with those words.

    options: for pytest as well; they choose no tests. env: of a scratch folder; the database is started by the first test that
    needs it. waits: for what still runs beside, before the tests that need it.
    """

    def tool(*words: str) -> Callable[[], object]:
        return lambda: run([VENV / "bin" / words[0], *words[1:]], env=env, why=words[0])

    def node(*words: str) -> Callable[[], object]:
        return lambda: run(install.npm("run", "--silent", *words), env=install.node_env(), cwd=FRONTEND, why=" ".join(words))

    # The longest first; whoever of the two is done takes the next.
    steps: list[Step] = [
        ("vitest", node("test")),
        ("mypy, strict", tool("mypy", "--cache-dir", str(_mypy_cache()))),
        ("vue-tsc", node("types")),
        ("Prettier", node("layout")),
        ("eslint", node("lint")),
        ("schema is fresh", lambda: _schema_is_fresh(env)),
        ("ruff", tool("ruff", "check", ".")),
        ("import contracts", tool("lint-imports")),
        ("Django's own checks", lambda: manage(env, "check", "--fail-level", "WARNING", why="check")),
        (
            "migrations match the models",
            lambda: manage(env, "makemigrations", "--check", "--dry-run", "--skip-checks", why="makemigrations --check"),
        ),
    ]
    started = time.monotonic()
    failed: list[str] = []
    if not words:
        with ThreadPoolExecutor(2) as two:
            failed = [name for name in two.map(_run_step, steps) if name]
        timed("checked, beside the tests", started)
    for wait in waits:
        wait()
    pytest = [str(VENV / "bin" / "python"), "-m", "pytest", *options, *(words or [*SHARED, "tests"])]
    code = subprocess.run(pytest, cwd=ROOT, env={**os.environ, **env}, check=False).returncode
    if failed:
        say(f"Failed besides pytest: {', '.join(failed)}.")
    return 1 if failed or code else 0
