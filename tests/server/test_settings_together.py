"""Settings that two people change at once: each writes what it changed, and leaves the other's alone."""

from __future__ import annotations

from io import BytesIO
from typing import Any
from unittest import TestCase, mock

from PIL import Image

from server.productions.models import Production
from server.rows import changing, merged
from server.shots import api, api_library, api_takes, pictures
from server.shots.models import Casting, LibraryPose, Shot, Take
from tests.server.base import ServerTest


def png(size: int) -> bytes:
    out = BytesIO()
    Image.new("RGB", (size, size)).save(out, "PNG")
    return out.getvalue()


class MergedTest(TestCase):
    def test_what_each_did_is_there(self) -> None:
        def of(now: str, was: str, wished: str) -> str:
            return "".join(merged(now, was, wished, str.lower))

        self.assertEqual(of("ab", "ab", "abc"), "abc")
        self.assertEqual(of("abx", "ab", "abc"), "abxc")  # another came meanwhile
        self.assertEqual(of("b", "ab", "abc"), "bc")  # one was taken away meanwhile
        self.assertEqual(of("abx", "ab", "b"), "bx")
        self.assertEqual(of("abx", "ab", "Ab"), "Abx")  # changed, in its place
        self.assertEqual(of("Ab", "ab", "abc"), "Abc")  # what others changed and this one did not


class SettingsTest(ServerTest):
    """Each request has read its row before the other one is stored."""

    def late(self, module: Any, name: str, row: Any) -> Any:
        return mock.patch.object(module, name, lambda *_, **__: row)

    def test_a_shot_renamed_while_its_rate_is_set(self) -> None:
        old = Shot.objects.select_related("production").get(pk=self.shot.pk)
        Shot.objects.filter(pk=self.shot.pk).update(name="Evening round", thumbnail="thumbnails/new.png")
        with self.late(api, "find_shot", old):
            self.assertEqual(self.post(f"/shots/{self.shot.pk}", {"fps": 30}, "patch").status_code, 200)
        now = Shot.objects.get(pk=self.shot.pk)
        self.assertEqual((now.name, now.fps, now.thumbnail.name), ("Evening round", 30, "thumbnails/new.png"))

    def test_a_control_protected_while_the_figure_is_renamed(self) -> None:
        old = Casting.objects.select_related("version", "shot").get(pk=self.casting.pk)
        Casting.objects.filter(pk=self.casting.pk).update(name="Old Brannoc", protected=["chest"])
        with self.late(api, "_own_casting", old):
            body = {"protected": ["head"], "was": []}
            self.assertEqual(self.post(f"/castings/{self.casting.pk}", body, "patch").status_code, 200)
        now = Casting.objects.get(pk=self.casting.pk)
        self.assertEqual((now.name, now.protected), ("Old Brannoc", ["chest", "head"]))

    def test_a_take_and_a_pose_renamed_while_they_are_put_away(self) -> None:
        Take.objects.create(shot=self.shot, name="Take 2")
        old = Take.objects.select_related("shot").get(pk=self.take.pk)
        Take.objects.filter(pk=self.take.pk).update(name="First light")
        with self.late(api_takes, "find_take", old):
            self.post(f"/takes/{self.take.pk}", {"put_away": True}, "patch")
        now = Take.objects.get(pk=self.take.pk)
        self.assertEqual((now.name, now.put_away_at is not None), ("First light", True))
        pose = LibraryPose.objects.create(production=self.production, name="Grip", values={}, size=1.0)
        LibraryPose.objects.filter(pk=pose.pk).update(name="Firm grip")
        with self.late(api_library, "_pose", pose):
            self.post(f"/poses/{pose.pk}", {"set_aside": True}, "patch")
        self.assertEqual(LibraryPose.objects.get(pk=pose.pk).name, "Firm grip")

    def test_a_thumbnail_beside_a_change_of_the_shot(self) -> None:
        old = Shot.objects.get(pk=self.shot.pk)
        pictures.put(Shot.objects.get(pk=self.shot.pk), "thumbnail", "a.png", png(4))
        with changing(old) as now:
            now.name = "Renamed"
        stored = Shot.objects.get(pk=self.shot.pk)
        self.assertTrue(stored.thumbnail.storage.exists(stored.thumbnail.name))
        # One that has read the row before the other's picture deletes that one, not its own.
        with self.captureOnCommitCallbacks(execute=True):
            pictures.put(old, "thumbnail", "b.png", png(8))
        last = Shot.objects.get(pk=self.shot.pk)
        self.assertTrue(last.thumbnail.storage.exists(last.thumbnail.name))
        self.assertFalse(last.thumbnail.storage.exists(stored.thumbnail.name))
        last.thumbnail.delete(save=False)

    def test_paths_that_others_draw_stay(self) -> None:
        def path(name: str, **more: Any) -> dict[str, Any]:
            return {"casting": self.casting.pk, "name": name, **more}

        def put(paths: list[Any], was: list[Any]) -> list[str]:
            answer = self.post(f"/takes/{self.take.pk}/paths", {"paths": paths, "was": was}, "put")
            self.assertEqual(answer.status_code, 200, answer.content)
            return [found["name"] for found in answer.json()]

        head, chest, hips = path("head"), path("chest"), path("hips")
        put([head], [])
        self.assertEqual(put([chest], []), ["head", "chest"])  # had not heard of the other's
        self.assertEqual(put([{**head, "tone": 3}, hips], [head]), ["head", "chest", "hips"])
        self.assertEqual(put([hips], [{**head, "tone": 3}, hips]), ["chest", "hips"])
        self.assertEqual(Take.objects.get(pk=self.take.pk).paths[0]["name"], "chest")

    def test_a_production_renamed_while_it_is_put_away(self) -> None:
        self.as_user("maud")
        Production.objects.filter(pk=self.production.pk).update(name="Skerry")
        self.post(f"/productions/{self.production.pk}", {"put_away": True}, "patch")
        self.assertEqual(Production.objects.get(pk=self.production.pk).name, "Skerry")
