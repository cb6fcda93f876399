"""Two tabs, two devices: who saves over a later change is told of it, with what stands there now; the choice is theirs."""

from collections.abc import Callable
from typing import Annotated, Any, TypeVar

from django.shortcuts import get_object_or_404
from ninja import Schema
from pydantic import Field

from widedusk.api.failures import FaultOut
from widedusk.records.owned import Owned, OwnedQuerySet

M = TypeVar("M", bound=Owned)
Version = Annotated[int, Field(ge=1, le=2**31 - 1)]
CHANGED = "This was changed elsewhere after you opened it. Look at both, then choose."


class ChangedOut(Schema):
    """What was meant to be saved over: the record as it stands now."""

    faults: list[FaultOut]
    theirs: dict[str, Any]


class ChangedMeanwhile(Exception):
    """theirs: the record as it is shown."""

    def __init__(self, theirs: dict[str, Any]) -> None:
        super().__init__(CHANGED)
        self.theirs = theirs


def to_change(rows: OwnedQuerySet[M], number: int, version: int | None, shown: Callable[[M], Any]) -> M:
    """One of this person's records, held until the transaction ends, so that no second change comes between.

    version: as it was opened; none: whatever it is. Raises ChangedMeanwhile where it is another by now.
    """
    list(rows.model._default_manager.filter(pk=number).select_for_update())
    row = get_object_or_404(rows, pk=number)
    if version is not None and version != row.version:
        told = shown(row)
        raise ChangedMeanwhile(told if isinstance(told, dict) else told.dict())
    return row
