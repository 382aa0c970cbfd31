"""What each user has set up for themselves."""

from __future__ import annotations

from django.conf import settings
from django.db import models


class Preferences(models.Model):
    """A user's own keys, brushes and settings of passes.

    ``keys`` maps actions to lists of keys, only those that differ from the usual ones;
    ``brushes`` is a list of named brush settings, ``kept`` one of named settings of passes; ``card`` says
    who makes the pictures, ``presets`` are named ways of delivering,
    ``looks`` named sets of passes.
    """

    user = models.OneToOneField(
        settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="preferences"
    )
    keys = models.JSONField(default=dict)
    brushes = models.JSONField(default=list)
    kept = models.JSONField(default=list)
    card = models.JSONField(default=dict)
    presets = models.JSONField(default=list)
    looks = models.JSONField(default=list)

    def __str__(self) -> str:
        return f"preferences of {self.user}"
