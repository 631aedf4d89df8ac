"""Steps that change several of the cast at once, spans of any kind in the database, and answers by scene."""

from __future__ import annotations

from typing import Any
from unittest import mock

import numpy as np

from hame.clip import spans
from hame.clip.curve import from_keys
from hame.edits.making import Made
from hame.errors import BadEdit
from hame.evaluate.evaluate import channel_values, evaluate, joints
from hame.evaluate.posed import posed
from hame.scene.joined import played
from hame.scene.scene import Scene
from server.characters import store as characters
from server.errors import Stale
from server.shots import store
from server.shots.models import Casting, Difference, Edit, Take
from server.shots.scenes import cast_of
from tests.hame.test_spans import Gust
from tests.server.base import ServerTest
from tests.server.binary import motion_of


class TwoTest(ServerTest):
    """A shot with two of the cast."""

    def setUp(self) -> None:
        super().setUp()
        self.other = Casting.objects.create(shot=self.shot, version=self.casting.version, name="Brannoc 2", place=1)
        self.a, self.b = self.casting.pk, self.other.pk

    def nod(self, value: float, *castings: int, revision: int | None = None, user: str = "isla") -> store.Committed:
        """A step that nods the heads of several of the cast at once."""

        def make(scene: Scene) -> Made:
            heads = {"head/rx": from_keys({1: value})}
            return Made({c: scene.figure(c).clip.with_curves(heads) for c in castings or (self.a, self.b)})

        take = Take.objects.get()
        at = take.revision if revision is None else revision
        return store.commit(take.pk, cast_of(take.shot), store.Basis(at), getattr(self, user), "Nod together", make)

    def heads(self) -> list[list[float]]:
        store.forget()
        clips = store.open_clips(Take.objects.get(), [self.a, self.b])
        return [c.curves["head/rx"].values.tolist() if "head/rx" in c.curves else [] for c in clips.values()]


class StepTest(TwoTest):
    def test_it_is_one_step_of_the_history_and_one_undo(self) -> None:
        done = self.nod(0.2)
        self.assertEqual((set(done.patches), Take.objects.get().revision), ({self.a, self.b}, 1))
        self.assertEqual(self.heads(), [[0.2], [0.2]])
        history = self.get(f"/takes/{self.take.pk}/history").json()
        self.assertEqual([step["label"] for step in history], ["Nod together"])
        back = self.post(f"/takes/{self.take.pk}/undo", {"revision": 1}).json()
        self.assertEqual(set(back["clips"]), {str(self.a), str(self.b)})
        self.assertEqual(set(back["moves"]), {str(self.a), str(self.b)})
        self.assertEqual(self.heads(), [[], []])
        self.post(f"/takes/{self.take.pk}/redo", {"revision": 2})
        self.assertEqual(self.heads(), [[0.2], [0.2]])

    def test_what_a_page_missed_of_it_comes_for_both(self) -> None:
        self.nod(0.2)
        missed = self.get(f"/takes/{self.take.pk}/changes?since=0").json()
        self.assertEqual(set(missed["clips"]), {str(self.a), str(self.b)})
        self.assertEqual(missed["moves"][str(self.b)], [[None, None]])

    def test_all_of_it_is_stored_or_nothing(self) -> None:
        with (
            mock.patch.object(Difference.objects, "bulk_create", side_effect=RuntimeError("the disk is full")),
            self.assertRaises(RuntimeError),
        ):
            self.nod(0.2)
        self.assertEqual((Edit.objects.count(), Take.objects.get().revision, self.heads()), (0, 0, [[], []]))

    def test_made_on_an_older_take_it_is_made_again_unless_one_of_them_was_touched(self) -> None:
        self.nod(0.1, self.a)
        self.nod(0.3, self.b, revision=0)  # about the other only
        self.assertEqual(self.heads(), [[0.1], [0.3]])
        with self.assertRaises(Stale) as clash:
            self.nod(0.5, revision=1)
        self.assertEqual([told["label"] for told in clash.exception.clash], ["Nod together"])
        self.assertEqual(self.heads(), [[0.1], [0.3]])

    def test_undo_past_others_takes_all_of_it_back_or_nothing(self) -> None:
        self.nod(0.2)
        self.pose(9, jaw__rx=0.1)  # a later step of Isla's own, on one of them
        Edit.objects.filter(label="Nod together").update(user=self.maud)  # type: ignore[attr-defined]
        self.as_user("maud")
        answer = self.post(f"/takes/{self.take.pk}/undo", {"revision": 2}).json()
        self.assertEqual(answer["label"], "Undone: Nod together")
        self.assertEqual(self.heads(), [[], []])
        self.post(f"/takes/{self.take.pk}/redo", {"revision": 3})
        self.as_user("isla")
        body = {"revision": 4, "casting": self.b, "edit": {"kind": "pose", "frame": 1, "values": {"head/rx": 0.4}}}
        self.assertEqual(self.post(f"/takes/{self.take.pk}/edits", body).status_code, 200)
        self.as_user("maud")
        refused = self.post(f"/takes/{self.take.pk}/undo", {"revision": 5})
        self.assertEqual(refused.status_code, 422, refused.content)
        self.assertEqual(self.heads(), [[0.2], [0.4]])

    def test_going_back_and_forth_over_many_leads_to_the_same(self) -> None:
        steps = []
        for n in range(6):
            self.nod(0.1 * n + 0.1, *((self.a,), (self.b,), ())[n % 3])
            steps.append((Take.objects.get().head_id, self.heads()))
        for step, heads in [*reversed(steps), *steps]:
            revision = Take.objects.get().revision
            self.post(f"/takes/{self.take.pk}/goto", {"revision": revision, "step": step})
            self.assertEqual(self.heads(), heads)


class SpanTest(ServerTest):
    def setUp(self) -> None:
        super().setUp()
        self.addCleanup(spans.SPANS.pop, "gust", None)
        spans.SPANS["gust"] = Gust

    def test_a_kind_that_the_server_does_not_know_is_stored_told_and_taken_back(self) -> None:
        take = Take.objects.get()
        track = "gust/arm.L.hand"

        def blow(scene: Scene) -> Made:
            return Made({self.casting.pk: scene.figure(self.casting.pk).clip.with_tracks({track: [Gust(5, 8, 0.2)]})})

        store.commit(take.pk, cast_of(take.shot), store.Basis(0), self.isla, "Blow", blow)  # type: ignore[attr-defined]
        missed = self.get(f"/takes/{self.take.pk}/changes?since=0").json()
        told = {"kind": "gust", "start": 5, "end": 8, "height": 0.2}
        self.assertEqual(missed["clips"][str(self.casting.pk)]["tracks"], {track: [told]})
        self.assertEqual(missed["moves"], {str(self.casting.pk): [[4, 9]]})
        store.forget()
        self.assertEqual(store.open_clip(Take.objects.get(), self.casting.pk).tracks[track], (Gust(5, 8, 0.2),))
        copy = store.copy_take(Take.objects.get(), "Copy", self.isla)  # type: ignore[attr-defined]
        store.forget()
        self.assertEqual(store.open_clip(copy, self.casting.pk).tracks[track], (Gust(5, 8, 0.2),))
        self.post(f"/takes/{self.take.pk}/undo", {"revision": 1})
        self.assertEqual(dict(store.open_clip(Take.objects.get(pk=self.take.pk), self.casting.pk).tracks), {})


class MotionTest(TwoTest):
    def ask(self, *castings: int, **more: Any) -> Any:
        wanted = "&".join(f"casting={c}" for c in castings)
        return self.get(f"/takes/{self.take.pk}/motion?{wanted}&first=1&last=12")

    def test_frames_of_several_come_in_one_answer_as_each_alone(self) -> None:
        self.nod(0.3)
        self.nod(-0.4, self.b)
        _, _, both = motion_of(self.ask(self.b, self.a).content)
        self.assertEqual(list(both), [self.b, self.a])
        for casting in (self.a, self.b):
            alone = motion_of(self.ask(casting).content)[2][casting]
            for part in ("joints", "controls", "values"):
                np.testing.assert_array_equal(getattr(both[casting], part), getattr(alone, part))
        self.assertGreater(float(np.abs(both[self.a].joints - both[self.b].joints).max()), 0.01)

    def test_who_does_not_play_here_is_refused(self) -> None:
        for castings in ((self.a, 999_999), ()):
            self.assertEqual(self.ask(*castings).status_code, 422)

    def test_programs_joined_pose_as_each_alone_to_the_last_bit(self) -> None:
        self.nod(0.3)
        scene = cast_of(self.shot).scene(lambda c: store.open_clip(Take.objects.get(), c))
        rig = characters.rig(self.casting.version)
        figures = {c: scene.figure(c) for c in (self.a, self.b)}
        rng = np.random.default_rng(4)
        values = [rig.rest + rng.normal(0, 0.2, (7, len(rig.channels))) for _ in range(3)]
        for one, alone in zip(posed([rig] * 3, values), values, strict=True):
            np.testing.assert_array_equal(joints(rig, one.nodes), joints(rig, evaluate(rig, alone)))
        frames = range(1, 9)
        for casting, found in played(figures, frames).items():
            own = evaluate(rig, channel_values(rig, figures[casting].clip, frames))
            np.testing.assert_array_equal(found.nodes, own)

    def test_a_step_that_cannot_be_made_changes_nothing(self) -> None:
        def make(scene: Scene) -> Made:
            scene.figure(self.a)
            raise BadEdit("not like this")

        take = Take.objects.get()
        with self.assertRaisesRegex(BadEdit, "not like this"):
            store.commit(take.pk, cast_of(take.shot), store.Basis(0), self.isla, "x", make)  # type: ignore[attr-defined]
        self.assertEqual(Take.objects.get().revision, 0)
