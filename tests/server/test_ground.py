"""Nobody's work goes astray: steps that are sent again, clips of one moment, what grows."""

from __future__ import annotations

import uuid
from threading import Event, Thread
from typing import Any
from unittest import mock

import numpy as np
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import connection
from django.test import Client, TransactionTestCase
from django.test.utils import CaptureQueriesContext

from hame.clip.clip import Clip
from hame.clip.curve import from_keys
from server.shots import clips, since, store
from server.shots.models import Casting, Change, Difference, Edit, Shot, Take
from server.shots.scenes import cast_of
from tests.pictures import png
from tests.server.base import ServerTest, furnish


def new_id() -> str:
    return uuid.uuid4().hex


class SentAgainTest(ServerTest):
    """A step has a name: sending it again makes it once, and the answer is the same."""

    def send(self, edit: dict[str, Any], revision: int, key: str) -> Any:
        body = {"revision": revision, "casting": self.casting.pk, "edit": edit, "id": key}
        return self.post(f"/takes/{self.take.pk}/edits", body)

    def test_every_kind_of_step_can_be_sent_twice(self) -> None:
        edits = [
            {"kind": "key", "frame": 1}, {"kind": "pose", "frame": 9, "values": {"head/ry": 0.3}},
            {"kind": "duplicate", "frames": [1], "by": 16}, {"kind": "insert", "after": 1, "count": 2},
            {"kind": "delete", "frames": [19]},
        ]  # fmt: skip
        for revision, edit in enumerate(edits):
            key = new_id()
            first, again = self.send(edit, revision, key), self.send(edit, revision, key)
            self.assertEqual((first.status_code, again.status_code), (200, 200))
            self.assertEqual(first.json(), again.json())
        self.assertEqual((Edit.objects.count(), Take.objects.get().revision), (5, 5))

    def test_a_step_sent_again_after_others_brings_the_page_up_to_date(self) -> None:
        key = new_id()
        self.send({"kind": "pose", "frame": 1, "values": {"head/ry": 0.3}}, 0, key)
        self.pose(5, neck__rx=0.2)
        again = self.send({"kind": "pose", "frame": 1, "values": {"head/ry": 0.3}}, 0, key).json()
        self.assertEqual(again["revision"], 2)
        self.assertEqual(set(again["clips"][str(self.casting.pk)]["curves"]), {"head/ry", "neck/rx"})
        self.assertEqual(Edit.objects.count(), 2)

    def test_undo_redo_and_going_to_a_step_can_be_sent_twice(self) -> None:
        self.pose(1, head__ry=0.1)
        self.pose(2, head__ry=0.2)
        for way, body in (("undo", {}), ("redo", {}), ("goto", {"step": None})):
            revision = Take.objects.get().revision
            body = {"revision": revision, "id": new_id(), **body}
            for _ in range(2):
                answer = self.post(f"/takes/{self.take.pk}/{way}", body)
                self.assertEqual((answer.status_code, answer.json()["revision"]), (200, revision + 1), way)

    def test_a_name_of_somebody_else_s_step_is_refused(self) -> None:
        key = new_id()
        self.send({"kind": "key", "frame": 1}, 0, key)
        self.as_user("maud")
        answer = self.send({"kind": "key", "frame": 1}, 1, key)
        self.assertEqual(answer.status_code, 422)
        for odd in ("", "x" * 65, "../../etc"):
            self.assertEqual(self.send({"kind": "key", "frame": 1}, 1, odd).status_code, 422)


class TogetherTest(ServerTest):
    """Steps made at the same moment: those that have nothing to do with one another are all made."""

    def send(self, user: str, revision: int, edit: dict[str, Any], casting: int | None = None) -> Any:
        self.as_user(user)
        body = {"revision": revision, "casting": casting or self.casting.pk, "edit": edit}
        return self.post(f"/takes/{self.take.pk}/edits", body)

    def undo(self, user: str, which: str = "undo", revision: int | None = None) -> Any:
        self.as_user(user)
        revision = Take.objects.get().revision if revision is None else revision
        return self.post(f"/takes/{self.take.pk}/{which}", {"revision": revision})

    def test_other_parts_other_frames_and_other_characters_need_no_asking(self) -> None:
        second = Casting.objects.create(shot=self.shot, version=self.casting.version, name="Brannoc 2", place=1)
        self.send("isla", 0, {"kind": "pose", "frame": 5, "values": {"head/ry": 0.3}})
        for edit, casting in (
            ({"kind": "pose", "frame": 5, "values": {"neck/rx": 0.1}}, None),
            ({"kind": "pose", "frame": 9, "values": {"head/ry": 0.6}}, None),
            ({"kind": "label", "frame": 5, "name": "Down", "rank": "key"}, None),
            ({"kind": "key", "frame": 5}, second.pk),
        ):
            answer = self.send("maud", 0, edit, casting)
            self.assertEqual(answer.status_code, 200, edit)
        told = answer.json()  # the page was at 0: it gets all that happened since
        self.assertEqual(told["revision"], 5)
        self.assertEqual(told["clips"][str(self.casting.pk)]["curves"]["head/ry"]["rows"], [[5, 0.3, 2], [9, 0.6, 2]])
        store.forget()
        self.assertEqual(self.clip()["curves"]["head/ry"], [[5, 0.3, 2], [9, 0.6, 2]])

    def test_a_true_clash_asks_and_names_what_clashed(self) -> None:
        self.send("isla", 0, {"kind": "pose", "frame": 5, "values": {"head/ry": 0.3}})
        self.send("isla", 1, {"kind": "pose", "frame": 5, "values": {"neck/rx": 0.3}})
        answer = self.send("maud", 0, {"kind": "pose", "frame": 5, "values": {"head/ry": -0.2}})
        self.assertEqual(answer.status_code, 409)
        self.assertEqual([step["label"] for step in answer.json()["clash"]], ["Pose head at 5"])
        self.assertIn("Isla's “Pose head at 5”", answer.json()["message"])
        moved = self.send("maud", 0, {"kind": "insert", "after": 1, "count": 2})
        self.assertEqual(moved.status_code, 422)  # there was nothing to move when it was made
        self.assertEqual(self.clip()["curves"]["head/ry"], [[5, 0.3, 2]])

    def test_what_an_edit_read_counts_as_well_as_what_it_wrote(self) -> None:
        for frame, value in ((1, 0.0), (9, 0.8)):
            self.send("isla", frame // 9, {"kind": "pose", "frame": frame, "values": {"head/ry": value}})
        self.send("isla", 2, {"kind": "pose", "frame": 9, "values": {"head/ry": 0.4}})
        breakdown = {"kind": "breakdown", "frame": 5, "share": 0.5}
        self.assertEqual(self.send("maud", 2, breakdown).status_code, 409)  # it would be half of something else

    def test_undo_takes_back_one_s_own_last_step(self) -> None:
        self.send("isla", 0, {"kind": "pose", "frame": 5, "values": {"head/ry": 0.3}})
        self.send("maud", 1, {"kind": "pose", "frame": 9, "values": {"neck/rx": 0.2}})
        answer = self.undo("isla").json()
        self.assertIn("only your own step", answer["notes"][0])
        self.assertEqual(set(self.clip()["curves"]), {"neck/rx"})
        self.assertTrue(answer["can_redo"])
        again = self.undo("isla", "redo")
        self.assertEqual(again.status_code, 200)
        self.assertEqual(set(self.clip()["curves"]), {"head/ry", "neck/rx"})
        self.assertEqual(self.undo("isla").json()["label"], "Undone: Redo: Pose head at 5")
        self.assertEqual(set(self.clip()["curves"]), {"neck/rx"})
        self.undo("maud")
        self.assertEqual(self.clip()["curves"], {})
        self.assertIn("none of yours is near", self.undo("maud").json()["message"])

    def test_undo_says_when_one_s_own_step_cannot_be_taken_back_alone(self) -> None:
        self.send("isla", 0, {"kind": "pose", "frame": 5, "values": {"head/ry": 0.3}})
        self.send("maud", 1, {"kind": "pose", "frame": 5, "values": {"head/ry": 0.9}})
        answer = self.undo("isla")
        self.assertEqual(answer.status_code, 422)
        self.assertIn("“Pose head at 5”, cannot be taken back by itself", answer.json()["message"])
        self.assertIn("Maud", answer.json()["message"])
        self.assertEqual(self.clip()["curves"]["head/ry"], [[5, 0.9, 2]])

    def test_undo_from_a_page_that_lags_takes_back_what_it_means_or_asks(self) -> None:
        self.send("isla", 0, {"kind": "pose", "frame": 5, "values": {"head/ry": 0.3}})
        self.send("maud", 1, {"kind": "pose", "frame": 9, "values": {"neck/rx": 0.2}})
        self.assertEqual(self.undo("isla", revision=1).status_code, 200)
        self.send("isla", 3, {"kind": "pose", "frame": 7, "values": {"head/ry": 0.1}})
        self.assertEqual(self.undo("isla", revision=3).status_code, 409)  # another page of Isla's has gone on
        self.assertEqual(self.post(f"/takes/{self.take.pk}/goto", {"revision": 1, "step": None}).status_code, 409)


class OneMomentTest(TransactionTestCase):
    def setUp(self) -> None:
        furnish(self)
        self.client = Client()
        self.client.force_login(self.isla)  # type: ignore[attr-defined]
        store.forget()

    def commit(self, value: float) -> None:
        take = Take.objects.get()
        keys = {f"{c}/rx": from_keys({1: value}) for c in ("head", "neck", "chest")}
        user = self.isla  # type: ignore[attr-defined]
        casting = self.casting.pk  # type: ignore[attr-defined]
        edit = mock.Mock(side_effect=lambda scene: store.Made({casting: scene.figure(casting).clip.with_curves(keys)}))
        store.commit(take.pk, cast_of(take.shot), store.Basis(take.revision), user, "All to one value", edit)

    def test_a_clip_is_read_as_it_was_at_one_moment(self) -> None:
        """A commit that falls between the reading of marks and of rows must not mix two revisions."""
        with mock.patch.object(clips, "MOST_STEPS", 1):  # a snapshot with every step
            self.commit(0.1)
            store.forget()
            read = clips.from_json if hasattr(clips, "from_json") else None
            self.assertIsNone(read)
            real = clips.ClipMarks.objects.filter
            done = Event()

            def between(**where: Any) -> Any:
                found = list(real(**where).values("labels", "tracks", "revision"))
                if not done.is_set():
                    done.set()
                    other = Thread(target=lambda: (self.commit(0.7), connection.close()))
                    other.start()
                    other.join()
                result = mock.Mock()
                result.values.return_value.first.return_value = found[0] if found else None
                return result

            take = Take.objects.get()
            with mock.patch.object(clips.ClipMarks.objects, "filter", side_effect=between):
                seen = store.open_clip(take, self.casting.pk)  # type: ignore[attr-defined]
            values = {float(curve.values[0]) for curve in seen.curves.values()}
            self.assertEqual((take.revision, values), (1, {0.1}))
            self.assertEqual(Take.objects.get().revision, 2)
            now = store.open_clip(Take.objects.get(), self.casting.pk)  # type: ignore[attr-defined]
            self.assertEqual({float(curve.values[0]) for curve in now.curves.values()}, {0.7})

    def test_a_page_that_asks_meanwhile_gets_clip_and_revision_that_belong_together(self) -> None:
        self.commit(0.1)
        late = Take.objects.get()
        self.commit(0.7)
        store.forget()
        seen = store.open_clip(late, self.casting.pk)  # type: ignore[attr-defined]
        self.assertEqual((late.revision, float(seen.curves["head/rx"].values[0])), (2, 0.7))


class AtHandTest(ServerTest):
    """The clips that a process keeps: the newest of each, within bounds, and never one for another."""

    def held(self, value: float) -> clips.Held:
        clip = Clip().with_curves({"head/rx": from_keys({1: value})})
        return clips.Held(clip, clip, 0)

    def test_a_step_hands_on_only_what_it_left_alone(self) -> None:
        recent = clips._Recent()
        recent.put(1, 10, 5, self.held(0.1))
        recent.put(1, 11, 5, self.held(0.2))
        recent.step(1, 6, {10: self.held(0.3)})
        self.assertEqual(recent.get(1, 11, 6), recent.get(1, 11, 5))
        changed = recent.get(1, 10, 6)
        assert changed is not None
        self.assertEqual(changed.clip.curves["head/rx"].values.tolist(), [0.3])
        self.assertIsNone(recent.get(1, 10, 5))

    def test_steps_that_are_told_in_another_order_hand_on_nothing_old(self) -> None:
        """Of two characters' steps, the later one is told first."""
        recent = clips._Recent()
        recent.put(1, 10, 5, self.held(0.1))
        recent.put(1, 11, 5, self.held(0.2))
        recent.step(1, 7, {11: self.held(0.4)})
        recent.step(1, 6, {10: self.held(0.3)})
        self.assertIsNone(recent.get(1, 10, 7))
        self.assertIsNone(recent.get(1, 11, 6))
        seven = recent.get(1, 11, 7)
        assert seven is not None
        self.assertEqual(seven.clip.curves["head/rx"].values.tolist(), [0.4])

    def test_superseded_revisions_take_no_room_and_a_large_cast_stays(self) -> None:
        recent = clips._Recent(50 * self.held(0).weight())
        for revision in range(1, 200):
            recent.step(1, revision, {10: self.held(revision)})
        for casting in range(100, 140):
            recent.put(1, casting, 199, self.held(0))
        self.assertEqual(len(recent._clips), 41)
        for casting in range(200, 300):
            recent.put(2, casting, 1, self.held(0))
        self.assertLessEqual(recent.weight, 50 * self.held(0).weight())
        self.assertIsNone(recent.get(1, 10, 199))

    def test_what_is_derived_of_a_clip_counts_as_it_is_used(self) -> None:
        recent = clips._Recent()
        held = self.held(0.5)
        recent.put(1, 10, 5, held)
        before = recent.weight
        held.clip.remembered("a large thing", lambda: np.zeros(100_000))
        recent.get(1, 10, 5)
        self.assertGreater(recent.weight, before + 800_000)
        recent = clips._Recent(1_000_000)
        held = self.held(0.5)
        recent.put(1, 10, 5, held)
        held.clip.remembered("a thing larger than all", lambda: np.zeros(1_000_000))
        self.assertIs(recent.get(1, 10, 5), held)  # whoever asked has it, but it is kept no longer
        self.assertEqual((recent.weight, recent.get(1, 10, 5)), (0, None))


class LongHistoryTest(ServerTest):
    """What an undo, a stale step or a page that comes back costs does not depend on how long the history is."""

    def many(self, count: int) -> None:
        """A history of small steps, laid down at once."""
        self.edit({"kind": "pose", "frame": 1, "values": {"head/ry": 0.0}})
        take, parent = Take.objects.get(), Edit.objects.get()
        made = []
        for n in range(count):
            value = 0.001 * n
            patch = {
                "curves": {"head/ry": [[[1, value, 2]], [[1, value + 0.001, 2]]]},
                "pending": {},
                "ranges": [[None, None]],
            }
            user = self.isla  # type: ignore[attr-defined]
            parent = Edit.objects.create(take=take, parent=parent, user=user, label=f"step {n}")
            Difference.objects.create(edit=parent, casting=self.casting, patch=patch, size=12)
            made.append(Change(take=take, revision=n + 2, edit=parent, forward=True, user=self.isla))  # type: ignore[attr-defined]
        Change.objects.bulk_create(made)
        Take.objects.filter(pk=take.pk).update(revision=count + 1, head=parent, tip=parent)
        store.forget()
        self.get(f"/takes/{take.pk}")

    def queries(self, work: Any) -> tuple[int, int]:
        with CaptureQueriesContext(connection) as asked:
            answer = work()
        self.assertIn(answer.status_code, (200, 409), answer.content[:300])
        return len(asked.captured_queries), answer.status_code

    def test_undo_and_redo_read_as_many_rows_after_a_long_history(self) -> None:
        self.many(150)
        path = f"/takes/{self.take.pk}"
        with mock.patch("server.shots.history.line_to", side_effect=AssertionError("the whole line was read")):
            for way in ("undo", "undo", "redo"):
                revision = Take.objects.get().revision
                with mock.patch("server.shots.since.patch_from_json", wraps=since.patch_from_json) as read:
                    self.queries(lambda way=way, revision=revision: self.post(f"{path}/{way}", {"revision": revision}))  # type: ignore[misc]
                self.assertEqual(read.call_count, 1)

    def test_a_page_far_behind_gets_whole_clips_and_no_patch_is_read(self) -> None:
        self.many(150)
        with mock.patch("server.shots.since.patch_from_json", side_effect=AssertionError("a patch was read")):
            missed = self.get(f"/takes/{self.take.pk}/changes?since=0").json()
            answer = self.edit({"kind": "pose", "frame": 1, "values": {"head/ry": 0.9}}, revision=1)
        change = missed["clips"][str(self.casting.pk)]
        self.assertTrue(change["all"])
        self.assertEqual(missed["moves"], {str(self.casting.pk): [[None, None]]})
        self.assertAlmostEqual(change["curves"]["head/ry"]["rows"][0][1], 0.15)
        self.assertEqual(answer.status_code, 409)
        self.assertLessEqual(len(answer.json()["since"]), 20)


class BoundsTest(ServerTest):
    def test_a_place_beyond_all_measure_is_refused_and_the_take_stays_open(self) -> None:
        for value in (1e160, 1e39, -1e308, 2000.0):
            answer = self.pose(1, body__tx=value)
            self.assertEqual(answer.status_code, 422)
            self.assertIn("within a kilometre", answer.json()["message"])
        self.pose(1, body__tx=999.0)
        path = f"/takes/{self.take.pk}/motion?casting={self.casting.pk}&first=1&last=3"
        numbers = np.frombuffer(self.get(path).content, "<f4", offset=24)
        self.assertTrue(np.isfinite(numbers).all())
        hand_off = self.get(f"/takes/{self.take.pk}/handoff.glb?casting={self.casting.pk}&first=1&last=3")
        self.assertEqual(hand_off.status_code, 200)

    def test_a_limb_that_would_move_asks_and_is_changed_when_told_so(self) -> None:
        self.pose(1, **{"leg__L__goal__roll": 0.0})
        values = {"leg.L.goal/roll": 0.69, "leg.L.toe/rx": -1.2, "body/ty": -0.1}
        self.edit({"kind": "pose", "frame": 1, "values": values})
        answer = self.edit({"kind": "limb", "frame": 1, "limb": "leg.L", "to": "fk"})
        self.assertEqual((answer.status_code, answer.json()["asks"]), (422, True))
        self.assertRegex(answer.json()["message"], "would (move|turn) by")
        done = self.edit({"kind": "limb", "frame": 1, "limb": "leg.L", "to": "fk", "anyway": True})
        self.assertEqual(done.status_code, 200)
        self.assertRegex(done.json()["notes"][0], "(moved|turned) by")

    def test_a_picture_of_too_many_pixels_is_refused_by_its_head(self) -> None:
        upload = {"file": SimpleUploadedFile("a.png", png(told=(60_000, 60_000)))}
        answer = self.client.post(f"/api/shots/{self.shot.pk}/sheet", upload)
        self.assertEqual(answer.status_code, 422)
        self.assertIn("pixels", answer.json()["message"])

    def test_a_replaced_picture_and_one_taken_off_the_sheet_leave_no_file(self) -> None:
        self.client.put(f"/api/shots/{self.shot.pk}/thumbnail", png(), content_type="image/png")
        first = Shot.objects.get().thumbnail
        with self.captureOnCommitCallbacks(execute=True):
            self.client.put(f"/api/shots/{self.shot.pk}/thumbnail", png(9, 9), content_type="image/png")
        self.assertFalse(first.storage.exists(first.name))
        self.client.post(f"/api/shots/{self.shot.pk}/sheet", {"file": SimpleUploadedFile("a.png", png())})
        image = self.shot.images.get()
        with self.captureOnCommitCallbacks(execute=True):
            self.client.delete(f"/api/sheet/{image.pk}")
        self.assertFalse(image.picture.storage.exists(image.picture.name))
