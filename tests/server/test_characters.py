"""Bringing characters in, good files and bad ones, and mapping joints."""

from __future__ import annotations

from typing import Any

from django.core.files.uploadedfile import SimpleUploadedFile

from server.characters.models import Character, CharacterVersion
from tests.hame.broken_files import broken_files
from tests.hame.examples import BRANNOC
from tests.server.base import ServerTest


class BringingInTest(ServerTest):
    def bring(self, data: bytes, name: str = "crab.glb") -> Any:
        upload = {"file": SimpleUploadedFile(name, data), "name": ""}
        return self.client.post(f"/api/productions/{self.production.pk}/characters", upload)

    def test_a_good_file_becomes_a_character_with_a_proposed_plan(self) -> None:
        answer = self.bring(BRANNOC.read_bytes(), "keeper.glb").json()
        self.assertEqual((answer["name"], answer["joints"]), ("keeper", 68))
        detail = self.get(f"/characters/{answer['id']}").json()
        self.assertEqual(detail["roles"]["hips"], "pelvis")
        self.assertEqual(detail["found_by"]["hips"], "name")

    def test_broken_files_are_refused_in_words_and_nothing_is_stored(self) -> None:
        before = Character.objects.count()
        some = [found for n, found in enumerate(broken_files()) if n % 6 == 0]  # each is read in a process of its own
        for what, data, words in some:
            answer = self.bring(data)
            self.assertEqual(answer.status_code, 422, what)
            self.assertRegex(answer.json()["message"], words, what)
        self.assertEqual(Character.objects.count(), before)
        self.assertEqual(self.get(f"/productions/{self.production.pk}/characters").status_code, 200)


class PlanTest(ServerTest):
    def roles(self) -> dict[str, str]:
        return self.get(f"/characters/{self.character.pk}").json()["roles"]

    def put(self, roles: dict[str, str]) -> Any:
        return self.post(f"/characters/{self.character.pk}/plan", {"roles": roles}, "put")

    def test_problems_are_said_by_role(self) -> None:
        roles = self.roles() | {"arm.L.lower": "shin_l", "spine.9": "spine_3"}
        found = self.post(f"/characters/{self.character.pk}/plan/check", {"roles": roles}).json()["problems"]
        self.assertIn("already used", " ".join(found.values()))
        self.assertEqual(self.put(roles).status_code, 422)

    def test_a_plan_in_use_gets_a_new_version_and_shots_keep_theirs(self) -> None:
        roles = self.roles()
        del roles["jaw"]
        answer = self.put(roles).json()
        self.assertEqual(answer["version"], 2)
        self.assertEqual(CharacterVersion.objects.get(pk=self.casting.version_id).plan["roles"]["jaw"], "jaw")
        controls = self.get(f"/castings/{self.casting.pk}/rig").json()["controls"]
        jaw = next(c for c in controls if c["name"] == "jaw")
        self.assertEqual(jaw["kind"], "face")

    def test_a_plan_not_in_use_changes_in_place(self) -> None:
        self.casting.delete()
        roles = self.roles()
        del roles["jaw"]
        self.assertEqual(self.put(roles).json()["version"], 1)
