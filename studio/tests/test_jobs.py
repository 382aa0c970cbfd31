"""Long work is kept in the database: it goes on after a restart, or says what became of it."""

from __future__ import annotations

from unittest.mock import patch

from retouch.edit import Edit
from retouch.forms.form import to_data
from studio.portraits.models import Job
from studio.portraits.services import analysing, delivering, jobs
from studio.tests.base import StudioTest

OUTPUT = {
    "format": "png",
    "quality": 95,
    "subsampling": "4:4:4",
    "bits": None,
    "keep_metadata": True,
}


class Restarts(StudioTest):
    def delivery(self, **more: object) -> Job:
        """A delivery as a process that was killed leaves it."""
        one = self.take_in()
        data = {"edit": to_data(Edit()), "output": OUTPUT, "long_side": None, "srgb": False,
                "file_name": "face retouched.png"}  # fmt: skip
        return Job.objects.create(
            kind="delivery",
            owner=self.user,
            portrait=one,
            data=data,
            **{"state": "working", **more},
        )

    def test_a_delivery_goes_on(self) -> None:
        job = self.delivery(tries=1)
        self.assertEqual(jobs.resume(), 1)
        done = delivering.wait(self.user, job.pk, 30)
        self.assertEqual((done.state, done.message), ("done", ""))
        answer = self.client.get(f"/api/deliveries/{job.pk}/file")
        self.assertEqual(answer.status_code, 200)
        b"".join(answer.streaming_content)

    def test_one_that_is_cut_short_again_and_again_is_left(self) -> None:
        job = self.delivery(tries=3)
        jobs.resume()
        told = self.client.get(f"/api/deliveries/{job.pk}").json()
        self.assertEqual(told["state"], "failed")
        self.assertIn("cut short several times", told["message"])

    def test_an_analysis_goes_on(self) -> None:
        one = self.take_in()
        analysing.status(one)
        analysing.stop()  # as a restart does
        self.assertTrue(Job.objects.filter(kind="analysis", state__in=jobs.OPEN).exists())
        self.assertEqual(jobs.resume(), 1)
        self.assertIsNotNone(analysing.waited_for(one, Edit(), 120))
        self.wait_until(lambda: not Job.objects.filter(state__in=jobs.OPEN).exists())

    def test_a_portrait_that_kills_its_worker_stays_failed_over_a_restart(self) -> None:
        one = self.take_in()
        analysing.status(one)
        analysing.stop()
        Job.objects.filter(kind="analysis").update(tries=2, state="working")
        jobs.resume()
        self.assertEqual(analysing.status(one).state, "failed")
        # … until somebody asks for it again.
        analysing.again(one)
        self.assertIsNotNone(analysing.waited_for(one, Edit(), 120))

    def test_other_people_have_no_part_in_it(self) -> None:
        job = self.delivery()
        self.client.force_login(self.other)
        for call in (self.client.get, self.client.delete):
            self.assertEqual(call(f"/api/deliveries/{job.pk}").status_code, 404)


class Errors(StudioTest):
    def test_what_goes_wrong_in_the_background_is_logged_and_told(self) -> None:
        one = self.take_in()
        with (
            patch.object(delivering, "render_whole", side_effect=ZeroDivisionError("unforeseen")),
            self.assertLogs("studio.portraits.services.delivering", "ERROR") as logs,
        ):
            answer = self.send("POST", f"/portraits/{one.id}/deliveries", {"format": "png"})
            done = delivering.wait(self.user, answer.json()["id"], 30)
        self.assertEqual(done.state, "failed")
        self.assertIn("Try again", done.message)
        self.assertIn("unforeseen", "".join(logs.output))

    def test_ended_jobs_are_forgotten_in_time(self) -> None:
        one = self.take_in()
        for _ in range(jobs._MOST_ENDED + 5):
            Job.objects.create(kind="delivery", owner=self.user, portrait=one, state="done")
        jobs.tidy("delivery", self.user.pk)
        self.assertEqual(Job.objects.filter(kind="delivery").count(), jobs._MOST_ENDED)
