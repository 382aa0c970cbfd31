"""Masks made of areas, strokes as rows of their own, takes, stages switched off."""

from typing import Any

import django.db.models.deletion
from django.db import migrations, models

import studio.portraits.models


def _areas(old: dict[str, Any]) -> dict[str, Any]:
    """A mask of one kind as a mask of areas, without its strokes."""
    if "kind" not in old:
        return {k: v for k, v in old.items() if k != "strokes"}
    areas = []
    if old["kind"] == "outline":
        feather = old.get("feather_px", 0)
        areas = [{"kind": "outline", "points": old["points"], "feather_px": feather}]
    return {"areas": areas, "invert": old.get("invert", False), "grow_px": 0, "feather_px": 0}


def _strokes_of(state: dict[str, Any] | None) -> list[dict[str, Any]]:
    return list(state["mask"].get("strokes", [])) if state else []


def _converted(changes: list[dict[str, Any]]) -> list[dict[str, Any]]:
    """Changes of passes with their strokes as changes of their own."""
    out = []
    for change in changes:
        if change["what"] != "pass":
            out.append(change)
            continue
        before, after = _strokes_of(change["before"]), _strokes_of(change["after"])
        states = {
            k: {**change[k], "mask": _areas(change[k]["mask"])} if change[k] else None
            for k in ("before", "after")
        }
        same = 0
        while same < min(len(before), len(after)) and before[same] == after[same]:
            same += 1
        strokes = {
            "what": "strokes",
            "id": change["id"],
            "pass_id": change["pass_id"],
            "index": same,
            "before": before[same:],
            "after": after[same:],
        }
        changed = strokes["before"] != strokes["after"]
        if changed and change["after"] is None:
            out.append(strokes)
        out.append({**change, **states})
        if changed and change["after"] is not None:
            out.append(strokes)
    return out


def convert(apps: Any, schema_editor: Any) -> None:
    passes = apps.get_model("portraits", "Pass")
    strokes = apps.get_model("portraits", "MaskStroke")
    for row in passes.objects.all():
        painted = row.mask.get("strokes", [])
        strokes.objects.bulk_create(
            strokes(owner_pass=row, position=n, data=s) for n, s in enumerate(painted)
        )
        row.mask = _areas(row.mask) if row.mask else {}
        row.save(update_fields=["mask"])
    for entry in apps.get_model("portraits", "HistoryEntry").objects.all():
        entry.changes = _converted(entry.changes)
        entry.save(update_fields=["changes"])


class Migration(migrations.Migration):
    dependencies = [("portraits", "0003_spare_enabled")]

    operations = [
        migrations.AddField("pass", "stage_on", models.BooleanField(default=True)),
        migrations.AddField("historyentry", "region", models.JSONField(default=list)),
        migrations.CreateModel(
            "MaskStroke",
            [
                ("id", models.BigAutoField(
                    auto_created=True, primary_key=True, serialize=False, verbose_name="ID",
                )),
                ("position", models.IntegerField()),
                ("data", models.JSONField()),
                (
                    "owner_pass",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE,
                        related_name="strokes",
                        to="portraits.pass",
                    ),
                ),
            ],
            options={"ordering": ["position"]},
        ),
        migrations.AddConstraint(
            "maskstroke",
            models.UniqueConstraint(fields=("owner_pass", "position"), name="one_stroke_per_place"),
        ),
        migrations.CreateModel(
            "Take",
            [
                (
                    "id",
                    models.CharField(
                        primary_key=True,
                        max_length=32,
                        default=studio.portraits.models.new_id,
                        editable=False,
                        serialize=False,
                    ),
                ),
                ("name", models.CharField(max_length=200)),
                ("edit", models.JSONField()),
                ("created_at", models.DateTimeField(auto_now_add=True)),
                (
                    "portrait",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE,
                        related_name="takes",
                        to="portraits.portrait",
                    ),
                ),
            ],
            options={"ordering": ["created_at", "id"]},
        ),
        migrations.RunPython(convert, migrations.RunPython.noop),
    ]
