"""Machines other than the server's: each lends the folders below its own allowed one, where a worker of its own reads them."""

from collections.abc import Sequence
from datetime import timedelta

from django.conf import settings
from django.db.models import QuerySet

from widedusk.core.errors import Fault, InvalidInput, storable
from widedusk.records.clock import true_now
from widedusk.records.frames.folders import FolderThere, folders_there
from widedusk.records.frames.models import Machine

TELL_EVERY_S = 5.0
HEARD_WITHIN = timedelta(seconds=30)
FORGOTTEN_AFTER = timedelta(days=30)


def tell_folders() -> None:
    """Note that this machine is there, and which folders of frames lie on it. Its worker does this again and again."""
    told = [[one.path, one.files] for one in folders_there() if storable(one.path) == one.path and len(one.path) <= 400]
    Machine.objects.update_or_create(name=settings.WIDE_DUSK_MACHINE, defaults={"heard_at": true_now(), "folders": told})


def machines_heard() -> QuerySet[Machine]:
    return Machine.objects.filter(heard_at__gt=true_now() - HEARD_WITHIN).order_by("name")


def machine_is_heard(name: str) -> bool:
    return machines_heard().filter(name=name).exists()


def forget_machines() -> None:
    """Those that were not heard for a month; what was measured there stays."""
    Machine.objects.filter(heard_at__lt=true_now() - FORGOTTEN_AFTER).delete()


def folders_elsewhere() -> Sequence[tuple[str, FolderThere]]:
    """Folders on other machines that are heard, each with the name of its machine."""
    return [(one.name, FolderThere(path, files)) for one in machines_heard() for path, files in one.folders]


def check_elsewhere(machine: str, path: str) -> None:
    """Raises InvalidInput for a folder that its machine does not lend."""
    if (machine, path) not in {(name, one.path) for name, one in folders_elsewhere()}:
        told = f"“{machine}” is not heard, or lends no folder “{path}”; start ./wide-dusk worker there, and choose from the list."
        raise InvalidInput([Fault("path", path, told)])
