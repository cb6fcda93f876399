"""What must travel before the first page stands: a phone at a dark site has little of a connection."""

from benchmarks.first_load import first_load_kb


def test_the_first_page_is_there_after_a_quarter_of_a_megabyte():
    assert first_load_kb("tonight") <= 250.0
