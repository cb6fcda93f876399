"""What a person may do with an account: change its password, end its sessions, take everything along, delete it."""

import json
from collections.abc import Iterator
from typing import Any

from django.apps import apps
from django.contrib.auth.models import User
from django.contrib.auth.password_validation import validate_password
from django.contrib.sessions.models import Session
from django.core.exceptions import ValidationError
from django.core.serializers.json import DjangoJSONEncoder
from django.db import models, transaction
from django.utils import timezone

from widedusk.core.errors import Fault, InvalidInput
from widedusk.records.frames.models import Frame
from widedusk.records.pictures.models import Picture
from widedusk.records.pictures.store import let_file_go

# How a row without an owner of its own is reached from one that has.
_THROUGH = {
    "grounds.Spot": "place__owner",
    "kit.Placement": "rig__owner",
    "nights.RunFact": "run__owner",
    "nights.RunPlan": "run__owner",
    "nights.RunResult": "run__owner",
    "weather.StoredForecast": "place__owner",
}
# What holds on to others goes first.
_ORDER = ("pole", "pictures", "frames", "nights", "weather", "habits", "targets", "kit", "grounds")


def set_password(person: User, password: str, field: str = "password") -> None:
    """Give a person a new password, which ends every session. Raises InvalidInput when it is too easy."""
    try:
        validate_password(password, person)
    except ValidationError as caught:
        raise InvalidInput([Fault(field, None, message) for message in caught.messages]) from caught
    person.set_password(password)
    person.save()


def end_sessions(person: User, but: str | None = None) -> int:
    """End the sessions of a person, all but one where that is said; how many there were."""
    ended = 0
    for session in Session.objects.filter(expire_date__gt=timezone.now()).iterator():
        if session.session_key != but and session.get_decoded().get("_auth_user_id") == str(person.pk):
            session.delete()
            ended += 1
    return ended


def _held_by(kind: type[models.Model], kinds: list[type[models.Model]]) -> int:
    """How often a kind refers to others of these."""
    return sum(one.related_model in kinds for one in kind._meta.get_fields() if one.many_to_one)


def _held(person: User) -> Iterator[tuple[str, models.QuerySet[Any]]]:
    """Every kind of record and this person's rows of it, in the order in which they can be deleted."""
    for label in _ORDER:
        kinds = list(apps.get_app_config(label).get_models())
        # Within one app, what refers to another kind of it comes before that.
        for kind in sorted(kinds, key=lambda one: -_held_by(one, kinds)):
            through = _THROUGH.get(kind._meta.label, "owner" if any(one.name == "owner" for one in kind._meta.get_fields()) else "")
            if through:
                yield kind._meta.label, kind._base_manager.filter(**{through: person.pk})


def _linked(kept: list[dict[str, Any]], link: Any) -> None:
    """Write into each row the numbers of those it is linked to. link: a many-to-many field of its kind."""
    mine, theirs = f"{link.m2m_field_name()}_id", f"{link.m2m_reverse_field_name()}_id"
    by_number = {row["id"]: row.setdefault(link.name, []) for row in kept}
    pairs = link.remote_field.through._base_manager.filter(**{f"{mine}__in": by_number}).order_by("pk").values_list(mine, theirs)
    for here, there in pairs:
        by_number[here].append(there)


def everything_of(person: User) -> str:
    """All records of a person as JSON: by kind, each row with its columns and the numbers of those it is linked to; small views of
    pictures are left out."""
    found: dict[str, list[dict[str, Any]]] = {}
    for label, rows in _held(person):
        names = [one.attname for one in rows.model._meta.concrete_fields if not isinstance(one, models.BinaryField)]
        found[label] = list(rows.order_by("pk").values(*names))
        for link in rows.model._meta.many_to_many:
            _linked(found[label], link)
    document = {"format": "wide-dusk account", "version": 1, "username": person.get_username(), "records": found}
    return json.dumps(document, cls=DjangoJSONEncoder, ensure_ascii=False, indent=1)


@transaction.atomic
def delete_account(person: User) -> None:
    """Delete a person with everything that is theirs, uploads included. It cannot be undone."""
    files = [
        *Picture.objects.filter(owner_id=person.pk, from_folder=False).exclude(file="").values_list("file", flat=True),
        *Frame.objects.filter(owner_id=person.pk).exclude(file="").values_list("file", flat=True),
    ]
    for _, rows in _held(person):
        rows.delete()
    end_sessions(person)
    person.delete()

    def remove_files() -> None:
        for name in files:
            let_file_go(name)

    transaction.on_commit(remove_files)
