"""Lengths of time in words: the pages have the same cases (frontend/src/instruments/lengths.test.ts)."""

import json

import pytest

from widedusk.command.basics import FRONTEND
from widedusk.core.verdict import duration_words

CASES = json.loads((FRONTEND / "src" / "instruments" / "lengths.cases.json").read_text())


@pytest.mark.parametrize(("seconds", "words"), CASES.items())
def test_a_length_of_time_reads_alike_everywhere(seconds, words):
    assert duration_words(float(seconds)) == words
