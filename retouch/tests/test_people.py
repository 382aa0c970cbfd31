"""One person on several pictures: told by the form of the face; marks matched by their place and their pixels."""

import unittest
from dataclasses import replace

import numpy as np

from benchmarks.faces import understand
from benchmarks.people import found_at, framings, permanent
from benchmarks.scoring import DEMO
from retouch.edit import Edit
from retouch.face.people import SAME_MM, Form, alike, carried, form_of, groups, likeness, matched
from retouch.picture import Pyramid, read
from retouch.work import perform
from retouch.work.bench import bench_for
from retouch.work.marks import decided
from retouch.work.operations import AddTouches, NewTouch
from retouch.work.travelling import known_faces, known_of, seen_elsewhere, with_decisions


class People(unittest.TestCase):
    def test_a_face_moved_turned_and_resized_is_the_same_form(self) -> None:
        face = form_of(understand("ana").analysis.faces[0])
        turn = np.array([[0.96, -0.28, 0.0], [0.28, 0.96, 0.0], [0.0, 0.0, 1.0]])
        moved = Form(
            (face.points @ turn * 0.4 + (90, 30, 5)).astype(np.float32), face.px_per_mm * 0.4
        )
        self.assertLess(likeness(face, moved), 0.01)
        # A nose wider by 4 mm is another form, but less than another person's.
        wider = face.points.copy()
        wider[face.points[:, 0] > np.median(face.points[:, 0])] += (2 * face.px_per_mm, 0, 0)
        self.assertGreater(likeness(face, Form(wider, face.px_per_mm)), 0.3)

    def test_who_is_who_in_a_session(self) -> None:
        faces, who = [], []
        for name in ("ana", "dan", "eli"):
            both = framings(name)
            for n, analysis in enumerate((both.first, both.second)):
                faces.append((f"{name} {n}", form_of(analysis.faces[0]), analysis.marks[0]))
                who.append(name)
        found = groups(faces)
        self.assertEqual(
            [sorted(who[i] for i in g) for g in found], [["ana"] * 2, ["dan"] * 2, ["eli"] * 2]
        )
        self.assertFalse(alike(*faces[0][1:], *faces[2][1:]))
        # With closed eyes the form is another one; the marks tell.
        open_, closed = (understand(n).analysis for n in ("dan", "dan-blink"))
        a, b = form_of(open_.faces[0]), form_of(closed.faces[0])
        self.assertGreater(likeness(a, b), SAME_MM)
        self.assertTrue(alike(a, open_.marks[0], b, closed.marks[0]))
        self.assertFalse(alike(a, (), b, ()))
        # Nobody is twice in one picture, however alike.
        twins = groups([("one", *faces[0][1:]), ("one", *faces[0][1:])])
        self.assertEqual(len(twins), 2)
        self.assertLess(likeness(faces[0][1], faces[1][1]), SAME_MM)


class Marks(unittest.TestCase):
    def test_places_are_carried_to_another_framing(self) -> None:
        both = framings("dan")
        here, there = form_of(both.first.faces[0]), form_of(both.second.faces[0])
        places = np.array([(m.x, m.y) for m in both.first.marks[0]])
        off = np.hypot(*(carried(places, here, there) - both.there(places)).T) / there.px_per_mm
        self.assertLess(float(np.median(off)), 1.0)

    def test_permanent_marks_are_matched(self) -> None:
        seen = right = wrong = 0
        for name in ("bela", "chi", "eli"):
            both = framings(name)
            here, there = form_of(both.first.faces[0]), form_of(both.second.faces[0])
            pairs = {
                i: j for i, j, _ in matched(both.first.marks[0], here, both.second.marks[0], there)
            }
            self.assertEqual(len(set(pairs.values())), len(pairs))
            for place in permanent(name):
                i = found_at(both.first.marks[0], place, here.px_per_mm)
                j = found_at(both.second.marks[0], both.there(place[None])[0], there.px_per_mm)
                if i is not None and j is not None:
                    seen += 1
                    right += pairs.get(i) == j
                    wrong += i in pairs and pairs[i] != j
        self.assertGreaterEqual(seen, 6)
        self.assertGreaterEqual(right / seen, 0.85)
        self.assertLessEqual(wrong, 1)

    def test_decisions_travel_but_never_over_what_was_decided_here(self) -> None:
        both = framings("eli")
        pyramid = Pyramid(read(DEMO / "portraits" / "eli.jpg"))
        bench = bench_for(pyramid, both.first)
        pairs = matched(both.first.marks[0], form_of(both.first.faces[0]), both.second.marks[0], form_of(both.second.faces[0]))  # fmt: skip
        (i, _, _), (k, _, _) = pairs[:2]
        there = [both.second.marks[0][j] for _, j, _ in pairs[:2]]
        other = Edit()
        touches = tuple(
            NewTouch(((m.x, m.y),), values={"decision": d, "radius_px": m.radius})
            for m, d in zip(there, ("keep", "clear"), strict=True)
        )
        other = perform(other, AddTouches("marks", touches), bench_for(pyramid, both.second)).edit
        known = [known_of(f.to_data()) for f in known_faces(both.second, other)]
        told = {s.id: s for s in seen_elsewhere(both.first, Edit(), known)}
        self.assertEqual(
            (told[f"0-{i}"].decision, told[f"0-{i}"].seen_on, told[f"0-{i}"].of), ("keep", 1, 1)
        )
        self.assertEqual(told[f"0-{k}"].decision, "clear")
        edit, count = with_decisions(Edit(), bench, known)
        self.assertEqual(count, 2)
        now = {d.id: d.decision for d in decided(both.first, edit)}
        self.assertEqual((now[f"0-{i}"], now[f"0-{k}"]), ("keep", "clear"))
        # Decided here already: it stays, and nothing is decided twice.
        self.assertEqual(with_decisions(edit, bench, known)[1], 0)
        # Somebody else's marks say nothing.
        strangers = known_faces(understand("dan").analysis, Edit())
        self.assertEqual({s.of for s in seen_elsewhere(both.first, Edit(), strangers)}, {0})
        # Unless the user says that it is the same person.
        said = [replace(k, said=True) for k in strangers]
        self.assertEqual({s.of for s in seen_elsewhere(both.first, Edit(), said)}, {1})
        self.assertTrue(known_of(said[0].to_data()).said)
