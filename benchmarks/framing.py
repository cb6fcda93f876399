"""How long Framing takes, beside what was asked of it. Ratios below 1 hold.

    python -m benchmarks.framing

Nothing else should run on the machine. Each figure is the median of nine; what is read once a process is read before.
"""

import gzip
import time
from collections.abc import Callable
from datetime import date
from statistics import median

import numpy as np

from tests.conftest import a_rig, a_spot
from widedusk.core.choices import Choices
from widedusk.core.framing.chart import chart
from widedusk.core.framing.compose import compose
from widedusk.core.framing.frame import Frame, Subject
from widedusk.core.framing.hop import hop
from widedusk.core.framing.panels import lay
from widedusk.core.framing.ways import Search, ways
from widedusk.core.plan.groups import CONSIDERED, groups
from widedusk.core.plan.outlook import night_of
from widedusk.core.plan.panel_nights import panel_nights
from widedusk.core.plan.ranking import Wanted, rank
from widedusk.core.scene import Target
from widedusk.core.sky.places import unit_vectors

EVENING = date(2026, 12, 9)


def timed(work: Callable[[], object]) -> float:
    work()
    spent = []
    for _ in range(9):
        begun = time.perf_counter()
        work()
        spent.append(time.perf_counter() - begun)
    return median(spent) * 1000.0


def main() -> None:
    from widedusk.core.catalogue.catalogue import catalogue  # noqa: PLC0415 - read before anything is timed

    rng = np.random.default_rng(1)
    places = rng.uniform((78.0, -7.0), (82.0, -3.0), (6, 2))
    six = [Subject(f"{n}", ra, dec, rng.uniform(0.1, 0.8), 0.1, rng.uniform(0, 180)) for n, (ra, dec) in enumerate(places)]
    spot, rig = a_spot(-24.6, 16.9), a_rig()
    night = night_of(spot, EVENING)
    target = Target("field", 160.0, -59.0, 10.0, 21.0)
    panels = lay(Frame(160.0, -59.0, 20.0, 7.5, 5.0), 5, 4).panels
    goal = unit_vectors(np.radians(160.0), np.radians(-59.0))
    search = Search(Frame(160.0, -59.0, 20.0, 7.5, 5.0), spot, float(night.mjd[720]), EVENING, 180.0, "bracket", "binoculars")
    field = chart(160.0, -59.0, 80.0)
    told = ",".join(f"{one:.4f}" for column in (field.ra_deg, field.dec_deg) for one in column)
    told += ",".join(f"{one:.1f}" for column in (field.magnitude, field.colour) for one in column)
    ranked = rank(catalogue(), rig, night, Choices(), Wanted(smallest_percent=2, largest_percent=100), limit=CONSIDERED).rows
    rows = (
        ("composing 6 objects, ms", timed(lambda: compose(six, 7.5, 5.0)), 20.0),
        ("5 x 4 panels with windows, ms", timed(lambda: panel_nights(panels, spot, EVENING, target, Choices())), 150.0),
        ("a hop, ms", timed(lambda: hop(goal, "binoculars", 5.0, 6.4)), 100.0),
        ("all four ways, ms", timed(lambda: ways(search)), 100.0),
        ("chart of a 40° field, ms", timed(lambda: chart(160.0, -59.0, 80.0)), 60.0),
        ("its stars, compressed, kB", len(gzip.compress(told.encode(), 6)) / 1000.0, 150.0),
        ("what fits together, ms", timed(lambda: groups(ranked, rig)), 1000.0),
    )
    for name, found, asked in rows:
        print(f"{name:32} {found:8.1f} of {asked:6.0f}   {found / asked:.2f}")


if __name__ == "__main__":
    main()
