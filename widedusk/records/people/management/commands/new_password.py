"""Give somebody a new password: asked for twice at the terminal, or one line where the input is no terminal."""

import getpass
import sys
from argparse import ArgumentParser
from typing import Any

from django.contrib.auth import get_user_model
from django.core.management.base import BaseCommand, CommandError

from widedusk.core.errors import InvalidInput
from widedusk.records.people.services import end_sessions, set_password


class Command(BaseCommand):
    help = "Give an account a new password and sign it out everywhere."

    def add_arguments(self, parser: ArgumentParser) -> None:
        parser.add_argument("name")

    def handle(self, *args: Any, **options: Any) -> None:
        person = get_user_model().objects.filter(username__iexact=options["name"]).first()
        if person is None:
            raise CommandError(f"There is no account “{options['name']}”.")
        if sys.stdin.isatty():
            password = getpass.getpass(f"New password for {person.get_username()}: ")
            if password != getpass.getpass("The same again: "):
                raise CommandError("The two differ; nothing was changed.")
        else:
            password = sys.stdin.readline().rstrip("\n")
        try:
            set_password(person, password)
        except InvalidInput as refused:
            raise CommandError(" ".join(fault.message for fault in refused.faults)) from refused
        end_sessions(person)
        self.stdout.write(f"{person.get_username()} has a new password and is signed out everywhere.")
