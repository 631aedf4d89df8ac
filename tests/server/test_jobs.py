"""Jobs: done by a worker, told of while they are done, ended, kept, and begun anew after a kill."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
import time
from collections.abc import Callable
from contextlib import suppress
from datetime import timedelta
from pathlib import Path
from typing import Any
from unittest import mock

from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import connection
from django.http import Http404
from django.test import TransactionTestCase
from django.utils import timezone

from hame.errors import BadEdit
from server.jobs import store, tasks
from server.jobs.kinds import KINDS, Asked, Progress, Result, job
from server.jobs.models import Job, State
from server.productions.models import Membership
from tests.hame.examples import BRANNOC
from tests.server.base import ServerTest, furnish

ROOT = Path(__file__).parents[2]


def do(number: int) -> Job:
    """Has a job done here and now, as a worker does it."""
    tasks.run_job.func(number)
    return Job.objects.get(pk=number)


class JobTest(ServerTest):
    def made_up(self, work: Callable[[Asked, Progress], Result]) -> str:
        """A kind of job for the time of a test."""
        job("made up")(work)
        self.addCleanup(KINDS.pop, "made up")
        return "made up"

    def ask(self, work: Callable[[Asked, Progress], Result], **told: Any) -> Job:
        return store.ask_for(self.isla, self.made_up(work), "Something long", told)

    def test_a_job_says_how_far_it_is_and_its_result_is_kept(self) -> None:
        seen: list[tuple[float, str]] = []

        def work(asked: Asked, progress: Progress) -> Result:
            progress(0.4, "half of the way")
            seen.append(Job.objects.values_list("share", "said").get())
            return Result(b"a lamp", "lamp.txt", "text/plain", {"length": asked.told["length"]})

        made = self.ask(work, length=3)
        self.assertEqual(self.get(f"/jobs/{made.pk}").json()["state"], "waiting")
        do(made.pk)
        self.assertEqual(seen, [(0.4, "half of the way")])
        told = self.get(f"/jobs/{made.pk}").json()
        self.assertEqual((told["state"], told["share"], told["outcome"]), ("done", 1.0, {"length": 3}))
        answer = self.client.get(f"/api/jobs/{made.pk}/file")
        self.assertEqual(b"".join(answer), b"a lamp")  # type: ignore[arg-type]
        self.assertIn('filename="lamp.txt"', answer.headers["Content-Disposition"])
        self.assertEqual(do(made.pk).tries, 1, "what is done is not done again")

    def test_what_goes_wrong_is_told_in_words_and_nothing_of_the_inside(self) -> None:
        for error, words in (
            (BadEdit("there are no keys there"), "there are no keys there"),
            (Http404(), "what it was about is not there any more"),
            (RuntimeError("secret"), "it could not be done; what was stored is kept. Try again"),
        ):
            made = store.ask_for(self.isla, self.made_up(mock.Mock(side_effect=error)), "Something", {})
            with mock.patch.object(tasks._log, "exception"):
                self.assertEqual((do(made.pk).state, do(made.pk).said), (State.FAILED, words))
            KINDS.pop("made up")
            KINDS["made up"] = mock.Mock()
            self.doCleanups()

    def test_one_that_waits_is_cancelled_at_once_and_one_that_works_at_its_next_word(self) -> None:
        after: list[str] = []

        def work(asked: Asked, progress: Progress) -> Result:
            self.post(f"/jobs/{Job.objects.get().pk}/cancel", {})
            progress(0.5)
            after.append("it went on")
            return Result()

        made = self.ask(work)
        self.assertEqual((do(made.pk).state, after), (State.CANCELLED, []))
        waiting = store.ask_for(self.isla, "made up", "Another", {})
        self.assertEqual(self.post(f"/jobs/{waiting.pk}/cancel", {}).json()["state"], "cancelled")
        self.assertEqual((do(waiting.pk).state, after), (State.CANCELLED, []))

    def test_nobody_sees_or_ends_what_is_not_theirs(self) -> None:
        made = self.ask(lambda asked, progress: Result(b"a lamp", "lamp.txt"))
        do(made.pk)
        self.client.force_login(self.maud)
        self.assertEqual(self.get("/jobs").json(), [])
        for way in ("get", "delete"):
            self.assertEqual(getattr(self.client, way)(f"/api/jobs/{made.pk}").status_code, 404)
        self.assertEqual(self.client.get(f"/api/jobs/{made.pk}/file").status_code, 404)
        self.assertEqual(self.post(f"/jobs/{made.pk}/cancel", {}).status_code, 404)
        self.assertTrue(Job.objects.filter(pk=made.pk).exists())

    def test_jobs_of_one_person_are_bounded_and_the_oldest_results_go(self) -> None:
        kind = self.made_up(lambda asked, progress: Result(b"x", "x"))
        with mock.patch.object(store, "KEPT", 3):
            files = []
            for _ in range(5):
                made = do(store.ask_for(self.isla, kind, "Something", {}).pk)
                files.append(made.result.path)
        self.assertEqual(Job.objects.count(), 3)
        self.assertEqual([Path(path).exists() for path in files], [False, False, True, True, True])
        for _ in range(store.MOST_AT_ONCE):
            store.ask_for(self.isla, kind, "Something", {})
        with self.assertRaisesRegex(BadEdit, "not done yet"):
            store.ask_for(self.isla, kind, "Something", {})
        store.ask_for(self.maud, kind, "Something", {})

    def test_one_whose_worker_was_killed_is_begun_anew_and_given_up_in_the_end(self) -> None:
        made = self.ask(lambda asked, progress: Result())

        def silent(ago: timedelta) -> None:
            Job.objects.update(state=State.RUNNING, beat_at=timezone.now() - ago, tries=Job.objects.get().tries + 1)

        silent(timedelta(seconds=3))
        self.assertEqual((store.recover(), Job.objects.get().state), (0, State.RUNNING))
        for state in (State.WAITING, State.FAILED):
            silent(store.SILENT * 2)
            self.assertEqual((store.recover(), Job.objects.get().state), (1, state))
        self.assertIn("went away 3 times", Job.objects.get(pk=made.pk).said)

    def test_what_a_job_leaves_is_written_once_with_its_end_and_not_for_one_that_was_cancelled(self) -> None:
        def work(asked: Asked, progress: Progress) -> Result:
            if asked.told["end"] == "cancelled":
                self.post(f"/jobs/{Job.objects.latest('id').pk}/cancel", {})

            def keep() -> dict[str, Any]:
                type(self.production).objects.update(name="Left by a job")
                if asked.told["end"] == "killed":
                    raise KeyboardInterrupt
                return {"kept": True}

            return Result(keep=keep)

        kind = self.made_up(work)

        def ended(how: str) -> Job:
            made = store.ask_for(self.isla, kind, how, {"end": how}, b"a large file")
            with suppress(KeyboardInterrupt):
                return do(made.pk)
            return Job.objects.get(pk=made.pk)

        for how in ("cancelled", "killed"):
            self.assertNotEqual(ended(how).state, State.DONE)
            self.production.refresh_from_db()
            self.assertEqual(self.production.name, "Skerry Light", how)
        done = ended("done")
        self.production.refresh_from_db()
        self.assertEqual(
            (done.state, done.outcome, self.production.name), (State.DONE, {"kept": True}, "Left by a job")
        )
        self.assertFalse(done.given, "what it was given is of no more use")

    def test_who_was_begun_anew_elsewhere_ends_nothing(self) -> None:
        def work(asked: Asked, progress: Progress) -> Result:
            Job.objects.update(tries=2)  # another worker has it by now
            return Result(b"late", "late")

        self.assertEqual(do(self.ask(work).pk).state, State.RUNNING)

    # The first users

    def test_a_hand_off_is_the_same_file_as_without_a_job(self) -> None:
        self.pose(1, head__ry=0.1)
        self.pose(20, head__ry=0.6)
        given = {"casting": [self.casting.pk], "first": 1, "last": 30, "suffix": "glb"}
        asked = self.post(f"/takes/{self.take.pk}/handoffs", given)
        self.assertEqual((asked.status_code, asked.json()["state"]), (200, "waiting"))
        do(asked.json()["id"])
        path = f"/api/takes/{self.take.pk}/handoff.glb?casting={self.casting.pk}&first=1&last=30"
        here = self.client.get(path)
        away = self.client.get(f"/api/jobs/{asked.json()['id']}/file")
        self.assertEqual(b"".join(away), here.content)  # type: ignore[arg-type]
        self.assertEqual(away.headers["Content-Disposition"], here.headers["Content-Disposition"])
        self.assertEqual(away.headers["Content-Type"], "model/gltf-binary")

    def test_a_hand_off_that_cannot_be_is_refused_before_it_is_a_job(self) -> None:
        for change, words in (({"casting": []}, "nobody"), ({"last": 60_000}, "5000 frames"),
                              ({"suffix": "xyz"}, "these are: .glb")):  # fmt: skip
            given = {"casting": [self.casting.pk], "first": 1, "last": 30, "suffix": "glb", **change}
            answer = self.post(f"/takes/{self.take.pk}/handoffs", given)
            self.assertEqual(answer.status_code, 422)
            self.assertIn(words, answer.json()["message"])
        self.assertEqual(Job.objects.count(), 0)

    def test_who_is_taken_out_of_the_production_meanwhile_gets_nothing(self) -> None:
        given = {"casting": [self.casting.pk], "first": 1, "last": 30, "suffix": "glb"}
        asked = self.post(f"/takes/{self.take.pk}/handoffs", given).json()["id"]
        Membership.objects.filter(user=self.isla).delete()
        done = do(asked)
        self.assertEqual((done.state, bool(done.result)), (State.FAILED, False))

    def test_a_file_is_brought_in_as_a_job(self) -> None:
        path = f"/api/productions/{self.production.pk}/characters/jobs"
        file = SimpleUploadedFile("Second keeper.glb", BRANNOC.read_bytes())
        asked = self.client.post(path, {"file": file, "name": "", "prop": "false"}).json()
        done = do(asked["id"])
        self.assertEqual(done.state, State.DONE, done.said)
        found = self.get(f"/characters/{done.outcome['character']}").json()
        self.assertEqual(found["name"], "Second keeper")
        bad = SimpleUploadedFile("rock.glb", b"no glb at all")
        done = do(self.client.post(path, {"file": bad, "name": "", "prop": "false"}).json()["id"])
        self.assertEqual(done.state, State.FAILED)
        self.assertIn("glTF", done.said)


class WorkerTest(TransactionTestCase):
    """A worker process as ``./start`` begins it."""

    take: Any
    casting: Any
    isla: Any

    def setUp(self) -> None:
        furnish(self)
        self.workers: list[subprocess.Popen[bytes]] = []
        self.addCleanup(self.end)

    def begin(self) -> subprocess.Popen[bytes]:
        env = {**os.environ, "HAME_DB_NAME": connection.settings_dict["NAME"]}
        worker = subprocess.Popen([sys.executable, "manage.py", "work", "--skip-checks"], cwd=ROOT, env=env)
        self.workers.append(worker)
        return worker

    def end(self) -> None:
        for worker in self.workers:
            worker.kill()
            worker.wait()

    def until(self, number: int, *states: str) -> Job:
        for _ in range(600):
            now = Job.objects.get(pk=number)
            if now.state in states:
                return now
            time.sleep(0.1)
        raise AssertionError(f"the job is {now.state} still: {now.said}")

    def test_what_a_killed_worker_left_is_done_by_the_next_one(self) -> None:
        told = {"casting": [self.casting.pk], "first": 1, "last": 4800, "suffix": "glb"}
        asked = store.ask_for(self.isla, "hand-off", "A long one", {"take": self.take.pk, "given": told})
        first = self.begin()
        self.until(asked.pk, State.RUNNING)
        first.send_signal(signal.SIGKILL)
        first.wait()
        self.assertEqual(Job.objects.get(pk=asked.pk).state, State.RUNNING)
        Job.objects.update(beat_at=timezone.now() - 2 * store.SILENT)  # it has been silent for long
        self.begin()
        done = self.until(asked.pk, State.DONE, State.FAILED)
        self.assertEqual((done.state, done.tries), (State.DONE, 2), done.said)
        self.assertGreater(done.result.size, 1_000_000)
