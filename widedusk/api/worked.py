"""What a request names: rig, spot, night and target, each found through its owner and made ready to be worked with."""

import pickle
import threading
from collections.abc import Callable
from dataclasses import dataclass, field
from functools import cached_property, lru_cache, partial
from typing import ParamSpec, TypeVar, cast

from django.contrib.auth.models import AbstractBaseUser
from django.http import HttpRequest

from widedusk.api.choices import Context
from widedusk.api.schemas import user_of
from widedusk.core.choices import Choices
from widedusk.core.exposure.response import Through
from widedusk.core.exposure.setting import as_carried
from widedusk.core.kit.parts import Camera, Filter
from widedusk.core.pole.axis import Axis
from widedusk.records.grounds.services import spot_of
from widedusk.records.kit.services import as_chosen, assembly_of, filters_of, seen_through, whole_rig_of
from widedusk.records.nights.runs import rig_spot_and_target
from widedusk.records.pole.services import latest_axis
from widedusk.records.targets.framings import aimed, framing_angle


def through_of(user: AbstractBaseUser, rig: int | None, choices: Choices) -> Through | None:
    """Camera and filters that the night's targets are taken with; None while no rig is chosen or it has no camera yet.

    Raises InvalidInput for a filter this person does not have.
    """
    row = whole_rig_of(user, rig) if rig is not None else None
    if row is None:
        return None
    assembly = as_chosen(user, row, choices.filter_name)
    camera = assembly.first(Camera)
    return Through(camera, tuple(assembly.all(Filter))) if camera else None


P = ParamSpec("P")
T = TypeVar("T")
# Threads of a process share one interpreter: more than two that work out nights beside each other only hold each other up.
# Taken once a request waits for nobody any more, the forecast least of all.
IN_TURN = threading.BoundedSemaphore(2)


@dataclass(frozen=True)
class _Question:
    given: bytes  # all that the answer hangs on
    answer: Callable[[], object] = field(compare=False)


@lru_cache(maxsize=32)
def _answered(asked: _Question) -> object:
    return asked.answer()


def worked_out(work: Callable[P, T], *given: P.args, **named: P.kwargs) -> T:
    """What a function of the core says, which hangs on what it is given and on nothing else.

    The last answers are kept under all that was given: pages of one night, and a phone beside a laptop, ask the same again.
    Read only, as the core's answers are.
    """
    key = pickle.dumps((work.__module__, work.__qualname__, given, named), pickle.HIGHEST_PROTOCOL)
    return cast(T, _answered(_Question(key, partial(work, *given, **named))))


class Worked:
    """A rig through the filter chosen for it, at a spot, in a night, on a target.

    Raises InvalidInput for a record this person does not have, an unknown filter, or a rig that lacks what a night needs.
    """

    def __init__(self, request: HttpRequest, asked: Context, choices: Choices) -> None:
        self.user = user_of(request)
        self.rows = rig_spot_and_target(self.user, asked.rig, asked.spot, asked.target)
        self.rig_row, self.spot_row, self.target_row = self.rows
        self.night, self.framing = asked.night, asked.framing
        self.assembly = seen_through(assembly_of(self.rig_row), self.filters if choices.filter_name else {}, choices.filter_name)
        self.rig, self.spot = self.assembly.rig(), spot_of(self.spot_row)
        self.target = aimed(self.user, self.target_row, asked.framing)
        self.choices = as_carried(self.rig, choices)

    @cached_property
    def filters(self) -> dict[str, Filter]:
        """Every filter this person owns, by its name."""
        return filters_of(self.user)

    @cached_property
    def angle_deg(self) -> float:
        """Of the frame's upper edge: by the framing, else level with the equator."""
        return framing_angle(self.user, self.target_row, self.framing)

    @cached_property
    def axis(self) -> Axis | None:
        """The axis as last measured, or left unmeasured, in this night with this rig at this spot."""
        return latest_axis(self.user, self.rig_row.pk, self.spot_row.pk, self.night)
