"""Edits, revisions, history and takes."""

from __future__ import annotations

from unittest import mock

from django.db import connection
from django.test.utils import CaptureQueriesContext

from hame.formats.gltf_read import read_character
from server.shots import clips, store
from server.shots.models import Change, ClipMarks, Curve, Edit, Take
from tests.server.base import ServerTest
from tests.server.binary import motion_of


class EditsTest(ServerTest):
    def test_a_step_is_stored_with_its_name_and_raises_the_revision(self) -> None:
        answer = self.edit({"kind": "key", "frame": 1})
        self.assertEqual(answer.status_code, 200)
        self.assertEqual(answer.json()["revision"], 1)
        self.assertEqual(Edit.objects.get().label, "Key the whole character at 1")
        self.assertGreater(len(self.clip()["curves"]), 150)

    def test_only_changed_curves_are_written_and_answered(self) -> None:
        self.edit({"kind": "key", "frame": 1})
        answer = self.pose(13, head__ry=0.4)
        change = answer.json()["clips"][str(self.casting.pk)]
        self.assertEqual(list(change["curves"]), ["head/ry"])
        self.assertEqual(answer.json()["moves"], {str(self.casting.pk): [[None, None]]})
        self.assertEqual(self.clip()["curves"]["head/ry"], [[1, 0.0, 2], [13, 0.4, 2]])

    def test_steps_that_only_move_keys_are_stored_short_and_read_back_both_ways(self) -> None:
        for frame, value in ((1, 0.1), (9, 0.3), (17, -0.2)):
            self.pose(frame, head__ry=value, body__ty=0.1 * value)
        before = self.clip()["curves"]
        self.assertEqual(self.edit({"kind": "insert", "after": 1, "count": 3}).status_code, 200)
        stored = Edit.objects.latest("id").differences.get().patch["curves"]["head/ry"]
        self.assertEqual(stored[1], {"frames": [12, 20]})
        store.forget()  # as another process finds it
        after = self.clip()["curves"]
        self.assertEqual([row[0] for row in after["head/ry"]], [1, 12, 20])
        self.assertEqual([row[1] for row in after["head/ry"]], [0.1, 0.3, -0.2])
        for way, expected in (("undo", before), ("redo", after)):
            store.forget()
            revision = Take.objects.get(pk=self.take.pk).revision
            self.assertEqual(self.post(f"/takes/{self.take.pk}/{way}", {"revision": revision}).status_code, 200)
            store.forget()
            self.assertEqual(self.clip()["curves"], expected)

    def test_a_step_is_committed_without_reading_the_one_before_it(self) -> None:
        self.pose(1, head__ry=0.1)
        self.clip()  # at hand, as it is after every step that is really committed
        with CaptureQueriesContext(connection) as asked:
            self.pose(5, head__ry=0.2)
        read = [q["sql"] for q in asked.captured_queries if q["sql"].startswith("SELECT")]
        self.assertFalse([sql for sql in read if "`patch`" in sql])

    def test_a_stale_step_is_a_409_that_says_what_happened_and_stores_nothing(self) -> None:
        self.pose(1, head__ry=0.1)
        answer = self.edit({"kind": "pose", "frame": 1, "values": {"head/ry": 0.9}}, revision=0)
        self.assertEqual(answer.status_code, 409)
        self.assertEqual(answer.json()["revision"], 1)
        self.assertEqual(answer.json()["since"][0]["label"], "Pose head at 1")
        self.assertEqual(Edit.objects.count(), 1)
        caught_up = self.get(f"/takes/{self.take.pk}/changes?since=0").json()
        self.assertEqual(caught_up["clips"][str(self.casting.pk)]["curves"]["head/ry"]["rows"], [[1, 0.1, 2]])

    def test_bad_edits_are_refused_with_the_reason(self) -> None:
        for edit, words in (
            ({"kind": "pose", "frame": 1.5, "values": {"head/ry": 0.1}}, "frame"),
            ({"kind": "pose", "frame": 1, "values": {"tail/ry": 0.1}}, "no channel called tail/ry"),
            ({"kind": "pose", "frame": 1, "values": {"jaw/rx": 9}}, "past its limit"),
            ({"kind": "pose", "frame": 1, "values": {"arm.L.lower/rz": 0.2}}, "hinge"),
            ({"kind": "key", "frame": 1, "controls": ["tail"]}, "no control called tail"),
            ({"kind": "move", "frames": [1], "by": 2}, "no keys"),
            ({"kind": "limb", "frame": 1, "limb": "tail", "to": "ik"}, "no limb"),
            ({"kind": "explode"}, "kind"),
            ({"kind": "pose", "frame": 9_999_999, "values": {"head/ry": 0.1}}, "out of range"),
        ):
            answer = self.edit(edit)
            self.assertEqual(answer.status_code, 422, edit)
            self.assertIn(words, answer.json()["message"])
        self.assertEqual(Edit.objects.count(), 0)

    def test_a_number_that_is_none_is_refused(self) -> None:
        body = '{"revision": 0, "casting": %d, "edit": {"kind": "pose", "frame": 1, "values": {"head/ry": NaN}}}'
        answer = self.client.post(
            f"/api/takes/{self.take.pk}/edits", body % self.casting.pk, content_type="application/json"
        )
        self.assertEqual(answer.status_code, 400)
        self.assertIn("could not be read", answer.json()["message"])
        self.assertEqual(Take.objects.get().revision, 0)

    def test_a_failure_half_way_stores_nothing(self) -> None:
        with (
            mock.patch.object(store.Change.objects, "bulk_create", side_effect=RuntimeError),
            self.assertRaises(RuntimeError),
        ):
            self.pose(1, head__ry=0.4)
        self.assertEqual((Edit.objects.count(), self.clip()["curves"], Take.objects.get().revision), (0, {}, 0))
        self.assertEqual(self.pose(1, head__ry=0.4).status_code, 200)

    def test_a_pending_pose_waits_in_the_take_and_can_be_keyed_or_dropped(self) -> None:
        self.pose(7, keying="off", head__ry=0.3)
        self.assertEqual(self.clip()["pending"], {"7": {"head/ry": 0.3}})
        self.assertEqual(self.clip()["curves"], {})
        self.edit({"kind": "key", "frame": 7, "controls": ["head"]})
        self.assertEqual(self.clip()["pending"], {})
        self.assertEqual(self.clip()["curves"]["head/ry"], [[7, 0.3, 2]])
        self.pose(9, keying="off", head__ry=0.6)
        self.edit({"kind": "drop", "frame": 9})
        self.assertEqual(self.clip()["pending"], {})

    def test_an_edit_that_changes_nothing_is_no_step(self) -> None:
        self.pose(1, head__ry=0.3)
        answer = self.pose(1, head__ry=0.3)
        self.assertEqual((answer.json()["revision"], Edit.objects.count()), (1, 1))

    def test_notes_come_with_the_answer(self) -> None:
        self.pose(1, head__ry=0.3)
        self.pose(5, head__ry=0.1)
        answer = self.edit({"kind": "move", "frames": [5], "by": -4})
        self.assertEqual(answer.json()["notes"], ["1 key at frame 1 was replaced"])


class HistoryTest(ServerTest):
    def undo(self, which: str = "undo") -> dict:
        revision = Take.objects.get(pk=self.take.pk).revision
        return self.post(f"/takes/{self.take.pk}/{which}", {"revision": revision}).json()

    def test_undo_and_redo_walk_the_steps_and_bring_back_every_curve(self) -> None:
        states = [self.clip()]
        self.edit({"kind": "key", "frame": 1})
        states.append(self.clip())
        self.pose(13, head__ry=0.4)
        states.append(self.clip())
        self.pose(7, keying="off", neck__rx=0.2)
        states.append(self.clip())
        for state in reversed(states[:-1]):
            self.undo()
            self.assertEqual(self.clip(), state)
        for state in states[1:]:
            answer = self.undo("redo")
            self.assertEqual(self.clip(), state)
        self.assertFalse(answer["can_redo"])
        self.assertEqual(Take.objects.get().revision, 9)

    def test_there_is_an_end_to_undo_and_redo(self) -> None:
        self.assertIn("nothing to undo", self.undo()["message"])
        self.pose(1, head__ry=0.4)
        self.assertIn("nothing to redo", self.undo("redo")["message"])

    def test_a_line_that_a_new_step_set_aside_can_be_gone_back_to(self) -> None:
        self.pose(1, head__ry=0.1)
        self.pose(1, head__ry=0.2)
        aside = Edit.objects.latest("id")
        self.undo()
        self.pose(1, head__ry=0.3)
        states = {s["id"]: s["state"] for s in self.get(f"/takes/{self.take.pk}/history").json()}
        self.assertEqual(states[aside.pk], "aside")
        self.post(f"/takes/{self.take.pk}/goto", {"revision": 4, "step": aside.pk})
        self.assertEqual(self.clip()["curves"]["head/ry"], [[1, 0.2, 2]])
        self.post(f"/takes/{self.take.pk}/goto", {"revision": 5, "step": None})
        self.assertEqual(self.clip()["curves"], {})
        self.assertTrue(self.undo("redo")["can_redo"])
        self.assertEqual(self.clip()["curves"]["head/ry"], [[1, 0.1, 2]])

    def test_a_clip_read_from_the_database_is_the_one_that_was_edited(self) -> None:
        self.edit({"kind": "key", "frame": 1})
        self.pose(13, head__ry=0.4)
        take = Take.objects.get()
        kept = store.open_clip(take, self.casting.pk)
        store.forget()
        self.assertEqual(store.open_clip(take, self.casting.pk).to_json(), kept.to_json())

    def test_a_snapshot_is_written_now_and_then_and_steps_since_are_applied_to_it(self) -> None:
        self.edit({"kind": "key", "frame": 1})
        with mock.patch.object(clips, "MOST_STEPS", 5):
            for n in range(12):
                self.pose(n + 2, head__ry=0.01 * n)
            self.edit({"kind": "label", "frame": 4, "name": "Passing", "rank": "breakdown"})
            self.edit({"kind": "pose", "frame": 9, "values": {"neck/rx": 0.2}, "keying": "off"})
            self.undo()
            self.undo()
            self.undo("redo")
        take = Take.objects.get()
        stored_at = ClipMarks.objects.get().revision
        self.assertTrue(take.revision - 5 < stored_at <= take.revision)
        kept = store.open_clip(take, self.casting.pk)
        store.forget()
        again = store.open_clip(take, self.casting.pk)
        self.assertEqual(again.to_json(), kept.to_json())
        self.assertEqual(again.labels[4].name, "Passing")
        self.assertEqual(again.pending, {})

    def test_a_new_take_begins_with_a_snapshot_of_its_own(self) -> None:
        self.pose(1, head__ry=0.3)
        made = self.post(f"/shots/{self.shot.pk}/takes", {"name": "Take 2", "source": self.take.pk}).json()
        store.forget()
        copy = Take.objects.get(pk=made["id"])
        self.assertEqual(store.open_clip(copy, self.casting.pk).curves["head/ry"].values.tolist(), [0.3])
        self.assertEqual(Curve.objects.filter(take=copy).count(), 1)

    def test_every_revision_is_accounted_for(self) -> None:
        self.pose(1, head__ry=0.1)
        self.undo()
        self.undo("redo")
        self.assertEqual(
            [(c.revision, c.forward) for c in Change.objects.order_by("id")], [(1, True), (2, False), (3, True)]
        )

    def test_a_step_of_another_take_is_refused(self) -> None:
        other = Take.objects.create(shot=self.shot, name="Take 2")
        self.pose(1, head__ry=0.1)
        answer = self.post(f"/takes/{other.pk}/goto", {"revision": 0, "step": Edit.objects.get().pk})
        self.assertEqual(answer.status_code, 422)


class TakesTest(ServerTest):
    def test_a_take_set_aside_stays_while_the_new_one_goes_on(self) -> None:
        self.pose(1, head__ry=0.1)
        made = self.post(f"/shots/{self.shot.pk}/takes", {"name": "Slower", "source": self.take.pk}).json()
        answer = self.post(
            f"/takes/{made['id']}/edits",
            {
                "revision": 0,
                "casting": self.casting.pk,
                "edit": {"kind": "pose", "frame": 1, "values": {"head/ry": 0.8}},
            },
        )
        self.assertEqual(answer.status_code, 200)
        self.assertEqual(self.clip()["curves"]["head/ry"], [[1, 0.1, 2]])

    def test_motion_comes_as_bytes_of_every_frame_asked_for(self) -> None:
        self.pose(1, **{"body__ty": 0.0})
        self.pose(25, **{"body__ty": -0.24})
        body = self.get(f"/takes/{self.take.pk}/motion?casting={self.casting.pk}&first=1&last=25").content
        revision, first, figures = motion_of(body)
        self.assertEqual((revision, first, list(figures)), (2, 1, [self.casting.pk]))
        joints = figures[self.casting.pk].joints
        self.assertEqual(joints.shape, (25, 68, 8))
        pelvis = joints[:, 1, 1]
        self.assertAlmostEqual(float(pelvis[0] - pelvis[-1]), 0.24, places=5)
        self.assertEqual(
            self.get(f"/takes/{self.take.pk}/motion?casting={self.casting.pk}&first=5&last=1").status_code, 422
        )

    def test_frames_beyond_all_bounds_are_refused(self) -> None:
        take, cast, far = self.take.pk, self.casting.pk, 10**12
        for path in (
            f"motion?casting={cast}&first={far}&last={far + 1}",
            f"motion?casting={cast}&first=1&last=9000",
            f"pending?casting={cast}&frame={far}",
            f"handoff.glb?casting={cast}&first=1&last={far}",
        ):
            self.assertEqual(self.get(f"/takes/{take}/{path}").status_code, 422, path)

    def test_the_hand_off_reads_back_with_skeleton_and_skin(self) -> None:
        self.pose(1, head__ry=0.1)
        answer = self.get(f"/takes/{self.take.pk}/handoff.glb?casting={self.casting.pk}&first=1&last=24")
        self.assertIn("morning-round-take-1-brannoc.glb", answer["Content-Disposition"])
        self.assertEqual(len(read_character(answer.content).skeleton), 68)
