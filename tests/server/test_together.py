"""Several people, several processes: one order of steps, and nothing stored is lost."""

from __future__ import annotations

import json
from threading import Barrier, Thread
from unittest import mock

from django.db import connection
from django.test import Client, TransactionTestCase

from server.shots import clips
from server.shots.models import Edit, Take
from tests.server.base import ServerTest, furnish
from tests.server.binary import motion_of


class AtOnceTest(TransactionTestCase):
    def setUp(self) -> None:
        furnish(self)

    def test_of_two_steps_at_once_one_is_stored_and_the_other_hears_of_it(self) -> None:
        gate, answers = Barrier(2), []

        def post(value: float) -> None:
            client = Client()
            client.force_login(self.isla)  # type: ignore[attr-defined]
            edit = {"kind": "pose", "frame": 1, "values": {"head/ry": value}}
            body = json.dumps({"revision": 0, "casting": self.casting.pk, "edit": edit})  # type: ignore[attr-defined]
            gate.wait()
            path = f"/api/takes/{self.take.pk}/edits"  # type: ignore[attr-defined]
            answers.append(client.post(path, body, content_type="application/json").status_code)
            connection.close()

        threads = [Thread(target=post, args=(v,)) for v in (0.1, 0.2)]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        self.assertEqual(sorted(answers), [200, 409])
        self.assertEqual((Edit.objects.count(), Take.objects.get().revision), (1, 1))


class ProcessesTest(ServerTest):
    def elsewhere(self):  # type: ignore[no-untyped-def]
        """As if another process served: one that has none of this one's clips in memory."""
        return mock.patch.object(clips, "_recent", clips._Recent(8))

    def test_a_step_made_by_another_process_is_seen_by_this_one(self) -> None:
        self.pose(1, head__ry=0.1)
        with self.elsewhere():
            self.pose(5, head__ry=0.4)
        self.assertEqual(self.clip()["curves"]["head/ry"], [[1, 0.1, 2], [5, 0.4, 2]])
        self.pose(9, head__ry=0.2)
        with self.elsewhere():
            self.assertEqual([k[0] for k in self.clip()["curves"]["head/ry"]], [1, 5, 9])

    def test_undo_by_another_process_leaves_the_same_motion(self) -> None:
        self.edit({"kind": "key", "frame": 1})
        before = self.clip()
        self.pose(9, keying="whole", body__ty=-0.1)
        with self.elsewhere():
            self.post(f"/takes/{self.take.pk}/undo", {"revision": 2})
            self.assertEqual(self.clip(), before)
        self.assertEqual(self.clip(), before)

    def test_what_a_page_missed_comes_in_one_answer(self) -> None:
        self.edit({"kind": "key", "frame": 1})
        self.pose(5, head__ry=0.3)
        self.pose(7, keying="off", neck__rx=0.1)
        self.post(f"/takes/{self.take.pk}/undo", {"revision": 3})
        missed = self.get(f"/takes/{self.take.pk}/changes?since=1").json()
        self.assertEqual(missed["revision"], 4)
        change = missed["clips"][str(self.casting.pk)]
        self.assertEqual(change["curves"]["head/ry"]["rows"], [[1, 0.0, 2], [5, 0.3, 2]])
        self.assertEqual(change["pending"], {"7": None})
        nothing = self.get(f"/takes/{self.take.pk}/changes?since=4").json()
        self.assertEqual(nothing["clips"], {})

    def test_the_last_key_undone_removes_the_curve(self) -> None:
        self.pose(1, head__ry=0.3)
        answer = self.post(f"/takes/{self.take.pk}/undo", {"revision": 1}).json()
        change = answer["clips"][str(self.casting.pk)]["curves"]["head/ry"]
        self.assertEqual((change["removed"], change["rows"]), ([1], []))
        self.assertEqual(self.clip()["curves"], {})

    def test_two_characters_of_one_shot_are_keyed_apart(self) -> None:
        from server.shots.models import Casting

        second = Casting.objects.create(shot=self.shot, version=self.casting.version, name="Brannoc 2", place=1)
        self.pose(1, head__ry=0.3)
        body = {"revision": 1, "casting": second.pk, "edit": {"kind": "pose", "frame": 3, "values": {"jaw/rx": 0.2}}}
        self.assertEqual(self.post(f"/takes/{self.take.pk}/edits", body).status_code, 200)
        clips = self.get(f"/takes/{self.take.pk}").json()["clips"]
        self.assertEqual(list(clips[str(self.casting.pk)]["curves"]), ["head/ry"])
        self.assertEqual(list(clips[str(second.pk)]["curves"]), ["jaw/rx"])
        self.post(f"/takes/{self.take.pk}/goto", {"revision": 2, "step": None})
        clips = self.get(f"/takes/{self.take.pk}").json()["clips"]
        self.assertTrue(all(not clip["curves"] for clip in clips.values()))

    def test_a_set_aside_take_keeps_pending_poses_too(self) -> None:
        self.pose(7, keying="off", head__ry=0.3)
        made = self.post(f"/shots/{self.shot.pk}/takes", {"name": "Take 2", "source": self.take.pk}).json()
        copied = self.get(f"/takes/{made['id']}").json()["clips"][str(self.casting.pk)]
        self.assertEqual(copied["pending"], {"7": {"head/ry": 0.3}})
        self.assertEqual(
            self.post(f"/takes/{made['id']}", {"name": "Second try"}, "patch").json()["name"], "Second try"
        )
        other = self.post(f"/shots/{self.shot.pk}/takes", {"name": "x", "source": 999_999})
        self.assertEqual(other.status_code, 422)

    def test_the_pending_pose_of_a_frame_comes_as_bytes_with_it_laid_over(self) -> None:
        from server.characters import store as characters

        self.edit({"kind": "key", "frame": 1})
        self.pose(7, keying="off", body__ty=-0.1)
        body = self.get(f"/takes/{self.take.pk}/pending?casting={self.casting.pk}&frame=7").content
        _, first, figures = motion_of(body)
        rig = characters.rig(self.casting.version)
        values = figures[self.casting.pk].values
        self.assertEqual((first, values.shape), (7, (1, len(rig.channels))))
        self.assertAlmostEqual(float(values[0, rig.number("body/ty")]), -0.1, places=6)

    def test_labels_name_the_act_the_part_and_the_frame(self) -> None:
        self.edit({"kind": "key", "frame": 1})
        for edit, label in (
            ({"kind": "pose", "frame": 3, "values": {"head/ry": 0.1, "neck/rx": 0.1, "chest/rx": 0.1}}, "Pose "),
            ({"kind": "limb", "frame": 3, "limb": "arm.L", "to": "ik"}, "left arm to IK at 3"),
            ({"kind": "reset", "frame": 3, "controls": ["head"], "kinds": ["turn"]}, "Reset head at 3, turn only"),
            ({"kind": "duplicate", "frames": [1], "by": 24}, "Duplicate column 1 by +24"),
            ({"kind": "delete", "frames": [25]}, "Delete column 25"),
            ({"kind": "paste", "frame": 9, "values": {"head/ry": 0.2}}, "Paste a column at 9"),
        ):
            answer = self.edit(edit).json()
            self.assertTrue(answer["label"].startswith(label), answer["label"])
