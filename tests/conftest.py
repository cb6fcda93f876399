"""Shared by all tests: reference libraries are kept off the network, and the rig and spots that several tests use."""

import json
import os
import sys
from collections.abc import Callable, Sequence
from pathlib import Path

import numpy as np
import pytest
from hypothesis import settings

from tests import cluster
from widedusk.command.basics import ROOT
from widedusk.core.choices import Choices
from widedusk.core.exposure.setting import Subject, expected_drifts
from widedusk.core.kit.parts import Camera, Carried, IsoStep, Lens, Rig, Tracker
from widedusk.core.scene import Spot, Target
from widedusk.core.sky.horizon import HorizonProfile

# The browser's driver keeps an event loop here in which nothing of ours runs; Django would refuse its records meanwhile.
os.environ["DJANGO_ALLOW_ASYNC_UNSAFE"] = "true"
settings.register_profile("house", deadline=None)  # a timed test fails on a busy machine, not on a fault
settings.load_profile("house")

ISO_STEPS = (IsoStep(400, 5.2, 40_000), IsoStep(800, 3.6, 20_000), IsoStep(1600, 2.6, 10_000), IsoStep(3200, 2.4, 5_000))
OPEN = HorizonProfile()


def a_rig(focal_mm: float = 35.0, f_best: float = 2.8, half_amplitude: float = 20.0, carried: Sequence[Carried] = ()) -> Rig:
    return Rig(
        "test rig",
        Camera("body", 550, 36, 24, 6, 30, 40, 0.0, ISO_STEPS),
        Lens("lens", 400, focal_mm, 1.4, f_best),
        Tracker("tracker", 1100, 3000, False, half_amplitude, 500, "inverted"),
        "ball head",
        carried=carried,
    )


def a_spot(latitude: float, longitude: float = 16.4, zone: str = "UTC", horizon: HorizonProfile = OPEN) -> Spot:
    return Spot("test spot", latitude, longitude, 900, zone, 21.6, horizon)


def a_subject(rig: Rig, dec_deg: float = 0.0, axis_arcmin: float = 5.0, **choices: object) -> Subject:
    """A field at a declination, with an axis expected so far off."""
    made = Choices(alignment_arcmin=axis_arcmin, **choices)
    return Subject(
        rig, Target("test field", 80.0, dec_deg, 1.0, 22.0), 21.5, 1.2, made, expected_drifts(axis_arcmin, np.radians(dec_deg))
    )


DURATIONS = Path(__file__).with_name("durations.json")


def pytest_addoption(parser: pytest.Parser) -> None:
    parser.addoption("--everything", action="store_true", help="the nightly tests, too")
    parser.addoption("--record-durations", action="store_true", help="write what each file took to tests/durations.json")


def pytest_collection_modifyitems(config: pytest.Config, items: list[pytest.Item]) -> None:
    """Nightly tests run with --everything, and when they are named. The files that took longest come first, so that no process is
    left with one of them at the end."""
    recorded = json.loads(DURATIONS.read_text())
    items.sort(key=lambda item: -recorded.get(_file_of(item.nodeid), float("inf")))  # what is not recorded goes first
    if config.getoption("everything") or config.getoption("keyword") or any("::" in word for word in config.args):
        return
    nightly = [item for item in items if item.get_closest_marker("nightly")]
    config.hook.pytest_deselected(items=nightly)
    items[:] = [item for item in items if not item.get_closest_marker("nightly")]


def _file_of(nodeid: str) -> str:
    return nodeid.partition("::")[0]


class DurationRecorder:
    """Adds up the seconds of each file."""

    def __init__(self) -> None:
        self.seconds: dict[str, float] = {}

    def pytest_runtest_logreport(self, report: pytest.TestReport) -> None:
        file = _file_of(report.nodeid)
        self.seconds[file] = self.seconds.get(file, 0.0) + report.duration

    def pytest_sessionfinish(self) -> None:
        """Files that did not run keep what was recorded of them; those that are gone are forgotten."""
        recorded = {file: took for file, took in json.loads(DURATIONS.read_text()).items() if (ROOT / file).is_file()}
        recorded |= {file: round(seconds, 1) for file, seconds in self.seconds.items()}
        DURATIONS.write_text(json.dumps(recorded, indent=1, sort_keys=True) + "\n")


def pytest_configure(config: pytest.Config) -> None:
    if config.getoption("record_durations") and not hasattr(config, "workerinput"):
        config.pluginmanager.register(DurationRecorder())


@pytest.fixture(scope="session")
def demo_copy() -> Callable[[str], None]:
    """Makes databases with the demo in them, in this run's own cluster."""
    cluster.start()
    return cluster.create_database


@pytest.fixture(autouse=True, scope="session")
def _no_downloads() -> None:
    """Astropy is kept off the network, where a file of tests that runs has it; to load it takes most of a second."""
    if "astropy" not in sys.modules:
        return
    from astropy.utils import iers

    iers.conf.auto_download = False
    iers.conf.auto_max_age = None
    iers.conf.iers_degraded_accuracy = "ignore"
