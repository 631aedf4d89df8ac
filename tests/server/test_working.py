"""Work in a process of its own: answers, refusals, an end when it takes too long, and nobody locked out meanwhile."""

from __future__ import annotations

import os
import pickle
import threading
import time
import unittest
from collections.abc import Iterator
from typing import Any
from unittest import mock

from django.db import connection
from django.test import TransactionTestCase

from hame.errors import BadEdit, HameError, ShownAgain
from server import working
from server.shots import ahead, answers, api_handoff, store
from server.shots.models import Edit, Take
from server.working import Worker
from tests.server.base import ServerTest, furnish


def refused() -> None:
    raise BadEdit("there is nothing to do here")


def shown_again() -> None:
    raise ShownAgain("frame 16 shows frame 4 mirrored", 4, 1)


def _below(kind: type[HameError]) -> Iterator[type[HameError]]:
    yield kind
    for one in kind.__subclasses__():
        yield from _below(one)


def forget_all() -> None:
    store.forget()
    answers.forget()


def gone() -> None:
    os._exit(3)


class WorkerTest(unittest.TestCase):
    def setUp(self) -> None:
        self.worker = Worker(longest=1.0)
        self.addCleanup(self.worker.end)

    def test_it_works_elsewhere_and_answers(self) -> None:
        self.assertNotEqual(self.worker.run(os.getpid), os.getpid())
        self.assertEqual(self.worker.run(sorted, [3, 1, 2]), [1, 2, 3])

    def test_what_is_refused_there_is_refused_here(self) -> None:
        with self.assertRaisesRegex(BadEdit, "nothing to do here"):
            self.worker.run(refused)

    def test_a_refusal_that_says_more_than_its_words_comes_whole_and_ends_nothing(self) -> None:
        with self.assertRaises(BadEdit):
            self.worker.run(refused)  # by which it knows this module
        first = self.worker.run(os.getpid)
        with self.assertRaisesRegex(ShownAgain, "shows frame 4") as caught:
            self.worker.run(shown_again)
        self.assertEqual((caught.exception.source, caught.exception.begins), (4, 1))
        self.assertEqual(self.worker.run(os.getpid), first)

    def test_whatever_can_be_refused_goes_from_process_to_process(self) -> None:
        kinds = [kind for kind in _below(HameError) if kind is not ShownAgain]
        self.assertGreater(len(kinds), 4)
        for kind in kinds:
            back = pickle.loads(pickle.dumps(kind("so it is")))
            self.assertEqual((type(back), str(back)), (kind, "so it is"))

    def test_what_takes_too_long_is_ended_and_the_next_is_done(self) -> None:
        first = self.worker.run(os.getpid)
        begun = time.monotonic()
        with self.assertRaisesRegex(BadEdit, "longer than 1 seconds and was ended"):
            self.worker.run(time.sleep, 60)
        self.assertLess(time.monotonic() - begun, 5.0)
        self.assertNotEqual(self.worker.run(os.getpid), first)
        with self.assertRaises(ProcessLookupError):
            for _ in range(50):
                os.kill(first, 0)
                time.sleep(0.1)

    def test_a_process_that_goes_is_begun_again_and_that_is_said(self) -> None:
        with self.assertLogs("hame.working"), self.assertRaisesRegex(BadEdit, "went away; try again"):
            self.worker.run(gone)
        self.assertEqual(self.worker.run(len, "four"), 4)


class AheadTest(TransactionTestCase):
    """With a database that both processes see."""

    worker: Worker

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        cls.worker = Worker()
        cls.addClassCleanup(cls.worker.end)

    def setUp(self) -> None:
        furnish(self)
        store.forget()
        # The process has to find the database of the tests, and what it knew of another test's is gone.
        changed = (
            mock.patch.dict(os.environ, {"HAME_DB_NAME": connection.settings_dict["NAME"]}),
            mock.patch.object(working, "_worker", self.worker),
            mock.patch.object(ahead, "MUCH", 10),
            mock.patch.object(working, "MUCH", 1),
        )
        for one in changed:
            one.start()
            self.addCleanup(one.stop)
        self.worker.run(forget_all)
        self.client.force_login(self.isla)  # type: ignore[attr-defined]

    post, edit, pose, get = ServerTest.post, ServerTest.edit, ServerTest.pose, ServerTest.get
    shot: Any
    casting: Any
    take: Any

    def test_a_dear_edit_is_what_it_is_when_made_here(self) -> None:
        for frame in range(1, 30):
            self.pose(frame, **{"head__ry": 0.01 * frame})
        done = self.edit({"kind": "spare keys"})
        self.assertEqual(done.status_code, 200, done.content)
        there = self.get(f"/takes/{self.take.pk}").json()["clips"][str(self.casting.pk)]["curves"]["head/ry"]
        self.post(f"/takes/{self.take.pk}/undo", {"revision": Take.objects.get(pk=self.take.pk).revision})
        with mock.patch.object(ahead, "MUCH", 10**9):
            self.edit({"kind": "spare keys"})
        here = self.get(f"/takes/{self.take.pk}").json()["clips"][str(self.casting.pk)]["curves"]["head/ry"]
        self.assertEqual(there, here)
        self.assertLess(len(here), 29)

    def test_what_moves_time_is_made_there_where_much_has_to_go_along(self) -> None:
        for frame in (1, 30, 60):
            self.pose(frame, **{"head__ry": 0.01 * frame})
        for at in (12, 36):
            give = {"kind": "give", "event": at, "of": "landing", "there": 3, "back": 9, "drop": 0.05}
            self.assertEqual(self.edit(give).status_code, 200)
        with mock.patch.object(ahead, "away", wraps=ahead.away) as away, mock.patch.object(ahead, "MUCH", 10**9):
            self.edit({"kind": "insert", "after": 1, "count": 2})
            self.assertEqual(away.call_count, 0)
            with mock.patch.object(ahead, "MANY", 2):
                self.edit({"kind": "insert", "after": 1, "count": 2})
                self.pose(2, **{"head__ry": 0.5})
            self.assertEqual(away.call_count, 1)
        take = Take.objects.get(pk=self.take.pk)
        gives = store.open_clip(take, self.casting.pk).tracks["give"]
        self.assertEqual([(span.start, span.end) for span in gives], [(16, 28), (40, 52)])

    def test_one_that_cannot_be_made_says_so_and_is_not_stored(self) -> None:
        self.pose(1, **{"head__ry": 0.2})
        count = Edit.objects.count()
        with mock.patch.object(ahead, "MUCH", 0):
            answer = self.edit({"kind": "merge layer", "number": 3})
        self.assertEqual(answer.status_code, 422)
        self.assertIn("not there any more", answer.json()["message"])
        self.assertEqual(Edit.objects.count(), count)

    def test_what_others_store_meanwhile_is_not_lost(self) -> None:
        """They are not locked out while it is worked out, and it is made again on what they did."""
        for frame in range(1, 30):
            self.pose(frame, **{"head__ry": 0.01 * frame, "chest__rx": 0.02})
        found = threading.Event()
        real = ahead.away

        def slow(*told: Any) -> Any:
            answer = real(*told)
            with mock.patch.object(ahead, "away", real):
                self.assertEqual(self.pose(40, **{"spine__rx": 0.3}).status_code, 200)
            found.set()
            return answer

        with mock.patch.object(ahead, "away", slow):
            answer = self.edit({"kind": "spare keys", "controls": ["head"]})
        self.assertTrue(found.is_set())
        self.assertEqual(answer.status_code, 200, answer.content)
        curves = self.get(f"/takes/{self.take.pk}").json()["clips"][str(self.casting.pk)]["curves"]
        self.assertIn("spine/rx", curves)
        self.assertLess(len(curves["head/ry"]), 29)

    def test_a_long_look_is_answered_from_there_alike(self) -> None:
        self.pose(1, **{"leg.L.goal__ty": -0.05})
        self.pose(20, **{"leg.L.goal__ty": -0.05})
        path = f"/takes/{self.take.pk}/faults?group=contacts&first=1&last=20"
        there = self.get(path).json()
        with mock.patch.object(working, "MUCH", 10**9):
            self.assertEqual(self.get(path).json(), there)
        self.assertTrue(there)
        file = f"/takes/{self.take.pk}/handoff.glb?casting={self.casting.pk}&first=1&last=20"
        away = self.get(file).content
        with mock.patch.object(working, "MUCH", 10**9), mock.patch.object(api_handoff, "_AT_ONCE", 7):
            self.assertEqual(self.get(file).content, away)
        with mock.patch.object(api_handoff, "MOST_HANDED", 19):
            self.assertIn("a shorter stretch (19 frames)", self.get(file).json()["message"])
        for asked in (
            "faults?group=paths&",
            f"balance?casting={self.casting.pk}&",
            f"plants?casting={self.casting.pk}&",
        ):
            self.assertEqual(self.get(f"/takes/{self.take.pk}/{asked}first=1&last=20").status_code, 200, asked)
