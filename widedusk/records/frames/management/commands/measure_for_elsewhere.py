"""The worker of a machine that is not the server's: measures what lies in its own folder there and sends facts only, and what lies
in the object store, where both reach one."""

import logging
import threading
from typing import Any

from django.conf import settings
from django.core.management import call_command
from django.core.management.base import BaseCommand
from django.db import Error, connection

from widedusk.records.frames.machines import TELL_EVERY_S, tell_folders
from widedusk.records.frames.models import queue_at

log = logging.getLogger(__name__)


def tell_again_and_again(ended: threading.Event) -> None:
    """Until it ends; a database that is away for a while is told when it is back."""
    while not ended.wait(TELL_EVERY_S):
        try:
            tell_folders()
        except (Error, OSError):
            log.exception("the folders of this machine could not be told")
            connection.close()


class Command(BaseCommand):
    help = "Measure what lies on this machine, for a server elsewhere."

    def handle(self, *args: Any, **options: Any) -> None:
        queues = ["pictures"] if settings.WIDE_DUSK_OBJECT_STORE else []
        ended = threading.Event()
        if settings.WIDE_DUSK_PICTURE_FOLDER:
            queues.append(queue_at(settings.WIDE_DUSK_MACHINE))
            tell_folders()
            threading.Thread(target=tell_again_and_again, args=(ended,), daemon=True).start()
        try:
            call_command("procrastinate", "worker", "--queues", ",".join(queues))
        finally:
            ended.set()
