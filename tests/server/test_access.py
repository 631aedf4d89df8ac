"""Nobody sees or changes what is not theirs."""

from __future__ import annotations

import json

from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import Client, override_settings

from server.productions.models import Membership
from server.shots.models import Edit
from tests.hame.examples import BRANNOC
from tests.server.base import ServerTest


class AccessTest(ServerTest):
    def places(self) -> list[str]:
        take, cast, shot, character = self.take.pk, self.casting.pk, self.shot.pk, self.character.pk
        return [
            f"/productions/{self.production.pk}/shots", f"/productions/{self.production.pk}/members",
            f"/productions/{self.production.pk}/characters", f"/shots/{shot}", f"/takes/{take}", f"/takes/{take}/history",
            f"/takes/{take}/changes?since=0", f"/takes/{take}/motion?casting={cast}&first=1&last=2",
            f"/takes/{take}/pending?casting={cast}&frame=1", f"/takes/{take}/handoff.glb?casting={cast}&first=1&last=2",
            f"/castings/{cast}/rig", f"/castings/{cast}/mesh.glb", f"/characters/{character}",
            f"/characters/{character}/mesh.glb", f"/shots/{shot}/sheet", f"/productions/{self.production.pk}/poses",
            f"/takes/{take}/checks?casting={cast}&first=1&last=25", f"/castings/{cast}/reference?kind=walk",
        ]  # fmt: skip

    def test_a_stranger_finds_nothing_and_a_guest_sees_everything(self) -> None:
        for name, status in (("stranger", 404), ("tam", 200)):
            self.as_user(name)
            for place in self.places():
                self.assertEqual(self.get(place).status_code, status, (name, place))

    def test_nobody_is_let_in_without_signing_in(self) -> None:
        self.client.logout()
        for place in self.places():
            self.assertEqual(self.get(place).status_code, 401, place)

    def test_a_guest_changes_nothing(self) -> None:
        self.as_user("tam")
        take, shot, production = self.take.pk, self.shot.pk, self.production.pk
        for path, body, method in (
            (f"/takes/{take}/edits", {"revision": 0, "casting": self.casting.pk, "edit": {"kind": "key", "frame": 1}}, "post"),
            (f"/takes/{take}/undo", {"revision": 0}, "post"), (f"/takes/{take}/redo", {"revision": 0}, "post"),
            (f"/takes/{take}/goto", {"revision": 0, "step": None}, "post"), (f"/takes/{take}", {"name": "x"}, "patch"),
            (f"/shots/{shot}", {"fps": 30}, "patch"), (f"/shots/{shot}/takes", {"name": "x"}, "post"),
            (f"/productions/{production}/shots", {"name": "x", "character_ids": [self.character.pk]}, "post"),
            (f"/productions/{production}/members", {"username": "tam", "role": "lead"}, "put"),
            (f"/characters/{self.character.pk}/plan", {"roles": {"hips": "pelvis"}}, "put"),
            (f"/castings/{self.casting.pk}", {"protected": ["head"]}, "patch"),
            (f"/castings/{self.casting.pk}/sets", {"name": "x", "controls": ["head"]}, "post"),
            (f"/productions/{production}/poses", {"name": "x", "take": take, "casting": self.casting.pk, "frame": 1}, "post"),
        ):  # fmt: skip
            answer = self.post(path, body, method)
            self.assertEqual(answer.status_code, 403, path)
            self.assertIn("You are a guest", answer.json()["message"])
        upload = {"file": SimpleUploadedFile("b.glb", BRANNOC.read_bytes())}
        self.assertEqual(self.client.post(f"/api/productions/{production}/characters", upload).status_code, 403)
        self.assertEqual(Edit.objects.count(), 0)

    def test_an_animator_does_not_invite_and_a_lead_does(self) -> None:
        path = f"/productions/{self.production.pk}/members"
        self.assertEqual(self.post(path, {"username": "stranger", "role": "guest"}, "put").status_code, 403)
        self.as_user("maud")
        self.assertEqual(self.post(path, {"username": "stranger", "role": "guest"}, "put").status_code, 200)
        self.assertEqual(self.post(path, {"username": "nobody", "role": "guest"}, "put").status_code, 422)
        self.assertEqual(self.post(path, {"username": "maud", "role": "guest"}, "put").status_code, 422)
        self.assertEqual(self.client.delete(f"/api{path}/stranger").status_code, 200)
        self.assertFalse(Membership.objects.filter(user=self.stranger).exists())  # type: ignore[attr-defined]

    def test_a_casting_of_another_shot_is_refused(self) -> None:
        other = self.post(
            f"/productions/{self.production.pk}/shots", {"name": "Other", "character_ids": [self.character.pk]}
        ).json()
        cast = other["cast"][0]["id"]
        body = {"revision": 0, "casting": cast, "edit": {"kind": "key", "frame": 1}}
        self.assertEqual(self.post(f"/takes/{self.take.pk}/edits", body).status_code, 422)

    def test_a_character_of_another_production_cannot_be_cast(self) -> None:
        mine = self.post("/productions", {"name": "Mine"}).json()
        answer = self.post(f"/productions/{mine['id']}/shots", {"name": "x", "character_ids": [self.character.pk]})
        self.assertEqual(answer.status_code, 422)

    def test_a_forged_request_from_another_page_is_refused(self) -> None:
        strict = Client(enforce_csrf_checks=True)
        strict.force_login(self.isla)  # type: ignore[attr-defined]
        body = json.dumps({"revision": 0, "casting": self.casting.pk, "edit": {"kind": "key", "frame": 1}})
        answer = strict.post(f"/api/takes/{self.take.pk}/edits", body, content_type="application/json")
        self.assertEqual(answer.status_code, 403)
        token = strict.get("/api/session").json()["csrf"]
        answer = strict.post(
            f"/api/takes/{self.take.pk}/edits", body, content_type="application/json", headers={"X-CSRFToken": token}
        )
        self.assertEqual(answer.status_code, 200)


class SessionTest(ServerTest):
    def sign_in(self, client: Client, path: str, body: dict) -> int:
        token = client.get("/api/session").json()["csrf"]
        return client.post(
            f"/api/session{path}", json.dumps(body), content_type="application/json", headers={"X-CSRFToken": token}
        ).status_code

    def test_signing_in_and_out(self) -> None:
        client = Client(enforce_csrf_checks=True)
        self.assertEqual(self.sign_in(client, "", {"username": "isla", "password": "wrong"}), 403)
        self.assertEqual(self.sign_in(client, "", {"username": "isla", "password": "isla-lamp-oil"}), 200)
        self.assertEqual(client.get("/api/session").json()["person"]["name"], "Isla")
        token = client.get("/api/session").json()["csrf"]
        client.delete("/api/session", headers={"X-CSRFToken": token})
        self.assertIsNone(client.get("/api/session").json()["person"])

    def test_signing_in_needs_our_own_page(self) -> None:
        client = Client(enforce_csrf_checks=True)
        body = json.dumps({"username": "isla", "password": "isla-lamp-oil"})
        self.assertEqual(client.post("/api/session", body, content_type="application/json").status_code, 403)

    def test_guessing_is_stopped(self) -> None:
        client = Client()
        tries = [self.sign_in(client, "", {"username": "maud", "password": f"guess {n}"}) for n in range(8)]
        self.assertEqual(set(tries), {403})
        self.assertEqual(self.sign_in(client, "", {"username": "maud", "password": "maud-lamp-oil"}), 403)

    def test_demo_accounts_are_only_open_in_demo_mode(self) -> None:
        client = Client()
        self.assertEqual(client.get("/api/session").json()["demo"], [])
        self.assertEqual(self.sign_in(client, "/demo", {"username": "isla"}), 403)
        with override_settings(DEMO=True):
            self.assertEqual(self.sign_in(client, "/demo", {"username": "maud"}), 403)
            self.assertEqual(self.sign_in(client, "/demo", {"username": "isla"}), 200)
