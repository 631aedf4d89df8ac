"""Pulls over a socket: the body follows, says what gave, is keyed as it was seen, and is refused in words."""

from __future__ import annotations

import json
from typing import Any

import numpy as np
from asgiref.sync import async_to_sync
from django.test import Client

from hame.evaluate.evaluate import channel_values, evaluate, joints
from server.characters import store as characters
from server.shots import store
from server.shots.models import Casting
from tests.server.binary import Moved, pull_of
from tests.server.test_live import SocketTest

FEET = [{"part": f"leg.{side}.foot", "grade": "fast"} for side in "LR"]
HAND = {"do": "pull", "controls": ["arm.L.hand"], "offset": [0.1, 0.4, 0.4], "grips": FEET}


class PullsTest(SocketTest):
    def pulls(self, *messages: dict[str, Any], frame: int = 1) -> list[Any]:
        """Answers to messages, one after the other, after a drag was begun; bytes are unpacked."""
        socket = self.socket("isla")

        async def talk() -> list[Any]:
            await socket.connect(5)
            cast = self.casting.pk  # type: ignore[attr-defined]
            await self.answer(socket, {"do": "begin", "seq": 1, "casting": cast, "frame": frame})
            found = [await self.answer(socket, {**m, "seq": n + 2}) for n, m in enumerate(messages)]
            await socket.disconnect()
            return found

        answers = []
        for answer in async_to_sync(talk)():
            if isinstance(answer, bytes):
                _, figures, rest = pull_of(answer)
                answers.append((figures[self.casting.pk], json.loads(rest)))  # type: ignore[attr-defined]
            else:
                answers.append(answer)
        return answers

    def edit(self, edit: dict[str, Any]) -> Any:
        client = Client()
        client.force_login(self.isla)  # type: ignore[attr-defined]
        self.take.refresh_from_db()  # type: ignore[attr-defined]
        body = {"revision": self.take.revision, "casting": self.casting.pk, "edit": edit}  # type: ignore[attr-defined]
        return client.post(
            f"/api/takes/{self.take.pk}/edits", json.dumps(body), content_type="application/json"  # type: ignore[attr-defined]
        )  # fmt: skip

    def joint(self, moved: Moved, name: str) -> np.ndarray:
        return np.asarray(moved.joints[self.rig.skeleton.index(self.rig.plan.roles[name]), :3])

    def test_what_was_seen_is_what_is_keyed(self) -> None:
        [(moved, said)] = self.pulls(HAND)
        self.assertEqual(said["gave"], [])
        rest = joints(self.rig, evaluate(self.rig, self.rig.rest[None]))[0]
        hand = rest[self.rig.skeleton.index(self.rig.plan.roles["arm.L.hand"]), :3]
        np.testing.assert_allclose(self.joint(moved, "arm.L.hand"), hand + [0.1, 0.4, 0.4], atol=2e-3)
        values = {self.rig.addresses[n]: value for n, value in moved.changed.items()}
        answer = self.edit({"kind": "pose", "frame": 1, "values": values, "what": "Pull left hand"})
        self.assertEqual(answer.status_code, 200, answer.content)
        self.take.refresh_from_db()  # type: ignore[attr-defined]
        self.assertIn("Pull left hand at 1", self.take.edits.latest("id").label)  # type: ignore[attr-defined]
        casting = Casting.objects.get(pk=self.casting.pk)  # type: ignore[attr-defined]
        clip = store.open_clip(self.take, casting)  # type: ignore[attr-defined]
        shown = joints(self.rig, evaluate(self.rig, channel_values(self.rig, clip, [1])))[0]
        self.assertLess(np.linalg.norm(shown[:, :3] - moved.joints[:, :3], axis=1).max(), 1e-4)

    def test_what_gave_is_told_and_no_grip_is_told_too(self) -> None:
        far = {**HAND, "offset": [0.0, 0.5, 2.5]}
        loose = [{**grip, "grade": "loose"} for grip in FEET]
        held, given, free = self.pulls(far, {**far, "grips": loose}, {**far, "grips": []})
        self.assertEqual([g["grade"] for g in held[1]["gave"]], ["pulled"])
        self.assertIn("loose", [g["grade"] for g in given[1]["gave"]])
        self.assertGreater(max(g["metres"] for g in given[1]["gave"] if g["grade"] == "loose"), 0.05)
        self.assertTrue(free[1]["whole"] and not held[1]["whole"])

    def test_a_planted_foot_is_held_fast_and_is_not_pulled(self) -> None:
        plant = {"kind": "plant", "plants": [{"control": "leg.L.goal", "start": 1, "end": 20}]}
        self.assertEqual(self.edit(plant).status_code, 200)
        foot, hand = self.pulls(
            {"do": "pull", "controls": ["leg.L.goal"], "offset": [0, 0.1, 0]}, {**HAND, "grips": []}, frame=9
        )
        self.assertIn("planted from 1 to 20", foot["message"])
        rest = joints(self.rig, evaluate(self.rig, self.rig.rest[None]))[0]
        ankle = rest[self.rig.skeleton.index(self.rig.plan.roles["leg.L.foot"]), :3]
        np.testing.assert_allclose(self.joint(hand[0], "leg.L.foot"), ankle, atol=1e-5)
        self.assertFalse(hand[1]["whole"])

    def test_a_pose_from_few(self) -> None:
        targets = [{"part": "leg.L.foot"}, {"part": "leg.R.foot"}, {"part": "arm.R.hand", "turn": False}]
        few = {"do": "few", "controls": ["arm.R.hand"], "offset": [-0.1, 0.5, 0.3], "targets": targets}
        [(moved, said)] = self.pulls(few)
        rest = joints(self.rig, evaluate(self.rig, self.rig.rest[None]))[0]
        hand = rest[self.rig.skeleton.index(self.rig.plan.roles["arm.R.hand"]), :3]
        np.testing.assert_allclose(self.joint(moved, "arm.R.hand"), hand + [-0.1, 0.5, 0.3], atol=5e-3)
        self.assertEqual(said["gave"], [])

    def test_refusals(self) -> None:
        answers = self.pulls(
            {**HAND, "controls": ["eye.L"]},
            {**HAND, "controls": ["nothing"]},
            {**HAND, "offset": [0, 1e300, 0]},
            {**HAND, "grips": [{"part": "leg.L.foot", "grade": "iron"}]},
            {"do": "few", "controls": [], "offset": [0, 0, 0], "targets": []},
            HAND,
        )
        for answer, words in zip(
            answers,
            ("can be pulled by", "can be pulled by", "not understood", "not understood", "place hips"),
            strict=False,
        ):
            self.assertIn(words, answer["message"])
        self.assertGreater(len(answers[-1][0].changed), 5)

    def test_a_protected_part_is_not_pulled(self) -> None:
        Casting.objects.filter(pk=self.casting.pk).update(protected=["arm.L.hand"])  # type: ignore[attr-defined]
        [answer] = self.pulls(HAND)
        self.assertIn("protected", answer["message"])

    def test_a_protected_foot_stays_and_can_be_stored(self) -> None:
        kept = ["leg.L.goal", "leg.L.pole", "spine"]
        Casting.objects.filter(pk=self.casting.pk).update(protected=kept)  # type: ignore[attr-defined]
        [(moved, _)] = self.pulls({**HAND, "offset": [0.1, 0.3, 0.5], "grips": []})
        changed = {self.rig.channels[n].control for n in moved.changed}
        self.assertEqual(changed & set(kept), set())
        self.assertGreater(len(changed), 3)
        values = {self.rig.addresses[n]: value for n, value in moved.changed.items()}
        self.assertEqual(self.edit({"kind": "pose", "frame": 1, "values": values}).status_code, 200)

    def test_a_prop_has_no_body(self) -> None:
        from tests.hame.examples import BRANNOC

        can = characters.bring_in(
            self.production.pk, "Oil can", (BRANNOC.parent / "oil-can.glb").read_bytes(), self.isla, True
        )  # type: ignore[attr-defined]
        casting = Casting.objects.create(shot=self.shot, version=can.current, name="Oil can")  # type: ignore[attr-defined]
        socket = self.socket("isla")

        async def talk() -> Any:
            await socket.connect(5)
            await self.answer(socket, {"do": "begin", "seq": 1, "casting": casting.pk, "frame": 1})
            answer = await self.answer(socket, {**HAND, "controls": ["lid"], "seq": 2})
            await socket.disconnect()
            return answer

        self.assertIn("no body", async_to_sync(talk)()["message"])
