"""Write the published forms: the JSON Schemas of edits and routines and the OpenAPI description."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

from django.conf import settings
from django.core.management.base import BaseCommand

from retouch.forms.form import schema
from retouch.forms.routines import routine_schema
from studio.api import api


def forms() -> dict[str, str]:
    """File names under docs/formats and their present contents."""
    return {
        "edit.schema.json": json.dumps(schema(), indent=1) + "\n",
        "routine.schema.json": json.dumps(routine_schema(), indent=1) + "\n",
        "openapi.json": json.dumps(api.get_openapi_schema(path_prefix="/api/"), indent=1) + "\n",
    }


class Command(BaseCommand):
    help = "Write the published forms into docs/formats."

    def handle(self, *args: Any, **options: Any) -> None:
        folder = Path(settings.BASE_DIR) / "docs" / "formats"
        folder.mkdir(parents=True, exist_ok=True)
        for name, text in forms().items():
            (folder / name).write_text(text)
            self.stdout.write(f"docs/formats/{name}")
