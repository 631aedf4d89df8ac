"""Odd and huge input is answered with a sentence, never with a 500."""

from __future__ import annotations

from unittest import mock

from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import Client

from server.characters import store as characters
from server.shots import motion, store
from server.shots.models import Take
from tests.hame.examples import BRANNOC
from tests.server.base import ServerTest, take_in_once

HUGE = ("2147483647", "9" * 400, "-" + "9" * 30)


class OddInputTest(ServerTest):
    def setUp(self) -> None:
        super().setUp()
        self.client = Client(raise_request_exception=False)
        self.client.force_login(self.isla)  # type: ignore[attr-defined]
        for frame in (1, 20):
            self.edit({"kind": "key", "frame": frame})

    def test_frames_far_beyond_all_frames(self) -> None:
        self.edit({"kind": "plant", "plants": [{"control": "leg.L.goal", "start": 5, "end": 9}]})
        casting, take = self.casting.pk, self.take.pk
        for far in HUGE:
            for path in (
                f"contacts?first={far}&last={far}", f"arcs?first={far}&last={far}",
                f"balance?casting={casting}&first={far}&last={far}", f"plants?casting={casting}&first={far}&last={far}",
                f"bearing?casting={casting}&frame={far}", f"curves?casting={casting}&first={far}&last={far}",
                f"alike?casting={casting}&first={far}&last={far}", f"charts?casting={casting}&frame=1&frame={far}",
                f"motion?casting={casting}&first={far}&last={far}", f"pending?casting={casting}&frame={far}",
                f"motion?casting={casting}&first=1&last=4&step={far}", f"motion?casting={far}&first=1&last=4",
                f"checks?casting={casting}&first={far}&last={far}", f"history?limit={far}",
                f"handoff.glb?casting={casting}&first={far}&last={far}", f"changes?since={far}",
            ):  # fmt: skip
                with self.subTest(path=path[:60]):
                    self.assertLess(self.get(f"/takes/{take}/{path}").status_code, 500)
            for path in (f"/castings/{casting}/reference?step={far}", f"/castings/{far}/rig", f"/shots/{far}",
                         f"/takes/{far}", f"/characters/{far}", f"/productions/{far}/shots"):  # fmt: skip
                with self.subTest(path=path[:60]):
                    self.assertLess(self.get(path).status_code, 500)

    def test_a_layer_to_leave_out_that_is_no_number_of_one(self) -> None:
        for told in ("9" * 5000 + ":1", "1:" + "9" * 5000, "²:1", "::"):
            answer = self.get(f"/takes/{self.take.pk}/motion?casting={self.casting.pk}&first=1&last=4&without={told}")
            self.assertEqual(answer.status_code, 422, answer.content[:200])

    def test_a_plant_of_nothing_says_so(self) -> None:
        answer = self.edit({"kind": "plant", "plants": []})
        self.assertEqual((answer.status_code, "nothing is chosen" in answer.json()["message"]), (422, True))

    def test_names_with_a_zero_byte_are_refused_with_a_word(self) -> None:
        for method, path, body in (
            ("patch", f"/shots/{self.shot.pk}", {"name": "a\0b"}),
            ("post", f"/castings/{self.casting.pk}/sets", {"name": "a\0b", "controls": ["head"]}),
            ("patch", f"/takes/{self.take.pk}", {"name": "\0"}),
        ):
            answer = self.post(path, body, method)
            self.assertEqual(answer.status_code, 400, path)
            self.assertIn("Nothing was stored", answer.json()["message"])
        # The same letters written out are letters.
        self.assertEqual(self.post(f"/shots/{self.shot.pk}", {"name": "a\\u0000b"}, "patch").status_code, 200)

    def test_an_edit_while_its_take_is_deleted(self) -> None:
        found = store.locked

        def gone(take_id: int) -> Take:
            Take.objects.filter(pk=take_id).delete()
            return found(take_id)

        with mock.patch.object(store, "locked", gone):
            for path, body in (("edits", {"casting": self.casting.pk, "edit": {"kind": "key", "frame": 3}}),
                               ("undo", {})):  # fmt: skip
                take = Take.objects.create(shot=self.shot, name="Short-lived")
                answer = self.post(f"/takes/{take.pk}/{path}", {"revision": 0, **body})
                self.assertEqual(answer.status_code, 404)

    def test_a_motion_is_asked_for_in_parts_where_many_play(self) -> None:
        path = f"/takes/{self.take.pk}/motion?casting={self.casting.pk}&first=1&last="
        with mock.patch.object(motion, "MOST_POSES", 20):
            self.assertEqual(self.get(f"{path}20").status_code, 200)
            refused = self.get(f"{path}21")
        self.assertEqual(refused.status_code, 422)
        self.assertIn("a shorter stretch (20 frames)", refused.json()["message"])

    def test_files_called_like_options_or_like_nothing(self) -> None:
        path = f"/api/productions/{self.production.pk}/characters"
        file = SimpleUploadedFile("-rock.glb", BRANNOC.read_bytes())
        answer = self.client.post(path, {"file": file})
        self.assertEqual((answer.status_code, answer.json()["name"]), (200, "-rock"))
        with mock.patch.object(characters, "take_in", take_in_once):
            file = SimpleUploadedFile(".glb", BRANNOC.read_bytes())
            answer = self.client.post(path, {"file": file})
        self.assertEqual((answer.status_code, answer.json()["name"]), (200, "Character"))
