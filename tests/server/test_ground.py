"""Nobody's work goes astray: names that are keys, steps that are sent again, clips of one moment, what grows."""

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

from hame.character import skeleton as skeletons
from hame.clip.clip import Clip
from hame.clip.curve import from_keys
from hame.formats.gltf_write import write_character
from server.characters import store as characters
from server.characters.models import Character, CharacterVersion
from server.productions.models import Production
from server.shots import clips, since, store
from server.shots.models import Casting, Change, Curve, Difference, Edit, SelectionSet, Shot, Take
from server.shots.scenes import cast_of
from tests.hame.broken_files import changed
from tests.hame.foreign import foreign_character
from tests.pictures import png
from tests.server.base import ServerTest, furnish


def new_id() -> str:
    return uuid.uuid4().hex


class ExactNamesTest(ServerTest):
    """Names that differ by case, accents or pictographs only are different names."""

    NAMES = ("Tail", "tail", "TAIL", "e", "\u00e9", "e\u0301", "\U0001f980", "\U0001f99e", "tail ")

    def test_keys_of_joints_that_are_called_alike_outlast_a_snapshot(self) -> None:
        skeleton, skin = foreign_character()
        names = [self.NAMES[n] if n < len(self.NAMES) else name for n, name in enumerate(skeleton.names)]
        named = skeletons.build(names, skeleton.parents, skeleton.rest)
        upload = {"file": SimpleUploadedFile("x.glb", write_character("x", named, skin)), "name": "Lobster"}
        made = self.client.post(f"/api/productions/{self.production.pk}/characters", upload).json()
        roles = {"hips": names[0]}
        self.assertEqual(self.post(f"/characters/{made['id']}/plan", {"roles": roles}, "put").status_code, 200)
        shot = self.post(
            f"/productions/{self.production.pk}/shots", {"name": "x", "character_ids": [made["id"]]}
        ).json()
        take, cast = shot["takes"][0]["id"], shot["cast"][0]["id"]
        rig = characters.rig(Casting.objects.get(pk=cast).version)
        alike = [f"{name}/rx" for name in self.NAMES if rig.has_channel(f"{name}/rx")]
        self.assertGreaterEqual(len(alike), 8)
        with mock.patch.object(clips, "MOST_STEPS", 2):
            for revision in range(4):
                values = {address: 0.01 * n + 0.1 * revision for n, address in enumerate(alike)}
                edit = {"kind": "pose", "frame": revision + 1, "values": values}
                answer = self.post(f"/takes/{take}/edits", {"revision": revision, "casting": cast, "edit": edit})
                self.assertEqual(answer.status_code, 200, answer.content)
        self.assertEqual(Curve.objects.filter(take_id=take).count(), len(alike))
        store.forget()  # as after a restart
        kept = self.get(f"/takes/{take}").json()["clips"][str(cast)]["curves"]
        self.assertEqual({a: len(rows) for a, rows in kept.items()}, dict.fromkeys(alike, 4))
        self.assertEqual(kept["tail/rx"][3][1], 0.01 * alike.index("tail/rx") + 0.1 * 3)

    def test_selection_sets_called_alike_are_kept_apart(self) -> None:
        for name, control in (("Face", "head"), ("face", "jaw"), ("Fac\u00e9", "neck")):
            self.post(f"/castings/{self.casting.pk}/sets", {"name": name, "controls": [control]})
        self.assertEqual({s.name: s.controls for s in SelectionSet.objects.all()},
                         {"Face": ["head"], "face": ["jaw"], "Fac\u00e9": ["neck"]})  # fmt: skip

    def test_the_longest_name_of_a_joint_fits_its_column(self) -> None:
        long = changed(lambda d: d["nodes"][-2].update(name="L" * 400))
        character = characters.bring_in(self.production.pk, "Long", long, self.isla)  # type: ignore[attr-defined]
        longest = max(len(a) for a in characters.rig(character.current).addresses)
        self.assertLessEqual(longest, Curve._meta.get_field("channel").max_length or 0)


class WithoutRigTest(ServerTest):
    """A character whose joints nobody can tell yet is stored, listed and mapped by hand."""

    def bring(self) -> dict[str, Any]:
        skeleton, skin = foreign_character()
        rows = [f"link {n}" for n in range(len(skeleton))]
        rest = skeleton.rest.copy()
        rest[:, :3] = [0, 0.1, 0]  # a chain in a line: no hips to be seen
        chain = skeletons.build(rows, skeleton.parents, rest)
        upload = {"file": SimpleUploadedFile("x.glb", write_character("x", chain, skin)), "name": "Chain"}
        answer = self.client.post(f"/api/productions/{self.production.pk}/characters", upload)
        self.assertEqual(answer.status_code, 200, answer.content)
        found: dict[str, Any] = answer.json()
        return found

    def test_it_is_listed_beside_the_others_and_can_be_mapped(self) -> None:
        made = self.bring()
        self.assertIn("hips", made["problem"])
        self.assertEqual(made["controls"], 0)
        listed = {c["name"]: c for c in self.get(f"/productions/{self.production.pk}/characters").json()}
        self.assertEqual((listed["Chain"]["controls"], listed["Brannoc"]["problem"]), (0, ""))
        detail = self.get(f"/characters/{made['id']}").json()
        self.assertEqual(detail["roles"], {})
        refused = self.post(f"/productions/{self.production.pk}/shots", {"name": "x", "character_ids": [made["id"]]})
        self.assertEqual(refused.status_code, 422)
        self.assertIn("Chain has no rig yet", refused.json()["message"])
        mapped = self.post(f"/characters/{made['id']}/plan", {"roles": {"hips": "link 0"}}, "put").json()
        self.assertEqual(mapped["problem"], "")
        self.assertGreater(mapped["controls"], 5)
        begun = self.post(f"/productions/{self.production.pk}/shots", {"name": "x", "character_ids": [made["id"]]})
        self.assertEqual(begun.status_code, 200)

    def test_a_version_whose_file_is_gone_does_not_take_the_list_along(self) -> None:
        version = self.character.current
        CharacterVersion.objects.filter(pk=version.pk).update(card=None, mesh="characters/mesh/nowhere.glb")
        characters._read.cache_clear()
        found = self.get(f"/productions/{self.production.pk}/characters").json()
        self.assertIn("cannot be read", found[0]["problem"])

    def test_listing_opens_no_file(self) -> None:
        self.get(f"/productions/{self.production.pk}/characters")
        with mock.patch.object(characters, "read", side_effect=AssertionError):
            self.assertEqual(self.get(f"/productions/{self.production.pk}/characters").status_code, 200)

    def test_turning_a_figure_by_hand_begins_a_version_and_keeps_the_roles(self) -> None:
        detail = self.get(f"/characters/{self.character.pk}").json()
        body = {"roles": detail["roles"], "turn": 90}
        self.assertEqual(self.post(f"/characters/{self.character.pk}/plan", body, "put").json()["version"], 2)
        turned = self.get(f"/characters/{self.character.pk}").json()
        self.assertEqual((turned["facing"], turned["roles"]), (-90, detail["roles"]))
        where = dict(zip(turned["skeleton"]["names"], turned["skeleton"]["places"], strict=True))
        self.assertGreater(where["toe_l"][0] - where["foot_l"][0], 0.1)

    def test_files_are_kept_by_the_page_only_under_their_stamp(self) -> None:
        cast = self.get(f"/shots/{self.shot.pk}").json()["cast"][0]
        kept = self.client.get(f"/api/castings/{cast['id']}/mesh.glb?v={cast['mesh']}")
        self.assertIn("immutable", kept["Cache-Control"])
        for other in ("", "?v=1-old"):
            self.assertEqual(
                self.client.get(f"/api/castings/{cast['id']}/mesh.glb{other}")["Cache-Control"], "no-cache"
            )


class HostileFilesTest(ServerTest):
    def test_reading_is_ended_when_it_takes_too_long_or_too_much(self) -> None:
        for script, words in (
            ("import time; time.sleep(60)", "longer than 1 seconds"),
            ("import os; os.kill(os.getpid(), 9)", "too much memory"),
        ):
            with (
                mock.patch("server.characters.reading.SECONDS", 1), mock.patch("server.characters.reading._BEGIN", 0),
                mock.patch("server.characters.reading.subprocess.run", wraps=_instead(script)),
            ):  # fmt: skip
                upload = {"file": SimpleUploadedFile("x.glb", b"glTF"), "name": ""}
                answer = self.client.post(f"/api/productions/{self.production.pk}/characters", upload)
            self.assertEqual(answer.status_code, 422)
            self.assertIn(words, answer.json()["message"])
        self.assertEqual(Character.objects.count(), 1)


def _instead(script: str) -> Any:
    """Runs another script in place of the reader, as long and as limited as the reader would be."""
    import subprocess
    import sys

    real = subprocess.run

    def run(command: list[str], **more: Any) -> Any:
        return real([sys.executable, "-c", script], **more)

    return run


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


class PutAwayTest(ServerTest):
    """Takes, shots, characters and productions: put away and brought back, and deleted for good by a lead."""

    def test_what_is_put_away_is_out_of_sight_and_comes_back_whole(self) -> None:
        self.pose(1, head__ry=0.2)
        second = self.post(f"/shots/{self.shot.pk}/takes", {"name": "Take 2"}).json()["id"]
        places = (
            (f"/takes/{second}", lambda: [t["id"] for t in self.get(f"/shots/{self.shot.pk}").json()["takes"]], second),
            (f"/shots/{self.shot.pk}",
             lambda: [s["id"] for s in self.get(f"/productions/{self.production.pk}/shots").json()], self.shot.pk),
            (f"/characters/{self.character.pk}",
             lambda: [c["id"] for c in self.get(f"/productions/{self.production.pk}/characters").json()],
             self.character.pk),
            (f"/productions/{self.production.pk}", lambda: [p["id"] for p in self.get("/productions").json()],
             self.production.pk),
        )  # fmt: skip
        for path, listed, number in places:
            self.assertIn(number, listed())
            self.assertEqual(self.post(path, {"put_away": True}, "patch").status_code, 200)
            self.assertNotIn(number, listed(), path)
            self.assertEqual(self.post(path, {"put_away": False}, "patch").status_code, 200)
            self.assertIn(number, listed())
        self.assertEqual(self.clip()["curves"]["head/ry"], [[1, 0.2, 2]])

    def test_a_shot_keeps_a_take_and_a_guest_puts_nothing_away(self) -> None:
        only = self.post(f"/takes/{self.take.pk}", {"put_away": True}, "patch")
        self.assertIn("only take", only.json()["message"])
        self.as_user("tam")
        for path in (f"/takes/{self.take.pk}", f"/shots/{self.shot.pk}", f"/characters/{self.character.pk}",
                     f"/productions/{self.production.pk}"):  # fmt: skip
            self.assertEqual(self.post(path, {"put_away": True}, "patch").status_code, 403)

    def test_a_lead_is_told_what_goes_along_and_then_it_goes_with_its_files(self) -> None:
        for n in range(4):
            self.pose(n + 1, head__ry=0.1 * n)
        self.client.put(f"/api/shots/{self.shot.pk}/thumbnail", png(), content_type="image/png")
        self.client.post(f"/api/shots/{self.shot.pk}/sheet", {"file": SimpleUploadedFile("a.png", png())})
        shot = Shot.objects.get()
        files = [shot.thumbnail, shot.images.get().picture]
        version = self.character.current
        files += [version.source, version.mesh]
        path = f"/productions/{self.production.pk}"
        self.assertEqual(self.client.delete(f"/api{path}/removal").status_code, 403)  # an animator does not
        self.as_user("maud")
        self.assertIn("put it away first", self.client.delete(f"/api{path}/removal").json()["message"])
        words = " ".join(self.get(f"{path}/removal").json()["words"])
        for part in ("1 shot", "1 take", "4 steps", "1 picture", "1 character", "3 places"):
            self.assertIn(part, words)
        self.post(path, {"put_away": True}, "patch")
        with self.captureOnCommitCallbacks(execute=True):
            self.assertEqual(self.client.delete(f"/api{path}/removal").status_code, 204)
        self.assertEqual((Production.objects.count(), Edit.objects.count(), Character.objects.count()), (0, 0, 0))
        self.assertFalse([file.name for file in files if file.storage.exists(file.name)])

    def test_takes_shots_and_characters_go_by_themselves_and_one_that_plays_stays(self) -> None:
        self.pose(1, head__ry=0.1)
        self.pose(2, head__ry=0.2)
        second = self.post(f"/shots/{self.shot.pk}/takes", {"name": "Take 2", "source": self.take.pk}).json()["id"]
        self.as_user("maud")
        self.post(f"/characters/{self.character.pk}", {"put_away": True}, "patch")
        playing = self.client.delete(f"/api/characters/{self.character.pk}/removal")
        self.assertIn("plays in Morning round", playing.json()["message"])
        self.post(f"/takes/{self.take.pk}", {"put_away": True}, "patch")
        self.assertEqual(self.client.delete(f"/api/takes/{self.take.pk}/removal").status_code, 204)
        self.assertEqual(list(Take.objects.values_list("pk", flat=True)), [second])
        self.post(f"/shots/{self.shot.pk}", {"put_away": True}, "patch")
        self.assertEqual(self.client.delete(f"/api/shots/{self.shot.pk}/removal").status_code, 204)
        self.assertEqual(self.client.delete(f"/api/characters/{self.character.pk}/removal").status_code, 204)
        self.assertEqual((Shot.objects.count(), Character.objects.count(), Take.objects.count()), (0, 0, 0))


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
