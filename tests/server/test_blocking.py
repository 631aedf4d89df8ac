"""Blocking through the interface: each edit is one step, named, refused with a reason, undone whole."""

from __future__ import annotations

import json
from typing import Any

import numpy as np
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import override_settings

from hame.clip.layers import layers_of
from server.characters import store as characters
from server.shots import store
from server.shots.models import Casting, Edit, LibraryPose, Shot, Take
from tests.hame.examples import cycle_of
from tests.pictures import png
from tests.server.base import ServerTest, lay_demo


class BlockingEditsTest(ServerTest):
    def blocked(self) -> None:
        """A blocked walk: contact, down, passing, up and so on, stepped."""
        self.done({"kind": "template", "template": "walk", "start": 1, "step": 12, "posed": True})

    def done(self, edit: dict[str, Any]) -> dict[str, Any]:
        answer = self.edit(edit)
        self.assertEqual(answer.status_code, 200, answer.content[:300])
        return dict(answer.json())

    def refused(self, edit: dict[str, Any], words: str) -> None:
        before = self.clip()
        answer = self.edit(edit)
        self.assertEqual(answer.status_code, 422)
        self.assertIn(words, answer.json()["message"])
        self.assertEqual(self.clip(), before)

    def frames(self) -> list[int]:
        return sorted({int(row[0]) for rows in self.clip()["curves"].values() for row in rows})

    def test_a_walk_is_blocked_echoed_refined_repeated_and_retimed(self) -> None:
        self.blocked()
        self.assertEqual(self.clip()["labels"]["4"], {"name": "Down", "rank": "breakdown", "opposite": "Opposite down"})
        self.done({"kind": "shape", "shape": "smooth"})
        answer = self.done({"kind": "cycle", "start": 1, "end": 25, "echo": True})
        self.assertIn("gave way to derived ones", answer["notes"][0])
        self.assertEqual(self.frames(), [1, 4, 7, 10])
        [follow, last] = self.clip()["follows"]
        self.assertEqual(follow, {"first": 13, "last": 24, "source": 1, "mirrored": True})
        self.assertEqual(last, {"first": 25, "last": 25, "source": 1, "mirrored": False})
        answer = self.done({"kind": "pose", "frame": 4, "values": {"arm.L.lower/rx": 1.0}})
        change = answer["clips"][str(self.casting.pk)]
        self.assertEqual(list(change["curves"]), ["arm.L.lower/rx"])
        self.assertEqual(answer["moves"], {str(self.casting.pk): [[None, None]]})
        self.assertIsNone(change["tracks"])  # as before
        self.done(
            {"kind": "delay", "chain": [{"controls": ["arm.L.hand", "arm.R.hand"], "frames": 2, "amplitude": 0.9}]}
        )
        self.done({"kind": "repeat", "until": 49, "travel": 1.2})
        self.done({"kind": "insert", "after": 4, "count": 1})
        self.done({"kind": "slow", "count": 1})
        now = {"kind": "cycle", "start": 1, "end": 35, "echo": True, "until": 69, "travel": [0.0, 1.2]}
        self.assertEqual(self.clip()["tracks"], {"cycle": [now]})
        self.done({"kind": "free"})
        self.done({"kind": "hold", "frame": 1, "count": 4, "drift": 0.05})
        self.done({"kind": "scale", "frames": [1, 5], "about": 1, "factor": 0.5, "along": True})
        labels = list(Edit.objects.order_by("id").values_list("label", flat=True))
        self.assertEqual(labels, [
            "Lay out a walk from 1", "Smooth", "Echo 1 to 25", "Pose left forearm at 4",
            "Part delay of left hand FK and right hand FK", "Repeat the cycle to 49", "Insert 1 frame after 4",
            "+1 frame a phase",
            "Free the cycle into keys", "Moving hold of 1 for 4", "Scale timing of 1, 5 by 0.5 about 1",
        ])  # fmt: skip
        # Undone to the beginning and done again, it is the same: also for who reads it anew.
        whole = self.clip()
        self.post(f"/takes/{self.take.pk}/goto", {"revision": 11, "step": None})
        self.assertEqual(
            self.clip(), {"curves": {}, "pending": {}, "labels": {}, "tracks": {}, "follows": [], "poses": []}
        )
        self.post(f"/takes/{self.take.pk}/goto", {"revision": 12, "step": Edit.objects.latest("id").pk})
        store.forget()
        self.assertEqual(self.clip(), whole)

    def test_mirrors_breakdowns_and_keys_across_parts(self) -> None:
        self.pose(1, head__ry=0.2)
        self.edit({"kind": "key", "frame": 1, "shape": "stepped"})
        values = {"arm.L.upper/rx": 0.4, "hips/rz": 0.1}
        self.done({"kind": "paste", "frame": 13, "values": values, "mirrored": {"master": "leave", "body": "keep"}})
        curves = self.clip()["curves"]
        self.assertEqual((curves["arm.R.upper/rx"][-1][:2], curves["hips/rz"][-1][:2]), ([13, 0.4], [13, -0.1]))
        self.assertEqual(curves["hips/rz"][0][2], 0)
        self.done({"kind": "breakdown", "frame": 7, "share": 0.25, "controls": ["hips"]})
        self.assertAlmostEqual(self.clip()["curves"]["hips/rz"][1][1], -0.025)
        self.done({"kind": "exaggerate", "frame": 7, "degree": 0.5, "controls": ["hips"]})
        self.done({"kind": "mirror", "frame": 7, "way": "swap"})
        self.done({"kind": "mirror range", "first": 1, "last": 13, "to": 20})
        self.done({"kind": "move keys", "keys": {"hips/rz": [7], "arm.R.upper/rx": [13]}, "by": 1})
        self.done({"kind": "duplicate keys", "keys": {"hips/rz": [8]}, "by": 30})
        self.done({"kind": "delete keys", "keys": {"hips/rz": [38]}})
        self.done({"kind": "paste keys", "frame": 40, "keys": {"hips/rz": [[1, 0.3, 2], [4, 0.1, 2]]}, "mirrored": {}})
        self.assertEqual([row[:2] for row in self.clip()["curves"]["hips/rz"][-2:]], [[40, -0.3], [43, -0.1]])
        self.done({"kind": "mend", "start": 1, "end": 43})
        self.assertEqual(self.clip()["curves"]["hips/rz"][-1][1], self.clip()["curves"]["hips/rz"][0][1])

    def test_bad_edits_say_why_and_change_nothing(self) -> None:
        self.blocked()
        self.done({"kind": "shape", "shape": "smooth"})
        for edit, words in (
            ({"kind": "cycle", "start": 1, "end": 26, "echo": True}, "an odd number"),
            ({"kind": "template", "template": "startle", "start": 30, "step": 10}, "the shot ends at 49"),
            ({"kind": "scale", "frames": [1, 4], "about": 1, "factor": 0}, "cannot be scaled by 0"),
            ({"kind": "breakdown", "frame": 7, "share": 2}, "-50% to 150%"),
            ({"kind": "breakdown", "frame": 1, "share": 0.5}, "a key before and one after"),
            ({"kind": "exaggerate", "frame": 7, "degree": 9}, "-100% to 200%"),
            ({"kind": "hold", "frame": 2, "count": 3}, "no keys at frame 2"),
            ({"kind": "delay", "chain": []}, "no part is chosen"),
            ({"kind": "delay", "chain": [{"controls": ["tail"], "frames": 1}]}, "no control called tail"),
            ({"kind": "insert", "after": 80, "count": 2}, "no keys after"),
            ({"kind": "free"}, "no cycle"),
            ({"kind": "repeat", "until": 49}, "there is no cycle; make one first"),
            ({"kind": "move keys", "keys": {"tail/rx": [1]}, "by": 1}, "no channel called tail/rx"),
            ({"kind": "move keys", "keys": {"head/rx": [1]}, "by": 10_000_000}, "out of range"),
            ({"kind": "paste keys", "frame": 1, "keys": {"head/rx": [[1.5, 0.0, 2]]}}, "not whole"),
            ({"kind": "paste keys", "frame": 1, "keys": {"head/rx": [[1, 0.0, 12]]}}, "unknown shape"),
            ({"kind": "mirror range", "first": 9, "last": 1, "to": 20}, "before it begins"),
            ({"kind": "mirror", "frame": 1, "way": "left to right", "controls": ["head"]}, "stands on the left"),
            ({"kind": "lay", "frame": 1, "pose": 99}, "not in the library"),
            ({"kind": "label", "frame": 1, "name": "x", "rank": "sketch"}, "rank"),
        ):  # fmt: skip
            with self.subTest(edit["kind"], words=words):
                self.refused(edit, words)

    def test_protected_parts_are_left_alone_by_every_edit(self) -> None:
        self.blocked()
        answer = self.post(f"/castings/{self.casting.pk}", {"protected": ["head", "jaw"]}, "patch")
        self.assertEqual(answer.json()["protected"], ["head", "jaw"])
        self.assertEqual(self.get(f"/shots/{self.shot.pk}").json()["cast"][0]["protected"], ["head", "jaw"])
        before = self.clip()["curves"]["head/rx"]
        answer = self.done({"kind": "insert", "after": 4, "count": 3})
        self.assertIn("protected, left as it was", answer["notes"][0])
        self.assertEqual(self.clip()["curves"]["head/rx"], before)
        self.refused({"kind": "pose", "frame": 4, "values": {"head/rx": 0.2}}, "protected: head")
        answer = self.post(f"/castings/{self.casting.pk}", {"protected": ["tail"]}, "patch")
        self.assertEqual(answer.status_code, 422)

    def test_checks_name_missing_keys_and_open_joins(self) -> None:
        self.blocked()
        self.done({"kind": "shape", "shape": "smooth"})
        self.done({"kind": "delete", "frames": [7], "controls": ["head", "neck"]})
        self.done({"kind": "pose", "frame": 25, "values": {"head/rx": 0.4}})
        found = self.get(f"/takes/{self.take.pk}/checks?casting={self.casting.pk}&first=1&last=25").json()
        self.assertEqual(found["missing"], {"7": ["neck", "head"]})
        self.assertEqual([(j["address"], j["jumps"]) for j in found["joins"]], [("head/rx", True)])
        self.done({"kind": "mend", "start": 1, "end": 25})
        found = self.get(f"/takes/{self.take.pk}/checks?casting={self.casting.pk}&first=1&last=25").json()
        self.assertEqual(found["joins"], [])

    def test_two_characters_keep_their_own_clips_while_one_is_edited(self) -> None:
        other = Casting.objects.create(shot=self.shot, version=self.character.current, name="Brannoc 2", place=1)
        self.pose(1, head__ry=0.3)
        body = {"revision": 1, "casting": other.pk, "edit": {"kind": "pose", "frame": 1, "values": {"head/ry": -0.3}}}
        self.post(f"/takes/{self.take.pk}/edits", body)
        self.pose(5, head__ry=0.5)
        for fresh in (False, True):
            if fresh:
                store.forget()
            clips = self.get(f"/takes/{self.take.pk}").json()["clips"]
            self.assertEqual([row[1] for row in clips[str(self.casting.pk)]["curves"]["head/ry"]], [0.3, 0.5])
            self.assertEqual([row[1] for row in clips[str(other.pk)]["curves"]["head/ry"]], [-0.3])


class LibraryTest(ServerTest):
    def keep(self, **more: Any) -> Any:
        given = {"name": "Startled", "take": self.take.pk, "casting": self.casting.pk, "frame": 1, **more}
        return self.post(f"/productions/{self.production.pk}/poses", given)

    def test_a_pose_is_stored_found_laid_and_set_aside(self) -> None:
        self.pose(1, head__ry=0.4, master__tx=1.0)
        made = self.keep(controls=["head", "master"], kinds=["turn", "place"]).json()
        self.assertEqual((made["controls"], made["character"], made["made_by"]), (["head"], "Brannoc", "Isla"))
        self.assertEqual(LibraryPose.objects.get().values, {"head/rx": 0.0, "head/ry": 0.4, "head/rz": 0.0})
        self.assertIn("master", self.keep(with_master=True).json()["controls"])
        path = f"/productions/{self.production.pk}/poses"
        self.assertEqual(len(self.get(f"{path}?find=start brann").json()), 2)
        self.assertEqual(self.get(f"{path}?find=walk").json(), [])
        self.edit({"kind": "lay", "frame": 9, "pose": made["id"], "share": 0.5})
        self.assertEqual(self.clip()["curves"]["head/ry"][-1][:2], [9, 0.4])
        self.edit({"kind": "lay", "frame": 20, "pose": made["id"], "share": 1.0, "mirrored": {}})
        self.assertEqual(self.clip()["curves"]["head/ry"][-1][:2], [20, -0.4])
        self.assertEqual(Edit.objects.latest("id").label, "Lay Startled at 20")
        self.post(f"/poses/{made['id']}", {"set_aside": True}, "patch")
        self.assertEqual(len(self.get(path).json()), 1)
        self.assertEqual(LibraryPose.objects.count(), 2)  # kept all the same

    def test_its_picture_is_a_png_of_modest_size(self) -> None:
        made = self.keep().json()
        with override_settings(STORAGES={"default": {"BACKEND": "django.core.files.storage.InMemoryStorage"}}):
            for body, status in ((png(), 204), (b"words", 422), (png() + bytes(300_000), 422)):
                answer = self.client.put(f"/api/poses/{made['id']}/picture", body, content_type="image/png")
                self.assertEqual(answer.status_code, status)
            self.assertEqual(self.get(f"/poses/{made['id']}/picture.png").status_code, 200)
        self.as_user("stranger")
        self.assertEqual(self.get(f"/poses/{made['id']}/picture.png").status_code, 404)

    def test_nothing_of_another_production_is_stored_or_laid(self) -> None:
        self.assertEqual(self.keep(casting=999).status_code, 422)
        self.assertEqual(self.keep(controls=["arm.L"], kinds=["place"]).status_code, 422)
        made = self.keep().json()
        self.as_user("stranger")
        self.assertEqual(self.post(f"/poses/{made['id']}", {"name": "x"}, "patch").status_code, 404)
        self.as_user("tam")
        self.assertEqual(self.post(f"/poses/{made['id']}", {"name": "x"}, "patch").status_code, 403)


class SheetTest(ServerTest):
    def put(self, data: bytes, name: str = "contact.png", **more: Any) -> Any:
        return self.client.post(f"/api/shots/{self.shot.pk}/sheet", {"file": SimpleUploadedFile(name, data), **more})

    def test_pictures_are_put_in_tied_shown_and_taken_away(self) -> None:
        with override_settings(STORAGES={"default": {"BACKEND": "django.core.files.storage.InMemoryStorage"}}):
            made = self.put(png()).json()
            self.assertEqual(made, {"id": made["id"], "name": "contact.png", "frame": None})
            self.assertEqual(self.put(png(), "film.png", frame=7).json()["frame"], 7)
            self.post(f"/sheet/{made['id']}", {"frame": 4}, "patch")
            self.assertEqual([i["frame"] for i in self.get(f"/shots/{self.shot.pk}/sheet").json()], [4, 7])
            shown = self.get(f"/sheet/{made['id']}/picture")
            self.assertEqual(shown["Content-Type"], "image/png")
            self.as_user("tam")
            self.assertEqual(self.client.delete(f"/api/sheet/{made['id']}").status_code, 403)
            self.as_user("stranger")
            self.assertEqual(self.get(f"/sheet/{made['id']}/picture").status_code, 404)
            self.as_user("isla")
            self.assertEqual(self.client.delete(f"/api/sheet/{made['id']}").status_code, 204)
            self.assertEqual(len(self.get(f"/shots/{self.shot.pk}/sheet").json()), 1)

    def test_what_is_no_picture_is_refused_whatever_it_is_called(self) -> None:
        for data, words in (
            (b"<svg onload='x'/>", "no PNG, JPEG or WebP"),
            (b"", "no PNG"),
            (png() + bytes(8_000_001), "at most 8 MB"),
        ):
            answer = self.put(data)
            self.assertEqual(answer.status_code, 422)
            self.assertIn(words, answer.json()["message"])
        self.as_user("tam")
        self.assertEqual(self.put(png()).status_code, 403)

    def test_the_drawn_sheet_stands_on_its_frames_in_the_characters_proportions(self) -> None:
        path = f"/castings/{self.casting.pk}/reference"
        walk = self.get(f"{path}?kind=walk&start=1&step=16").json()
        self.assertEqual([(p["frame"], p["name"]) for p in walk],
                         [(1, "Contact"), (5, "Down"), (9, "Passing"), (13, "Up"), (17,
                             "Opposite contact")])  # fmt: skip
        for pose in walk:
            points = np.array([p for stroke in pose["strokes"] for p in stroke["points"]])
            self.assertTrue(-0.02 < points[:, 1].min() < 0.03)  # somebody stands on the ground
            self.assertTrue(0.85 < points[:, 1].max() < 1.02)
        self.assertEqual(len(self.get(f"{path}?kind=run&step=8").json()), 3)
        self.assertEqual(self.get(f"{path}?kind=hop").status_code, 422)
        self.assertEqual(self.get(f"{path}?kind=walk&step=2").status_code, 422)


class TogetherTest(ServerTest):
    def test_a_step_for_several_is_one_that_one_undo_takes_back(self) -> None:
        wick = Casting.objects.create(shot=self.shot, version=self.character.current, name="Wick")
        key = {"kind": "key", "frame": 7}
        parts = [{"casting": casting.pk, "edit": key} for casting in (self.casting, wick)]
        self.assertEqual(self.edit({"kind": "together", "parts": parts}).status_code, 200)
        self.assertEqual(Edit.objects.get().label, "Key the whole character at 7 (Brannoc and Wick)")
        clips = self.get(f"/takes/{self.take.pk}").json()["clips"]
        self.assertTrue(all(clip["curves"] for clip in clips.values()))
        self.assertEqual(len(clips), 2)
        self.post(f"/takes/{self.take.pk}/undo", {"revision": 1})
        clips = self.get(f"/takes/{self.take.pk}").json()["clips"]
        self.assertFalse(any(clip["curves"] for clip in clips.values()))

    def test_nobody_reaches_the_cast_of_another_shot_by_it(self) -> None:
        other = Shot.objects.create(production=self.shot.production, name="Elsewhere")
        stranger = Casting.objects.create(shot=other, version=self.character.current, name="Stranger")
        parts = [{"casting": n, "edit": {"kind": "key", "frame": 7}} for n in (self.casting.pk, stranger.pk)]
        refused = self.edit({"kind": "together", "parts": parts})
        self.assertContains(refused, "does not play in the shot", status_code=422)
        self.assertEqual(self.get(f"/takes/{self.take.pk}").json()["revision"], 0)


class SetsTest(ServerTest):
    def test_sets_are_kept_replaced_and_dropped(self) -> None:
        path = f"/castings/{self.casting.pk}/sets"
        made = self.post(path, {"name": "Core", "controls": ["body", "chest", "chest"], "pivot": "body"}).json()
        self.assertEqual(made["controls"], ["body", "chest"])
        again = self.post(path, {"name": "Core", "controls": ["hips"]}).json()
        self.assertEqual((again["id"], again["pivot"]), (made["id"], ""))
        self.assertEqual(self.post(path, {"name": "Bad", "controls": ["tail"]}).status_code, 422)
        self.assertEqual(self.post(path, {"name": "Bad", "controls": ["body"], "pivot": "tail"}).status_code, 422)
        self.assertEqual([s["name"] for s in self.get(f"/shots/{self.shot.pk}").json()["cast"][0]["sets"]], ["Core"])
        wick = Casting.objects.create(shot=self.shot, version=self.character.current, name="Wick")
        beside = {str(wick.pk): ["head", "head"]}
        both = self.post(path, {"name": "Heads", "controls": ["head"], "beside": beside}).json()
        self.assertEqual(both["beside"], {str(wick.pk): ["head"]})
        strange = self.post(path, {"name": "Heads", "controls": ["head"], "beside": {"999999": []}})
        self.assertContains(strange, "who play in this shot", status_code=422)
        tail = self.post(path, {"name": "Heads", "controls": ["head"], "beside": {str(wick.pk): ["tail"]}})
        self.assertEqual(tail.status_code, 422)
        self.as_user("stranger")
        self.assertEqual(self.client.delete(f"/api{path}/{made['id']}").status_code, 404)
        self.as_user("isla")
        self.assertEqual(self.client.delete(f"/api{path}/{made['id']}").status_code, 204)
        self.assertEqual(self.client.delete(f"/api{path}/{made['id']}").status_code, 404)


class DemoTest(ServerTest):
    def test_the_demo_has_its_figures_shots_and_finished_motions(self) -> None:

        from server.productions.models import Production

        Production.objects.filter(name="Skerry Light").update(name="Elsewhere")
        lay_demo()
        shots = {s.name: s for s in Shot.objects.filter(production__name="Skerry Light")}
        self.assertEqual(
            set(shots),
            {
                "Before dawn",
                "Morning round",
                "Late for the lamp",
                "Gull on the rail",
                "Keeping watch",
                "Filling the lamp",
                "The heavy can",
                "Up to the gallery",
                "Passing it on",
                "The ladder gives way",
                "Sack on the quay",
                "Round and over",
                "Round the gallery",
                "Reaching for the lamp",
                "Crab on the slip",
                "Wick off balance",
                "Over the bollard",
                "Something in the fog",
            },
        )
        heavy = shots["The heavy can"]
        keeper, can = heavy.cast.get(name="Brannoc"), heavy.cast.get(name="Oil can")
        clips = store.open_clips(heavy.takes.get(), [keeper.pk, can.pk])
        self.assertEqual([s.figure for s in clips[can.pk].tracks["belonging/master"]], [keeper.pk])  # type: ignore[attr-defined]
        self.assertEqual(len(clips[keeper.pk].tracks["plant/leg.R.goal"]), 3)
        props = [c.name for c in shots["Filling the lamp"].cast.all() if characters.rig(c.version).plan.is_prop]
        self.assertEqual(props, ["Oil can", "Signal lamp"])
        self.assertEqual([c.name for c in shots["Gull on the rail"].cast.all()], ["Brannoc", "Wick"])
        self.assertEqual([c.name for c in shots["Over the bollard"].cast.all()], ["Wick", "Bollard", "Shot camera"])
        for name, takes in (("Morning round", 3), ("Late for the lamp", 2), ("Before dawn", 1)):
            self.assertEqual(shots[name].takes.count(), takes)
        tired = Take.objects.get(shot=shots["Morning round"], name="Tired")
        (layer,) = layers_of(store.open_clip(tired, shots["Morning round"].cast.get().pk)).values()
        self.assertEqual(layer.name, "Tired")
        walk = Take.objects.get(shot=shots["Morning round"], name="Walking on")
        clip = store.open_clip(walk, shots["Morning round"].cast.get().pk)
        assert cycle_of(clip)
        self.assertGreater(cycle_of(clip).travel[1], 1.2)
        self.assertEqual(json.loads(json.dumps(cycle_of(clip).to_json()))["until"], 73)
        rig = characters.rig(shots["Late for the lamp"].cast.get().version)
        self.assertTrue(rig.has_control("scarf_5"))
