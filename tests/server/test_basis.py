"""A step is stored as its maker meant it: on what it was made on, for who made it, and never over others' work."""

from __future__ import annotations

from typing import Any

from django.test import Client

from server.shots.models import Edit
from tests.server.base import ServerTest


class BasisTest(ServerTest):
    def send(self, edit: dict[str, Any], revision: int, **more: Any) -> Any:
        body = {"revision": revision, "casting": self.casting.pk, "edit": edit, **more}
        return self.post(f"/takes/{self.take.pk}/edits", body)

    def posed(self, revision: int, frame: int, values: dict[str, float], **more: Any) -> Any:
        return self.send({"kind": "pose", "frame": frame, "values": values}, revision, **more)

    def others(self, edit: dict[str, Any]) -> int:
        """A step of Maud's on the take as it is now; the revision it leads to."""
        self.as_user("maud")
        answer = self.edit(edit)
        self.as_user("isla")
        self.assertEqual(answer.status_code, 200, answer.content)
        return int(answer.json()["revision"])

    def test_one_that_waited_does_not_lie_over_what_others_stored_meanwhile(self) -> None:
        self.edit({"kind": "key", "frame": 200})
        known = self.others({"kind": "pose", "frame": 200, "values": {"head/ry": 0.3}}) - 1
        answer = self.posed(known, 200, {"head/ry": 0.1, "arm.L.upper/rx": 0.2}, shown=known + 1)
        self.assertEqual(answer.status_code, 409)
        self.assertIn("Maud", answer.json()["message"])
        self.assertEqual(self.clip()["curves"]["head/ry"], [[200, 0.3, 2]])

    def test_ones_own_steps_on_the_way_are_part_of_it_and_others_are_not(self) -> None:
        self.edit({"kind": "key", "frame": 10})
        first = self.posed(1, 10, {"head/ry": 0.1}, id="isla-first-1")
        self.assertEqual(first.status_code, 200)
        # Made while the first was on its way, on the same channel: no clash with oneself.
        second = self.posed(1, 10, {"head/ry": 0.2}, id="isla-second-1", after=["isla-first-1"])
        self.assertEqual(second.status_code, 200, second.content)
        # Maud comes between two of Isla's that wait: what she did to the same channel is seen as hers.
        self.others({"kind": "pose", "frame": 10, "values": {"head/ry": 0.5}})
        own = ["isla-first-1", "isla-second-1"]
        third = self.posed(1, 10, {"head/ry": 0.3}, id="isla-third-1", after=own)
        self.assertEqual(third.status_code, 409)
        self.assertEqual([step["by"] for step in third.json()["clash"]], ["Maud"])
        # Another channel does not have to do with it.
        fourth = self.posed(1, 10, {"neck/ry": 0.3}, id="isla-fourth-1", after=own)
        self.assertEqual(fourth.status_code, 200)
        self.assertEqual(self.clip()["curves"]["head/ry"], [[10, 0.5, 2]])
        # A name that somebody else gave is none of one's own.
        self.as_user("maud")
        with_others = self.posed(1, 10, {"head/ry": 0.9}, after=own)
        self.assertEqual(with_others.status_code, 409)

    def test_undo_and_the_history_count_ones_own_on_the_way_as_known(self) -> None:
        self.posed(0, 10, {"head/ry": 0.1}, id="isla-first-1")
        self.posed(0, 10, {"head/ry": 0.2}, id="isla-second-1", after=["isla-first-1"])
        body = {"revision": 0, "after": ["isla-first-1", "isla-second-1"], "shown": 1, "id": "isla-undo-1"}
        undone = self.post(f"/takes/{self.take.pk}/undo", body)
        self.assertEqual(undone.status_code, 200, undone.content)
        self.assertEqual(self.clip()["curves"]["head/ry"], [[10, 0.1, 2]])
        # A step made after that undo, while it was on its way.
        after = [*body["after"], "isla-undo-1"]  # type: ignore[misc]
        self.assertEqual(self.posed(0, 10, {"head/ry": 0.4}, after=after).status_code, 200)
        self.assertEqual(self.post(f"/takes/{self.take.pk}/undo", {"revision": 0}).status_code, 409)
        self.others({"kind": "pose", "frame": 20, "values": {"neck/rx": 0.1}})
        first = Edit.objects.get(key="isla-first-1").pk
        gone = self.post(f"/takes/{self.take.pk}/goto", {"revision": 0, "after": after, "step": first})
        self.assertEqual(gone.status_code, 409)

    def test_a_pull_is_not_made_on_a_pose_that_it_did_not_read(self) -> None:
        self.edit({"kind": "key", "frame": 10})
        known = self.others({"kind": "pose", "frame": 10, "values": {"body/tx": 0.05}}) - 1
        values = {"arm.L.upper/rx": 0.2}
        self.assertEqual(self.posed(known, 10, values, read=10).status_code, 409)
        # What others did to a frame that it did not read is nothing to it; nor is any where nothing was read.
        self.assertEqual(self.posed(known, 10, values).status_code, 200)
        self.edit({"kind": "key", "frame": 20})
        known = self.others({"kind": "pose", "frame": 10, "values": {"body/tx": 0.06}}) - 1
        self.assertEqual(self.posed(known, 20, values, read=20).status_code, 200)

    def test_a_pose_beyond_frames_that_others_inserted_asks_where_it_is_meant(self) -> None:
        for frame in (1, 20, 40):
            self.edit({"kind": "key", "frame": frame})
        known = self.others({"kind": "insert", "after": 10, "count": 5}) - 1
        beyond = self.posed(known, 30, {"head/ry": 0.3})
        self.assertEqual(beyond.status_code, 409)
        self.assertIn("Insert 5 frames", beyond.json()["message"])
        # Before them nothing has moved.
        self.assertEqual(self.posed(known, 5, {"head/ry": 0.3}).status_code, 200)
        # The same the other way round: an insert taken back.
        self.as_user("maud")
        now = self.get(f"/takes/{self.take.pk}").json()["revision"]
        self.post(f"/takes/{self.take.pk}/undo", {"revision": now})
        self.as_user("isla")
        self.assertEqual(self.posed(now, 30, {"head/ry": 0.3}).status_code, 409)

    def test_moved_columns_are_about_their_frames_alone(self) -> None:
        for frame in (1, 20, 40):
            self.edit({"kind": "key", "frame": frame, "controls": ["head"]})
        known = self.others({"kind": "move", "frames": [20], "by": 4}) - 1
        self.assertEqual(self.posed(known, 20, {"body/tx": 0.05}).status_code, 409)
        self.assertEqual(self.posed(known, 40, {"body/tx": 0.05}).status_code, 200)

    def test_a_step_is_stored_for_who_made_it_and_for_nobody_else(self) -> None:
        client = Client()
        client.force_login(self.maud)  # type: ignore[attr-defined]
        self.client = client
        answer = self.posed(0, 10, {"head/ry": 0.1}, by="isla", id="isla-first-1")
        self.assertEqual((answer.status_code, answer.json()["whose"]), (403, "isla"))
        for way in ("undo", "redo", "goto"):
            answer = self.post(f"/takes/{self.take.pk}/{way}", {"revision": 0, "by": "isla"})
            self.assertEqual(answer.json().get("whose"), "isla", way)
        self.assertEqual(Edit.objects.count(), 0)
        self.as_user("isla")
        self.assertEqual(self.posed(0, 10, {"head/ry": 0.1}, by="isla", id="isla-first-1").status_code, 200)

    def test_a_step_is_found_by_its_name(self) -> None:
        path = f"/takes/{self.take.pk}/named/isla-first-1?since=0"
        self.assertEqual(self.get(path).status_code, 404)
        self.posed(0, 10, {"head/ry": 0.1}, id="isla-first-1")
        found = self.get(path).json()
        self.assertEqual((found["revision"], found["label"]), (1, "Pose head at 10"))
        self.assertIn("head/ry", found["clips"][str(self.casting.pk)]["curves"])
        self.as_user("maud")
        self.assertEqual(self.get(path).status_code, 404)
        self.as_user("stranger")
        self.assertEqual(self.get(path).status_code, 404)
