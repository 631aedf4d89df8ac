"""Falls: worked out as jobs to be seen, ended at will, and taken in one step made away from the desk."""

from __future__ import annotations

import struct
from typing import Any
from unittest import mock

from server.jobs.models import Job, State
from server.shots import ahead, dragging, store
from server.shots.messages import Try
from server.shots.models import Edit, Take
from tests.server.base import ServerTest
from tests.server.test_jobs import do

FALL = {"at": 30, "frames": 12}


class FallsTest(ServerTest):
    def ask(self, **given: object) -> Job:
        answer = self.post(f"/takes/{self.take.pk}/falls", {"casting": self.casting.pk, **FALL, **given})
        self.assertEqual(answer.status_code, 200, answer.content)
        return Job.objects.get(pk=answer.json()["id"])

    def test_a_fall_is_worked_out_and_nothing_is_changed(self) -> None:
        steps = Edit.objects.count()
        made = do(self.ask().pk)
        self.assertEqual((made.state, made.said), (State.DONE, ""))
        self.assertEqual(made.outcome["notes"][0], "it falls from 30 to 42")
        answer = self.client.get(f"/api/jobs/{made.pk}/file")
        data = b"".join(answer)  # type: ignore[arg-type]
        revision, first, frames, figures, casting = struct.unpack_from("<IiIII", data)
        self.assertEqual((revision, first, figures, casting), (self.take.revision, 29, 1, self.casting.pk))
        self.assertEqual(frames, made.outcome["last"] - 29 + 1)
        self.assertEqual(Edit.objects.count(), steps)

    def test_it_is_ended_while_it_is_worked_out(self) -> None:
        made = self.ask(frames=60)
        self.assertEqual(self.post(f"/jobs/{made.pk}/cancel", {}).json()["state"], "cancelled")
        self.assertEqual(do(made.pk).state, State.CANCELLED)
        running = self.ask(frames=60)
        told: list[float] = []

        def cancel(self_: object, share: float, said: str = "") -> None:
            told.append(share)
            if len(told) == 3:
                self.post(f"/jobs/{running.pk}/cancel", {})
            return real(self_, share, said)  # type: ignore[arg-type]

        from server.jobs import tasks

        real = tasks._Told.__call__
        with mock.patch.object(tasks._Told, "__call__", cancel), mock.patch.object(tasks, "TOLD", 0.0):
            self.assertEqual(do(running.pk).state, State.CANCELLED)
        self.assertLess(len(told), 10)

    def test_it_is_taken_in_one_step_away_from_the_desk(self) -> None:
        with mock.patch.object(ahead, "away", wraps=ahead.away) as away:
            answer = self.edit({"kind": "go limp", **FALL})
        self.assertEqual(answer.status_code, 200, answer.content)
        self.assertEqual(away.call_count, 1)
        self.assertEqual(answer.json()["label"], "Limp from 30 for 12 frames")
        self.assertIn("body/ty", self.clip()["curves"])
        self.assertEqual(self.post(f"/takes/{self.take.pk}/undo", {"revision": 1}).status_code, 200)

    def test_one_step_of_several_edits_is_made_away_where_one_of_them_is_a_fall(self) -> None:
        key = {"casting": self.casting.pk, "edit": {"kind": "key", "frame": 12}}
        with mock.patch.object(ahead, "away", wraps=ahead.away) as away:
            self.assertEqual(self.edit({"kind": "together", "parts": [key]}).status_code, 200)
            self.assertEqual(away.call_count, 0)
            fall = {"casting": self.casting.pk, "edit": {"kind": "go limp", **FALL}}
            answer = self.edit({"kind": "together", "parts": [key, fall]})
        self.assertEqual(answer.status_code, 200, answer.content)
        self.assertEqual(away.call_count, 1)

    def test_it_never_locks_others_out_and_is_refused_where_they_have_gone_on(self) -> None:
        """What is worked out for seconds is worked out away from the take's lock or not at all."""
        real, others = ahead.away, []

        def slow(*told: Any) -> Any:
            answer = real(*told)
            with mock.patch.object(ahead, "away", real):
                others.append(self.pose(50, **{"spine__rx": 0.3}).status_code)
            return answer

        locked = mock.patch.object(store, "rebased", side_effect=AssertionError("made with the take locked"))
        with mock.patch.object(ahead, "away", slow), locked:
            answer = self.edit({"kind": "go limp", **FALL})
        self.assertEqual((answer.status_code, others), (409, [200]))
        self.assertIn("has changed meanwhile", answer.json()["message"])
        behind = {"revision": 0, "casting": self.casting.pk, "edit": {"kind": "go limp", **FALL}}
        with locked:
            self.assertEqual(self.post(f"/takes/{self.take.pk}/edits", behind).status_code, 409)
        self.assertNotIn("body/ty", self.clip()["curves"])

    def test_ones_own_step_that_is_on_its_way_does_not_keep_it_back(self) -> None:
        revision = Take.objects.get(pk=self.take.pk).revision
        pose = {"kind": "pose", "frame": 50, "values": {"spine/rx": 0.3}}
        body = {"revision": revision, "casting": self.casting.pk, "edit": pose, "id": "own-step-1"}
        self.assertEqual(self.post(f"/takes/{self.take.pk}/edits", body).status_code, 200)
        fall = {**body, "edit": {"kind": "go limp", **FALL}, "id": "own-step-2", "after": ["own-step-1"]}
        answer = self.post(f"/takes/{self.take.pk}/edits", fall)
        self.assertEqual(answer.status_code, 200, answer.content)
        self.assertIn("body/ty", self.clip()["curves"])

    def test_it_is_not_tried_while_a_hand_waits(self) -> None:
        told = {"do": "try", "seq": 1, "casting": self.casting.pk, "frame": 31, "edit": {"kind": "go limp", **FALL}}
        with self.assertRaisesRegex(Exception, "takes too long to be seen"):
            dragging.tried(self.take, Try.model_validate(told), self.isla)

    def test_what_cannot_be_is_refused_and_strangers_see_nothing(self) -> None:
        path = f"/takes/{self.take.pk}/falls"
        for given, words in (({"frames": 1000}, "240"), ({"legs": 2.0}, "legs"), ({"arms": -1.0}, "arms")):
            answer = self.post(path, {"casting": self.casting.pk, **FALL, **given})
            self.assertEqual(answer.status_code, 422)
            self.assertIn(words, answer.json()["message"])
        lost = do(self.ask(at=100_000).pk)
        self.assertEqual(lost.state, State.FAILED)
        self.assertIn("outside of the shot", lost.said)
        self.as_user("stranger")
        self.assertEqual(self.post(path, {"casting": self.casting.pk, **FALL}).status_code, 404)
