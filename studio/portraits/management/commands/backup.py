"""``manage.py backup DIR``: a copy of all data, while the studio is in use."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from studio.errors import Problem
from studio.portraits.services import backups


class Command(BaseCommand):
    help = (
        "Copy database, originals and keys to a folder; again into the same one, only what is new."
    )

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("folder")

    def handle(self, *args: Any, **options: Any) -> None:
        try:
            told = backups.backup(Path(options["folder"]), self.stdout.write)
        except Problem as problem:
            raise CommandError(problem.body["message"]) from None
        self.stdout.write(f"{told.copied} originals copied, {told.portraits} portraits in all.")
        if told.missing:
            raise CommandError(
                f"{len(told.missing)} originals are missing or damaged here: {', '.join(told.missing[:20])}"
            )
