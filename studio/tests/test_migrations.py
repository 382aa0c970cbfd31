"""Portraits kept by an earlier version open as they were."""

from __future__ import annotations

from importlib import import_module

from django.apps import apps

from retouch.edit.mask import OutlineArea
from studio.portraits.models import HistoryEntry, MaskStroke, Pass
from studio.portraits.services import desk
from studio.tests.base import StudioTest

STROKE = {"path": [[9, 9]], "radius_px": 5, "softness": 50, "flow": 100, "reveal": False}


class MasksOfOneKind(StudioTest):
    """Masks were "everything" or one outline, with their strokes inside."""

    def test_masks_and_history_become_areas_and_strokes(self) -> None:
        one = self.take_in()
        points = [[10, 10], [90, 10], [90, 90]]
        clip = {"kind": "outline", "points": points, "feather_px": 3, "invert": True}
        first = {"kind": "everything", "invert": False}
        head = {
            "id": "p", "kind": "light", "name": "Light", "strength": 100, "blend": "normal",
            "enabled": True, "settings": {"exposure_ev": 1},
        }  # fmt: skip
        Pass.objects.create(
            portrait=one, uid="p", position=0, kind="light", name="Light",
            settings={"exposure_ev": 1}, mask={**clip, "strokes": [STROKE]},
        )  # fmt: skip
        steps = [
            (None, {**head, "mask": first}),
            ({**head, "mask": first}, {**head, "mask": {**first, "strokes": [STROKE]}}),
            (
                {**head, "mask": {**first, "strokes": [STROKE]}},
                {**head, "mask": {**clip, "strokes": [STROKE]}},
            ),
        ]
        for n, (before, after) in enumerate(steps):
            change = {"what": "pass", "id": "p", "pass_id": "p", "index": 0}
            HistoryEntry.objects.create(
                portrait=one, number=n + 1, label=str(n),
                changes=[{**change, "before": before, "after": after}],
            )  # fmt: skip
        one.history_at = one.revision = 3
        one.save()
        import_module("studio.portraits.migrations.0004_masks_takes").convert(apps, None)

        desk.forget_all()
        mask = desk.edit_of(one).passes[0].mask
        self.assertTrue(mask.invert)
        shape = mask.areas[0]
        assert isinstance(shape, OutlineArea)
        self.assertEqual((len(shape.points), shape.feather_px), (3, 3.0))
        self.assertEqual(len(mask.strokes), 1)
        for revision, to, want in ((3, 2, (0, 1)), (4, 1, (0, 0)), (5, 0, None), (6, 3, (1, 1))):
            answer = self.step(one.id, revision, to)
            self.assertEqual(answer.status_code, 200, answer.content)
            passes = self.desk(one.id)["passes"]
            got = (len(passes[0]["mask"]["areas"]), passes[0]["strokes"]) if passes else None
            self.assertEqual(got, want)
        self.assertEqual(MaskStroke.objects.count(), 1)
