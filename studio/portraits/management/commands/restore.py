"""``manage.py restore DIR``: the data of a backup into this data folder."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from django.core.management import call_command
from django.core.management.base import BaseCommand, CommandError, CommandParser
from django.db import connections

from studio.errors import Problem
from studio.portraits.services import backups


class Command(BaseCommand):
    help = "Bring a backup into the data folder. The studio has to be stopped."
    requires_system_checks: list[str] = []

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("folder")
        parser.add_argument(
            "--replace",
            action="store_true",
            help="put the data that are there into before-restore/",
        )

    def handle(self, *args: Any, **options: Any) -> None:
        connections.close_all()
        try:
            told = backups.restore(Path(options["folder"]), options["replace"], self.stdout.write)
        except Problem as problem:
            raise CommandError(problem.body["message"]) from None
        # A backup of an earlier version is brought up to this one.
        call_command("migrate", verbosity=0)
        self.stdout.write(f"{told.portraits} portraits are back.")
        if told.missing:
            self.stdout.write(f"{len(told.missing)} had no original in the backup.")
