"""Portraits and everything done to them, as rows.

Passes and touches are rows of their own; a history entry keeps what each gesture changed, before
and after, so that it can be taken back and done again at any later time.
"""

from __future__ import annotations

import secrets
from pathlib import Path

from django.conf import settings
from django.db import models


def new_id() -> str:
    """An unguessable identifier of 16 characters."""
    return secrets.token_urlsafe(12)


class PortraitSession(models.Model):
    """Portraits that belong together: one day's work, one client.

    ``travel``: marks of a person are looked for on the session's other pictures. ``people`` is what the user says
    about pairs of pictures (their ids, the smaller first, joined by a space): True, the same person; False, not.
    """

    id = models.CharField(primary_key=True, max_length=32, default=new_id, editable=False)
    owner = models.ForeignKey(
        settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="portrait_sessions"
    )
    name = models.CharField(max_length=120)
    travel = models.BooleanField(default=True)
    people = models.JSONField(default=dict)
    created_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-created_at", "id"]

    def __str__(self) -> str:
        return self.name


class Portrait(models.Model):
    """An uploaded photograph, stored untouched, with the state of its edit.

    ``revision`` counts every change of the edit; ``history_at`` is how many history entries are
    in force (those above it can be redone).
    """

    id = models.CharField(primary_key=True, max_length=32, default=new_id, editable=False)
    owner = models.ForeignKey(
        settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="portraits"
    )
    name = models.CharField(max_length=200)
    file_name = models.CharField(max_length=255)
    sha256 = models.CharField(max_length=64)
    size_bytes = models.BigIntegerField()
    width = models.IntegerField()
    height = models.IntegerField()
    bits = models.IntegerField()
    format = models.CharField(max_length=8)
    profile = models.CharField(max_length=200)
    revision = models.IntegerField(default=0)
    history_at = models.IntegerField(default=0)
    # The analysis of the faces that the edit was made on, by its content; empty: none yet.
    analysis = models.CharField(max_length=64, blank=True, default="")
    session = models.ForeignKey(
        PortraitSession, on_delete=models.SET_NULL, null=True, related_name="portraits"
    )
    star = models.BooleanField(default=False)
    # What the user says is to be done: "todo", "again", "done", or nothing.
    flag = models.CharField(max_length=8, blank=True, default="")
    # The portrait whose file holds this picture as a layer: it is taken from, not shown as one of its own.
    part_of = models.ForeignKey("self", on_delete=models.CASCADE, null=True, related_name="parts")
    # Zones that the sweep has shown.
    seen = models.JSONField(default=list)
    created_at = models.DateTimeField(auto_now_add=True)
    worked_at = models.DateTimeField(auto_now_add=True)
    deleted_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["-worked_at", "id"]
        indexes = [
            models.Index(fields=["owner", "deleted_at", "-worked_at"], name="wall_by_work"),
            models.Index(fields=["owner", "session", "deleted_at"], name="wall_by_session"),
        ]

    def __str__(self) -> str:
        return self.name

    @property
    def original(self) -> Path:
        """Where the uploaded file lies."""
        return Path(settings.ORIGINALS_DIR) / self.id / self.file_name


class Pass(models.Model):
    """One pass; ``position`` orders them, the lowest first."""

    portrait = models.ForeignKey(Portrait, on_delete=models.CASCADE, related_name="passes")
    uid = models.CharField(max_length=64)
    position = models.IntegerField()
    kind = models.CharField(max_length=64)
    name = models.CharField(max_length=200, blank=True)
    settings = models.JSONField(default=dict)
    fit = models.JSONField(default=dict)
    mask = models.JSONField(default=dict)
    strength = models.FloatField(default=100.0)
    blend = models.CharField(max_length=32, default="normal")
    enabled = models.BooleanField(default=True)
    stage_on = models.BooleanField(default=True)
    bound = models.JSONField(null=True)

    class Meta:
        ordering = ["position", "id"]
        constraints = [models.UniqueConstraint(fields=["portrait", "uid"], name="one_pass_per_uid")]

    def __str__(self) -> str:
        return self.name or self.kind


class Touch(models.Model):
    """One touch of a pass; ``position`` orders them, the earliest first."""

    owner_pass = models.ForeignKey(Pass, on_delete=models.CASCADE, related_name="touches")
    uid = models.CharField(max_length=64)
    position = models.IntegerField()
    path = models.JSONField()
    values = models.JSONField(default=dict)
    source = models.JSONField(null=True)
    spare = models.JSONField(default=list)
    enabled = models.BooleanField(default=True)
    elsewhere = models.JSONField(null=True)
    pressure = models.JSONField(default=list)

    class Meta:
        ordering = ["position", "id"]
        constraints = [
            models.UniqueConstraint(fields=["owner_pass", "uid"], name="one_touch_per_uid")
        ]

    def __str__(self) -> str:
        return self.uid


class MaskStroke(models.Model):
    """One stroke painted on a pass's mask; ``position`` counts them from 0."""

    owner_pass = models.ForeignKey(Pass, on_delete=models.CASCADE, related_name="strokes")
    position = models.IntegerField()
    data = models.JSONField()

    class Meta:
        ordering = ["position"]
        constraints = [
            models.UniqueConstraint(fields=["owner_pass", "position"], name="one_stroke_per_place")
        ]

    def __str__(self) -> str:
        return f"stroke {self.position}"


class Take(models.Model):
    """A named state of a portrait: its whole edit (docs/formats/edit.schema.json)."""

    id = models.CharField(primary_key=True, max_length=32, default=new_id, editable=False)
    portrait = models.ForeignKey(Portrait, on_delete=models.CASCADE, related_name="takes")
    name = models.CharField(max_length=200)
    edit = models.JSONField()
    # The step of the history at which it was kept; none for takes of before this was written down.
    step = models.IntegerField(null=True)
    created_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["created_at", "id"]

    def __str__(self) -> str:
        return self.name


class HistoryEntry(models.Model):
    """One gesture: what it was called, what it changed (see retouch.work.changes), and where.

    ``region`` is the rectangle x0, y0, x1, y1 of the pixels it changed; empty if none.
    """

    portrait = models.ForeignKey(Portrait, on_delete=models.CASCADE, related_name="history")
    number = models.IntegerField()
    label = models.CharField(max_length=200)
    changes = models.JSONField()
    region = models.JSONField(default=list)
    # What a gesture that goes on with this one may be joined with; empty: nothing.
    joins = models.CharField(max_length=200, blank=True, default="")
    created_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["number"]
        constraints = [
            models.UniqueConstraint(fields=["portrait", "number"], name="one_entry_per_number")
        ]

    def __str__(self) -> str:
        return self.label


class ColourProfile(models.Model):
    """A user's own ICC profile: of a printer, for looking at, or one to deliver in."""

    id = models.CharField(primary_key=True, max_length=32, default=new_id, editable=False)
    owner = models.ForeignKey(
        settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="profiles"
    )
    title = models.CharField(max_length=120)
    space = models.CharField(max_length=8)
    icc = models.BinaryField()
    created_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["created_at", "id"]

    def __str__(self) -> str:
        return self.title


class Job(models.Model):
    """Long work: an analysis or a delivery, with where it stands (see services.jobs).

    ``data`` says all that is needed to begin it anew; ``key`` names an analysis among those of its
    portrait.
    """

    id = models.CharField(primary_key=True, max_length=32, default=new_id, editable=False)
    kind = models.CharField(max_length=16)
    key = models.CharField(max_length=64, blank=True, default="")
    owner = models.ForeignKey(
        settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="jobs"
    )
    portrait = models.ForeignKey(Portrait, on_delete=models.CASCADE, related_name="jobs", null=True)
    state = models.CharField(max_length=16, default="waiting")
    progress = models.FloatField(default=0.0)
    message = models.CharField(max_length=500, blank=True, default="")
    tries = models.IntegerField(default=0)
    data = models.JSONField(default=dict)
    created_at = models.DateTimeField(auto_now_add=True)
    changed_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["created_at", "id"]
        indexes = [models.Index(fields=["kind", "state"], name="jobs_by_state")]

    def __str__(self) -> str:
        return f"{self.kind} {self.state}"
