"""Routines of one's own, and runs of a routine over many portraits, as rows."""

from __future__ import annotations

from django.conf import settings
from django.db import models

from studio.portraits.models import Portrait, new_id


class OwnRoutine(models.Model):
    """A routine that a user keeps; ``data`` is its file (docs/formats/routine.schema.json)."""

    id = models.CharField(primary_key=True, max_length=32, default=new_id, editable=False)
    owner = models.ForeignKey(
        settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="routines"
    )
    title = models.CharField(max_length=80)
    data = models.JSONField()
    created_at = models.DateTimeField(auto_now_add=True)
    changed_at = models.DateTimeField(auto_now=True)
    deleted_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["title", "id"]

    def __str__(self) -> str:
        return self.title


class Run(models.Model):
    """A routine over many portraits; ``position`` orders those that wait."""

    id = models.CharField(primary_key=True, max_length=32, default=new_id, editable=False)
    owner = models.ForeignKey(
        settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="runs"
    )
    title = models.CharField(max_length=120)
    routine = models.JSONField()
    strength = models.FloatField(default=100.0)
    spots_from = models.FloatField(null=True)
    state = models.CharField(max_length=16, default="going")
    position = models.IntegerField(default=0)
    created_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-created_at", "id"]
        indexes = [models.Index(fields=["state", "position"], name="runs_to_do")]

    def __str__(self) -> str:
        return self.title


class RunItem(models.Model):
    """One portrait of a run.

    ``entry`` is the step of the portrait's history that the run made; 0: none; ``bound`` is the set of its passes. ``review`` is what the user
    said about the result; ``worry`` sorts what needs eyes first.
    """

    run = models.ForeignKey(Run, on_delete=models.CASCADE, related_name="items")
    portrait = models.ForeignKey(Portrait, on_delete=models.CASCADE, related_name="run_items")
    number = models.IntegerField()
    state = models.CharField(max_length=16, default="waiting")
    message = models.CharField(max_length=500, blank=True, default="")
    tries = models.IntegerField(default=0)
    revision = models.IntegerField(default=0)
    entry = models.IntegerField(default=0)
    bound = models.CharField(max_length=64, blank=True, default="")
    note = models.CharField(max_length=500, blank=True, default="")
    faces = models.IntegerField(default=0)
    asked = models.IntegerField(default=0)
    healed = models.IntegerField(default=0)
    texture = models.FloatField(null=True)
    colour = models.FloatField(null=True)
    # What the natural check tells beyond its limits, in words.
    beyond = models.JSONField(default=list)
    worry = models.FloatField(default=0.0)
    seconds = models.FloatField(default=0.0)
    review = models.CharField(max_length=16, default="open")
    changed_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["number"]
        constraints = [
            models.UniqueConstraint(fields=["run", "portrait"], name="each_portrait_once_in_a_run")
        ]
        indexes = [
            models.Index(fields=["run", "state"], name="items_by_state"),
            models.Index(fields=["run", "-worry"], name="items_by_worry"),
        ]

    def __str__(self) -> str:
        return f"{self.number}: {self.state}"
