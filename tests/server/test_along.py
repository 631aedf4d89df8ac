"""Frames that come along with the answer to a step: the same as are told when they are asked for."""

from __future__ import annotations

import json
import struct
from typing import Any
from unittest import mock

from hame.errors import BadEdit
from server.shots import along
from server.shots.models import Casting, Take
from tests.server.base import ServerTest


def parted(body: bytes) -> tuple[dict[str, Any], list[bytes]]:
    """The step and the blocks of frames of an answer."""
    (told,) = struct.unpack_from("<I", body)
    blocks, at = [], 4 + told
    while at < len(body):
        (length,) = struct.unpack_from("<I", body, at)
        blocks.append(body[at + 4 : at + 4 + length])
        at += 4 + length
    return json.loads(body[4 : 4 + told]), blocks


def reach(block: bytes) -> tuple[int, int, int]:
    """Revision, first frame and count of a block."""
    return struct.unpack_from("<IiI", block)


class AlongTest(ServerTest):
    def step(self, change: dict[str, Any], looked: int, way: str = "edits") -> tuple[dict[str, Any], list[bytes]]:
        revision = Take.objects.get(pk=self.take.pk).revision
        body: dict[str, Any] = {"revision": revision, "looked": looked}
        if way == "edits":
            body |= {"casting": self.casting.pk, "edit": change}
        answer = self.post(f"/takes/{self.take.pk}/{way}", body)
        self.assertEqual(answer.status_code, 200, answer.content[:300])
        self.assertEqual(answer.headers["Content-Type"], "application/octet-stream")
        return parted(answer.content)

    def asked(self, first: int, last: int) -> bytes:
        path = f"/api/takes/{self.take.pk}/motion?casting={self.casting.pk}&first={first}&last={last}"
        return bytes(self.client.get(path).content)

    def posed(self, frame: int, turn: float, looked: int) -> tuple[dict[str, Any], list[bytes]]:
        return self.step({"kind": "pose", "frame": frame, "values": {"head/ry": turn}}, looked)

    def test_the_frames_that_move_come_along_as_they_are_told_when_asked_for(self) -> None:
        for frame in (1, 9, 17, 25, 33):
            self.posed(frame, 0.1, frame)
        done, blocks = self.posed(17, 0.7, 17)
        self.assertEqual(done["moves"], {str(self.casting.pk): [[1, 33]]})
        self.assertEqual([reach(block) for block in blocks], [(done["revision"], 1, 33)])
        self.assertEqual(blocks[0], self.asked(1, 33))
        undone, blocks = self.step({}, 17, "undo")
        self.assertEqual(blocks, [self.asked(1, 33)])
        self.assertEqual(reach(blocks[0])[0], undone["revision"])

    def test_they_stay_inside_the_range_of_the_shot(self) -> None:
        done, blocks = self.posed(4, 0.3, 4)
        self.assertEqual(done["moves"], {str(self.casting.pk): [[None, None]]})
        self.assertEqual(blocks, [self.asked(self.shot.start, self.shot.end)])

    def test_of_a_long_change_the_frame_that_is_looked_at_comes_along(self) -> None:
        with mock.patch.object(along, "MOST_ALONG", 20):
            _, blocks = self.posed(4, 0.3, 11)
            self.assertEqual(blocks, [self.asked(11, 11)])
            _, blocks = self.posed(4, 0.5, 4000)  # looked at where nothing of the shot is
        self.assertEqual(blocks, [])

    def test_another_who_is_carried_moves_along(self) -> None:
        can = Casting.objects.create(shot=self.shot, version=self.character.current, name="Second")
        tie = {"kind": "belong", "controls": ["master"], "figure": self.casting.pk, "to": "arm.R.goal",
               "start": 5, "end": 9}  # fmt: skip
        revision = Take.objects.get(pk=self.take.pk).revision
        body = {"revision": revision, "casting": can.pk, "edit": tie}
        self.assertEqual(self.post(f"/takes/{self.take.pk}/edits", body).status_code, 200)
        with mock.patch.object(along, "MOST_ALONG", 500):
            done, blocks = self.posed(6, 0.2, 6)
        self.assertIn(str(self.casting.pk), done["moves"])
        figures = {number for block in blocks for number in self.castings_in(block)}
        self.assertEqual(figures, {int(number) for number in done["moves"]})

    def castings_in(self, block: bytes) -> list[int]:
        (count,) = struct.unpack_from("<I", block, 12)
        return [struct.unpack_from("<I", block, 16 + 16 * n)[0] for n in range(count)]

    def test_a_step_that_is_stored_stays_stored_where_its_frames_cannot_be_worked_out(self) -> None:
        for error in (BadEdit("too much"), RuntimeError("broken")):
            with mock.patch.object(along, "packed_motion", side_effect=error), self.assertNoLogs("django.request"):
                done, blocks = self.posed(4, 0.3 + done_turn(error), 4)
            self.assertEqual(blocks, [])
            self.assertEqual(Take.objects.get(pk=self.take.pk).revision, done["revision"])

    def test_who_has_missed_something_gets_all_of_it_and_asks_for_frames(self) -> None:
        self.posed(4, 0.3, 4)
        self.posed(9, 0.3, 4)
        edit = {"kind": "pose", "frame": 20, "values": {"chest/rx": 0.2}}
        body = {"revision": 1, "looked": 4, "casting": self.casting.pk, "edit": edit}
        answer = self.post(f"/takes/{self.take.pk}/edits", body)
        done, blocks = parted(answer.content)
        self.assertEqual((answer.status_code, done["revision"], blocks), (200, 3, []))
        self.assertEqual(set(done["clips"][str(self.casting.pk)]["curves"]), {"head/ry", "chest/rx"})


def done_turn(error: Exception) -> float:
    return 0.1 if isinstance(error, BadEdit) else 0.2
