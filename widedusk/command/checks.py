"""./wide-dusk test: every check the project has, in one go; and the generated schema they compare against."""

import difflib
import os
import subprocess
import time
from collections.abc import Callable, Iterable, Mapping
from pathlib import Path

from widedusk.command.basics import FRONTEND, ROOT, VAR, VENV, Failure, run, say
from widedusk.command.server import manage, prepare

SCHEMA = FRONTEND / "src" / "api" / "schema.d.ts"


def write_schema(env: Mapping[str, str], target: Path = SCHEMA) -> None:
    """Turn the API's OpenAPI document into TypeScript types."""
    document = VAR / "openapi.json"
    manage(
        env,
        "export_openapi_schema",
        "--api",
        "widedusk.api.api",
        "--output",
        str(document),
        "--sorted",
        why="Writing the OpenAPI document",
    )
    run(["npx", "--no-install", "openapi-typescript", document, "-o", target], cwd=FRONTEND, why="Generating the TypeScript schema")


def _schema_is_fresh(env: Mapping[str, str]) -> None:
    fresh = VAR / "schema.d.ts"
    write_schema(env, fresh)
    old, new = (path.read_text().splitlines() if path.exists() else [] for path in (SCHEMA, fresh))
    if old != new:
        changes = "\n".join(list(difflib.unified_diff(old, new, "committed", "from the API", lineterm="", n=1))[:20])
        raise Failure(f"{SCHEMA.relative_to(ROOT)} is stale; run ./wide-dusk schema and commit it.\n{changes}")


def run_checks(env: Mapping[str, str], pytest_words: list[str], waits: Iterable[Callable[[], None]] = ()) -> int:
    """Run all checks and return the exit code. With words for pytest, only pytest runs, with those words.

    waits: for what still runs beside, before the tests that need it.
    """

    def tool(*words: str) -> Callable[[], object]:
        return lambda: run([VENV / "bin" / words[0], *words[1:]], env=env, why=words[0])

    def node(*words: str) -> Callable[[], object]:
        return lambda: run(["npm", "run", "--silent", *words], cwd=FRONTEND, why=" ".join(words))

    steps: list[tuple[str, Callable[[], object]]] = [
        ("ruff", tool("ruff", "check", ".")),
        # From the ground up: its Django plugin stumbles over a cache of earlier models.
        ("mypy, strict", tool("mypy", "--no-incremental")),
        ("import contracts", tool("lint-imports")),
        ("Django's own checks", lambda: manage(env, "check", "--fail-level", "WARNING", why="check")),
        (
            "migrations match the models",
            lambda: manage(env, "makemigrations", "--check", "--dry-run", why="makemigrations --check"),
        ),
        ("eslint", node("lint")),
        ("vue-tsc", node("types")),
        ("vitest", node("test")),
        ("schema is fresh", lambda: _schema_is_fresh(env)),
    ]
    failed = []
    for name, step in [] if pytest_words else steps:
        started = time.monotonic()
        try:
            step()
            say(f"  ok    {name} ({time.monotonic() - started:.0f} s)")
        except Failure as failure:
            failed.append(name)
            say(f"  FAIL  {name}\n{failure}")
    for wait in waits:
        wait()
    prepare(env)
    code = subprocess.run(
        [str(VENV / "bin" / "python"), "-m", "pytest", *(pytest_words or ["tests"])],
        cwd=ROOT,
        env={**os.environ, **env},
        check=False,
    ).returncode
    if failed:
        say(f"Failed besides pytest: {', '.join(failed)}.")
    return 1 if failed or code else 0
