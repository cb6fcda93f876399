"""Deleting and bringing back, the same for every noun."""

from collections.abc import Callable
from typing import Any

from django.contrib.auth.models import AbstractBaseUser
from django.http import HttpRequest
from django.shortcuts import get_object_or_404
from ninja import Router

from widedusk.api.failures import FailureOut
from widedusk.api.schemas import Done, user_of
from widedusk.records.owned import Owned, OwnedQuerySet


def add_removal(
    router: Router,
    word: str,
    model: type[Owned],
    found: Callable[[AbstractBaseUser], OwnedQuerySet[Any]],
    out: type[Any],
    shown: Callable[[Any], object] = lambda row: row,
    **only: object,
) -> None:
    """Give a router DELETE /{record_id} and POST /{record_id}/restore.

    `found` gives a person's records ready to be shown; `shown` turns one of them into `out` where its own fields do not; `only`
    tells which rows of the kind are meant.
    """

    @router.delete(
        "/{int:record_id}",
        response={200: Done, 422: FailureOut, 404: FailureOut},
        operation_id=f"delete_{word}",
        summary=f"Delete a {word}",
    )
    def delete(request: HttpRequest, record_id: int) -> Done:
        """It can be brought back."""
        get_object_or_404(found(user_of(request)), pk=record_id).delete_softly()
        return Done()

    @router.post(
        "/{int:record_id}/restore",
        response={200: out, 422: FailureOut, 404: FailureOut},
        operation_id=f"restore_{word}",
        summary=f"Bring a {word} back",
    )
    def restore(request: HttpRequest, record_id: int) -> object:
        """Undo a deletion."""
        kept: OwnedQuerySet[Any] = model._default_manager.get_queryset()  # type: ignore[assignment]
        row: Owned = get_object_or_404(kept.deleted_of(user_of(request)), pk=record_id, **only)
        row.bring_back()
        return shown(found(user_of(request)).get(pk=row.pk))
