"""Load the demo: a demo user with the portraits that ship with the project."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from django.conf import settings
from django.contrib.auth import get_user_model
from django.core.management.base import BaseCommand

from studio.accounts.middleware import DEMO_USER
from studio.portraits.models import Portrait
from studio.portraits.services import library

NAMES = {
    "kofi-raw": "Kofi, raw", "ana": "Ana", "ana-flash": "Ana, flash", "ana-fly": "Ana, loose strands", "bela": "Bela", "bela-glasses": "Bela, glasses", "bela-stain": "Bela, lint", "chi": "Chi", "dan": "Dan",
    "dan-blink": "Dan, eyes closed", "eli": "Eli", "hana": "Hana", "ivo": "Ivo",
    "kofi": "Kofi", "lia": "Lia",
}  # fmt: skip


class Command(BaseCommand):
    help = "Load the demo user and the demo portraits, unless they are there already."

    def handle(self, *args: Any, **options: Any) -> None:
        model = get_user_model()
        user, made = model.objects.get_or_create(username=DEMO_USER)
        if made:
            user.set_unusable_password()
            user.save()
        if Portrait.objects.filter(owner=user).exists():
            self.stdout.write("The demo portraits are there already.")
            return
        folder = Path(settings.BASE_DIR) / "demo" / "portraits"
        for stem, name in reversed(NAMES.items()):
            path = next(folder.glob(f"{stem}.*"))
            with open(path, "rb") as file:
                portrait = library.take_in(user, file, path.name, path.stat().st_size)
            library.rename(portrait, name)
        self.stdout.write(f"{len(NAMES)} demo portraits loaded.")
