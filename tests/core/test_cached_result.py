"""What the tests keep from one run to the next is thrown away when any code changes that it hangs on."""

import subprocess
import sys

from tests.cached_result import DRAWING, MEASURING, cached_result, code_files
from widedusk.command.basics import ROOT


def loaded_files(*modules: str) -> set[str]:
    """Files of the core that Python loads for some modules, in a process of its own."""
    show = "[print(module.__file__) for name, module in sys.modules.items() if name.startswith('widedusk.core')]"
    code = f"import sys, {', '.join(modules)}; {show}"
    printed = subprocess.run([sys.executable, "-c", code], cwd=ROOT, check=True, capture_output=True, text=True).stdout
    return {line for line in printed.split() if not line.endswith("__init__.py")}


def test_no_code_that_draws_or_measures_is_left_out_of_the_digest():
    for patterns, modules in (
        (DRAWING, ("widedusk.core.simulate.series", "widedusk.core.simulate.spoiled", "widedusk.core.simulate.lens")),
        (MEASURING, ("widedusk.core.frames.frame", "widedusk.core.frames.read", "widedusk.core.frames.patterns")),
    ):
        loaded = loaded_files(*modules)
        assert len(loaded) > 3 and loaded - {str(path) for path in code_files(patterns)} == set()


def test_a_result_is_made_once_for_what_is_given(tmp_path, monkeypatch):
    monkeypatch.setenv("WIDE_DUSK_CACHE", str(tmp_path))
    calls: list[int] = []
    results = [cached_result("sum", DRAWING, given, lambda: calls.append(1) or len(calls)) for given in (1, 1, 2, 1)]
    assert results == [1, 1, 2, 1] and len(calls) == 2
