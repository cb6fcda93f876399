"""Shared by all tests: reference libraries are kept off the network, and the rig and spots that several tests use."""

import os
from collections.abc import Callable, Sequence

import numpy as np
import pytest
from hypothesis import settings
from xdist.scheduler import LoadScopeScheduling

from tests import demo
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


# Phones that wait for a server must not be starved by drawing and measuring sixty pictures beside it.
ONE_AFTER_THE_OTHER = ("tests/e2e/test_the_field.py", "tests/e2e/test_the_frames.py")


class ByFile(LoadScopeScheduling):
    """A file of tests is run by one process; so are these, one after the other."""

    def _split_scope(self, nodeid: str) -> str:
        file = nodeid.partition("::")[0]
        return ONE_AFTER_THE_OTHER[0] if file in ONE_AFTER_THE_OTHER else file


@pytest.hookimpl(optionalhook=True)
def pytest_xdist_make_scheduler(config: pytest.Config, log: object) -> ByFile:
    return ByFile(config, log)


@pytest.fixture(scope="session")
def demo_copy() -> Callable[[str], None]:
    """Makes databases with the demo in them; it is loaded once for all."""
    demo.seed()
    return demo.copy


@pytest.fixture(autouse=True, scope="session")
def _no_downloads() -> None:
    from astropy.utils import iers

    iers.conf.auto_download = False
    iers.conf.auto_max_age = None
    iers.conf.iers_degraded_accuracy = "ignore"
