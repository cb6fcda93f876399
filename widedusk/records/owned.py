"""Records that belong to a person. They are only ever reached through their owner."""

from collections import Counter
from collections.abc import Iterable
from typing import Any, ClassVar, Self, TypeVar

from django.conf import settings
from django.contrib.auth.models import AbstractBaseUser
from django.db import models
from django.utils import timezone

from widedusk.core.errors import Fault, InvalidInput

M = TypeVar("M", bound="Owned")


class OwnedQuerySet(models.QuerySet[M]):
    """The one door to records: `Rig.objects.of(user)`."""

    def of(self, user: AbstractBaseUser) -> Self:
        """What this person has and has not deleted."""
        return self.filter(owner_id=user.pk, deleted_at=None)

    def bulk_create(self, objs: Iterable[M], *args: Any, **more: Any) -> list[M]:
        """As Django's, within what each owner may have."""
        rows = list(objs)
        for owner, count in Counter(one.owner_id for one in rows).items():
            self.model.check_quota(owner, count)
        return super().bulk_create(rows, *args, **more)

    def deleted_of(self, user: AbstractBaseUser) -> Self:
        """What this person deleted and may bring back."""
        return self.filter(owner_id=user.pk).exclude(deleted_at=None)


class Owned(models.Model):
    """A named record of one person. Deleting marks it, so that it can be undone and plans keep what they refer to."""

    owner = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="+")
    name = models.CharField(max_length=120)
    created_at = models.DateTimeField(auto_now_add=True)
    updated_at = models.DateTimeField(auto_now=True)
    deleted_at = models.DateTimeField(null=True, blank=True, default=None)
    version = models.PositiveIntegerField(default=1)  # one more with every change, so that a later one is not saved over unseen

    MAX_RECORDS: ClassVar[int] = 2_000  # that one person may have
    MAX_DELETED_TIMES: ClassVar[int] = 10  # times as many may lie deleted
    ONE_OF_A_NAME: ClassVar[bool] = True  # false where a name is no more than a label, such as a camera's file name

    class Meta:
        abstract = True
        ordering: ClassVar[tuple[str, ...]] = ("name", "id")
        constraints: ClassVar[tuple[models.BaseConstraint, ...]] = (
            models.UniqueConstraint(fields=("owner", "name"), condition=models.Q(deleted_at=None), name="one_%(class)s_of_a_name"),
        )

    def __str__(self) -> str:
        return self.name

    def save(self, *args: Any, update_fields: Iterable[str] | None = None, **more: Any) -> None:
        if self._state.adding:
            self.check_quota(self.owner_id, 1)
        else:
            self.version += 1
            if update_fields is not None:
                update_fields = {*update_fields, "version"}
        super().save(*args, update_fields=update_fields, **more)

    @classmethod
    def check_quota(cls, owner: int | None, more: int) -> None:
        """Raise InvalidInput when a person, by the number of the account, would have more than can be kept."""
        rows = cls._default_manager.filter(owner_id=owner)
        if rows.count() + more <= cls.MAX_RECORDS:  # the usual case, by one question
            return
        what, here = cls._meta.verbose_name_plural, rows.filter(deleted_at=None).count()
        if here + more > cls.MAX_RECORDS:
            told = f"You have {here:,} {what}; {cls.MAX_RECORDS:,} can be kept. Delete some before you add more."
            raise InvalidInput([Fault("name", here, told)])
        if (lying := rows.count() - here) > cls.MAX_DELETED_TIMES * cls.MAX_RECORDS:
            told = f"{lying:,} {what} of yours are deleted and still lie here; no more can be made. Ask whoever runs this site."
            raise InvalidInput([Fault("name", lying, told)])

    def refuse_a_second_of_its_name(self) -> None:
        """Raise InvalidInput when this person already has another record of this name."""
        if not self.ONE_OF_A_NAME:
            return
        others = type(self)._default_manager.filter(owner_id=self.owner_id, name=self.name, deleted_at=None).exclude(pk=self.pk)
        if others.exists():
            raise InvalidInput([Fault("name", self.name, f"You already have “{self.name}”; give this one another name.")])

    def delete_softly(self) -> None:
        self.deleted_at = timezone.now()
        self.save(update_fields=("deleted_at", "updated_at"))

    def bring_back(self) -> None:
        """Undo a deletion. Raises InvalidInput when the name has been taken meanwhile."""
        self.refuse_a_second_of_its_name()
        self.deleted_at = None
        self.save(update_fields=("deleted_at", "updated_at"))
