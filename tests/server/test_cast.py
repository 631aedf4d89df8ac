"""Who plays in a shot: several figures and props, coming, going, named and in order."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any
from unittest import mock

import numpy as np
from django.core.files.uploadedfile import SimpleUploadedFile

from hame.demo.props import signal_lamp
from hame.formats.gltf_write import write_character
from server.characters import store as characters
from server.productions.models import Production
from server.shots.casting import MOST
from server.shots.models import Casting, Shot, Take
from tests.server.base import ServerTest, take_in_once
from tests.server.binary import motion_of


class CastTest(ServerTest):
    def names(self) -> list[str]:
        return [role["name"] for role in self.get(f"/shots/{self.shot.pk}").json()["cast"]]

    def add(self, character: int | None = None) -> Any:
        return self.post(f"/shots/{self.shot.pk}/cast", {"character_id": character or self.character.pk})

    def change(self, casting: int, **what: Any) -> Any:
        return self.post(f"/castings/{casting}", what, "patch")

    @contextmanager
    def told(self) -> Iterator[list[dict[str, Any]]]:
        heard: list[dict[str, Any]] = []
        with (
            mock.patch("server.shots.writing.tell", lambda group, message: heard.append(message)),
            self.captureOnCommitCallbacks(execute=True),
        ):
            yield heard

    def lamp(self) -> int:
        upload = SimpleUploadedFile("lamp.glb", write_character("lamp", *signal_lamp()))
        with mock.patch.object(characters, "take_in", take_in_once):
            answer = self.client.post(
                f"/api/productions/{self.production.pk}/characters", {"file": upload, "name": "Lamp", "prop": "true"}
            )
        self.assertEqual(answer.status_code, 200, answer.content)
        self.assertTrue(answer.json()["prop"])
        return int(answer.json()["id"])

    def test_the_same_one_plays_twice_each_with_motion_of_its_own(self) -> None:
        with self.told() as heard:
            cast = self.add().json()["cast"]
        self.assertEqual([role["name"] for role in cast], ["Brannoc", "Brannoc 2"])
        self.assertIn({"type": "cast.changed"}, heard)
        self.edit({"kind": "pose", "frame": 5, "values": {"head/rx": 0.3}, "keying": "changed"})
        clips = self.get(f"/takes/{self.take.pk}").json()["clips"]
        self.assertIn("head/rx", clips[str(cast[0]["id"])]["curves"])
        self.assertNotIn("head/rx", clips[str(cast[1]["id"])]["curves"])

    def test_who_comes_stands_beside_the_others_in_every_take(self) -> None:
        Take.objects.create(shot=self.shot, name="Take 2")
        third = [role["id"] for _ in range(2) for role in self.add().json()["cast"]][-1]
        for take in self.shot.takes.all():
            query = "&".join(f"casting={c.pk}" for c in self.shot.cast.all())
            motion = motion_of(self.get(f"/takes/{take.pk}/motion?{query}&first=1&last=1").content)[2]
            middles = sorted(float(frames.joints[0, :, 0].mean()) for frames in motion.values())
            self.assertGreater(np.diff(middles).min(), 1.0, "a figure with its arms out is over a metre wide")
            self.assertIn(third, motion)

    def test_one_is_named_put_in_order_taken_out_and_brought_back_with_its_motion(self) -> None:
        second = self.add().json()["cast"][1]["id"]
        self.assertEqual(self.change(second, name="  The other  ").json()["name"], "The other")
        self.post(f"/shots/{self.shot.pk}/cast", {"castings": [second, self.casting.pk]}, "put")
        self.assertEqual(self.names(), ["The other", "Brannoc"])
        self.pose(5, head__rx=0.3)
        before = self.clip()
        self.assertEqual(self.change(self.casting.pk, out=True).status_code, 200)
        shot = self.get(f"/shots/{self.shot.pk}").json()
        self.assertEqual([r["name"] for r in shot["cast"]], ["The other"])
        self.assertEqual([r["name"] for r in shot["taken_out"]], ["Brannoc"])
        self.assertEqual(self.change(self.casting.pk, out=False).status_code, 200)
        self.assertEqual(self.names(), ["The other", "Brannoc"])
        self.assertEqual(self.clip(), before)

    def test_a_step_for_somebody_taken_out_is_refused_and_nothing_is_stored(self) -> None:
        self.add()
        self.change(self.casting.pk, out=True)
        answer = self.pose(5, head__rx=0.3)
        self.assertIn(answer.status_code, (404, 422))
        self.assertEqual(Take.objects.get().revision, 0)

    def test_what_cannot_be_is_refused_in_words(self) -> None:
        self.assertIn("nobody else plays", self.change(self.casting.pk, out=True).json()["message"])
        path = f"/shots/{self.shot.pk}/cast"
        for order in ([], [self.casting.pk] * 2, [self.casting.pk, 99_999]):
            self.assertIn("come or gone", self.post(path, {"castings": order}, "put").json()["message"], order)
        elsewhere = Production.objects.create(name="Elsewhere")
        self.character.production = elsewhere
        self.character.save()
        self.assertIn("does not belong", self.add().json()["message"])
        self.assertEqual(self.names(), ["Brannoc"])

    def test_no_more_than_so_many_play(self) -> None:
        version = self.casting.version
        Casting.objects.bulk_create(
            Casting(shot=self.shot, version=version, name=f"Extra {n}", place=n) for n in range(1, MOST)
        )
        self.assertIn(f"{MOST} play in this shot already", self.add().json()["message"])
        self.assertEqual(len(self.names()), MOST)

    def test_a_guest_and_a_stranger_change_no_cast(self) -> None:
        for user, status in (("tam", 403), ("stranger", 404)):
            self.as_user(user)
            self.assertEqual(self.add().status_code, status)
            self.assertEqual(self.change(self.casting.pk, name="Mine").status_code, status)
            order = {"castings": [self.casting.pk]}
            self.assertEqual(self.post(f"/shots/{self.shot.pk}/cast", order, "put").status_code, status)
        self.as_user("isla")
        self.assertEqual(self.names(), ["Brannoc"])

    def test_a_new_shot_begins_with_several_and_a_prop_is_keyed_and_handed_off(self) -> None:
        lamp = self.lamp()
        body = {"name": "Lamp", "character_ids": [self.character.pk, self.character.pk, lamp], "end": 24}
        shot = self.post(f"/productions/{self.production.pk}/shots", body).json()
        self.assertEqual([role["name"] for role in shot["cast"]], ["Brannoc", "Brannoc 2", "Lamp"])
        self.assertEqual([role["prop"] for role in shot["cast"]], [False, False, True])
        take, casting = shot["takes"][0]["id"], shot["cast"][2]["id"]
        rig = self.get(f"/castings/{casting}/rig").json()
        part = next(c for c in rig["controls"] if c["kind"] == "part")
        edit = {"kind": "pose", "frame": 3, "values": {f"{part['name']}/rx": 0.4}, "keying": "whole"}
        done = self.post(f"/takes/{take}/edits", {"revision": 0, "casting": casting, "edit": edit})
        self.assertEqual(done.status_code, 200, done.content)
        handed = self.get(f"/takes/{take}/handoff.glb?casting={casting}&first=1&last=4")
        self.assertEqual(handed.content[:4], b"glTF")
        self.assertEqual(Shot.objects.get(pk=shot["id"]).cast.count(), 3)
