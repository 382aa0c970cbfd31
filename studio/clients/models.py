"""Links for clients, the portraits behind them, and pins, as rows."""

from __future__ import annotations

from django.conf import settings
from django.db import models

from studio.portraits.models import Portrait, new_id


class ClientLink(models.Model):
    """A page that whoever has its address may open.

    The address holds a token of which only the SHA-256 is kept, and so is a pass phrase as a password is
    (empty: none is asked for). ``long_side`` is what the pictures have at most, in pixels; ``compare``: the
    originals may be seen, too, as large. ``watermark`` is written over all of them.
    """

    id = models.CharField(primary_key=True, max_length=32, default=new_id, editable=False)
    owner = models.ForeignKey(
        settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="client_links"
    )
    title = models.CharField(max_length=120)
    token_sha256 = models.CharField(max_length=64, unique=True)
    phrase = models.CharField(max_length=200, blank=True, default="")
    compare = models.BooleanField(default=True)
    watermark = models.CharField(max_length=80, blank=True, default="")
    long_side = models.IntegerField(default=2048)
    created_at = models.DateTimeField(auto_now_add=True)
    expires_at = models.DateTimeField()
    withdrawn_at = models.DateTimeField(null=True, blank=True)
    opened = models.IntegerField(default=0)
    opened_at = models.DateTimeField(null=True, blank=True)
    # When the client said that they are through; and by which name they signed off.
    answered_at = models.DateTimeField(null=True, blank=True)
    signed_by = models.CharField(max_length=120, blank=True, default="")

    class Meta:
        ordering = ["-created_at", "id"]

    def __str__(self) -> str:
        return self.title


class ShownPortrait(models.Model):
    """A portrait behind a link, as it was when it was shown: its whole edit (docs/formats/edit.schema.json).

    ``version`` counts how often it was shown anew; ``width`` and ``height`` are of the picture that is sent.
    ``nodes``: where a grid of places on that picture lies in the original (services.places).
    """

    link = models.ForeignKey(ClientLink, on_delete=models.CASCADE, related_name="shown")
    portrait = models.ForeignKey(Portrait, on_delete=models.CASCADE, related_name="shown")
    number = models.IntegerField()
    edit = models.JSONField()
    version = models.IntegerField(default=1)
    state = models.CharField(max_length=16, default="waiting")
    message = models.CharField(max_length=300, blank=True, default="")
    width = models.IntegerField(default=0)
    height = models.IntegerField(default=0)
    nodes = models.JSONField(default=list)
    # What the client says: "fine", "change", or nothing yet.
    verdict = models.CharField(max_length=8, blank=True, default="")

    class Meta:
        ordering = ["number"]
        constraints = [
            models.UniqueConstraint(fields=["link", "number"], name="one_shown_per_number"),
            models.UniqueConstraint(
                fields=["link", "portrait"], name="each_portrait_once_in_a_link"
            ),
        ]

    def __str__(self) -> str:
        return f"{self.number}"


class Pin(models.Model):
    """A wish at a place, in pixels of the original; ``u``, ``v`` is that place on the picture that is shown, as
    parts of its width and height. ``kind``: keep (as it is) or change.

    ``heeded``: the place was marked as kept on the bench; ``seen_at``, ``done_at``: by the retoucher.
    """

    id = models.CharField(primary_key=True, max_length=32, default=new_id, editable=False)
    shown = models.ForeignKey(ShownPortrait, on_delete=models.CASCADE, related_name="pins")
    kind = models.CharField(max_length=8)
    words = models.CharField(max_length=500, blank=True, default="")
    x_px = models.FloatField()
    y_px = models.FloatField()
    u = models.FloatField()
    v = models.FloatField()
    heeded = models.BooleanField(default=False)
    created_at = models.DateTimeField(auto_now_add=True)
    seen_at = models.DateTimeField(null=True, blank=True)
    done_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["created_at", "id"]

    def __str__(self) -> str:
        return self.words or self.kind
