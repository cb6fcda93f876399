"""What is run by `./wide-dusk test --everything` only: another hemisphere, seed or kind of file of what the everyday set covers
once already."""

import pytest


def nightly(*values: object, id: str | None = None) -> object:
    """A set of values of `pytest.mark.parametrize` for the nightly set."""
    return pytest.param(*values, marks=pytest.mark.nightly, id=id)
