"""What is put away comes back as it was; who may delete it for good."""

from __future__ import annotations

from django.core.files.uploadedfile import SimpleUploadedFile

from server.characters.models import Character
from server.productions.models import Production
from server.shots.models import Edit, Shot, Take
from tests.pictures import png
from tests.server.base import ServerTest


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
