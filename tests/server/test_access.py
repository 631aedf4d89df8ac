"""Nobody sees or changes what is not theirs."""

from __future__ import annotations

import json
from threading import Barrier, Thread
from unittest import mock

from django.core.cache import cache
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import Client, override_settings

from server.accounts import tries
from server.productions.models import Invitation, Membership
from server.shots.models import Edit
from tests.hame.examples import BRANNOC
from tests.server.base import ServerTest


class AccessTest(ServerTest):
    def places(self) -> list[str]:
        take, cast, shot, character = self.take.pk, self.casting.pk, self.shot.pk, self.character.pk
        return [
            f"/productions/{self.production.pk}/shots", f"/productions/{self.production.pk}/members",
            f"/productions/{self.production.pk}/characters", f"/shots/{shot}", f"/takes/{take}",
            f"/takes/{take}/history",
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
            (f"/takes/{take}/edits", {"revision": 0, "casting": self.casting.pk, "edit": {"kind": "key", "frame": 1}},
                "post"),
            (f"/takes/{take}/undo", {"revision": 0}, "post"), (f"/takes/{take}/redo", {"revision": 0}, "post"),
            (f"/takes/{take}/goto", {"revision": 0, "step": None}, "post"), (f"/takes/{take}", {"name": "x"}, "patch"),
            (f"/shots/{shot}", {"fps": 30}, "patch"), (f"/shots/{shot}/takes", {"name": "x"}, "post"),
            (f"/productions/{production}/shots", {"name": "x", "character_ids": [self.character.pk]}, "post"),
            (f"/productions/{production}/members", {"username": "tam", "role": "lead"}, "put"),
            (f"/characters/{self.character.pk}/plan", {"roles": {"hips": "pelvis"}}, "put"),
            (f"/castings/{self.casting.pk}", {"protected": ["head"]}, "patch"),
            (f"/castings/{self.casting.pk}/sets", {"name": "x", "controls": ["head"]}, "post"),
            (f"/productions/{production}/poses", {"name": "x", "take": take, "casting": self.casting.pk, "frame": 1},
                "post"),
        ):  # fmt: skip
            answer = self.post(path, body, method)
            self.assertEqual(answer.status_code, 403, path)
            self.assertIn("You are a guest", answer.json()["message"])
        upload = {"file": SimpleUploadedFile("b.glb", BRANNOC.read_bytes())}
        self.assertEqual(self.client.post(f"/api/productions/{production}/characters", upload).status_code, 403)
        self.assertEqual(Edit.objects.count(), 0)

    def test_an_animator_does_not_ask_people_in_and_a_lead_does(self) -> None:
        path = f"/productions/{self.production.pk}/members"
        self.assertEqual(self.post(path, {"username": "stranger", "role": "guest"}, "put").status_code, 403)
        self.as_user("maud")
        self.assertEqual(self.post(path, {"username": "stranger", "role": "guest"}, "put").status_code, 200)
        self.assertEqual(self.post(path, {"username": "maud", "role": "guest"}, "put").status_code, 422)
        self.as_user("stranger")
        asked = self.get("/invitations").json()
        self.assertEqual([(i["production"], i["role"], i["by"]) for i in asked], [("Skerry Light", "guest", "Maud")])
        self.assertEqual(self.get(f"/productions/{self.production.pk}/shots").status_code, 404)
        self.assertEqual(self.post(f"/invitations/{asked[0]['id']}", {}).json()["role"], "guest")
        self.assertEqual(self.get(f"/productions/{self.production.pk}/shots").status_code, 200)
        self.as_user("maud")
        self.assertEqual(self.client.delete(f"/api{path}/stranger").status_code, 200)
        self.assertFalse(Membership.objects.filter(user=self.stranger).exists())  # type: ignore[attr-defined]

    def test_asking_in_does_not_tell_which_accounts_there_are(self) -> None:
        self.stranger.first_name = "Sten"  # type: ignore[attr-defined]
        self.stranger.save()  # type: ignore[attr-defined]
        self.as_user("maud")
        path = f"/productions/{self.production.pk}/members"
        answers = [self.post(path, {"username": name, "role": "guest"}, "put") for name in ("nobody", "stranger")]
        self.assertEqual([a.status_code for a in answers], [200, 200])
        told = {m["username"]: (m["name"], m["invited"]) for m in answers[1].json()}
        self.assertEqual((told["nobody"], told["stranger"]), (("", True), ("", True)))
        self.as_user("isla")
        self.assertFalse([m for m in self.get(path).json() if m["invited"]])  # only a lead sees who is asked in

    def test_only_who_is_asked_comes_in_and_anybody_may_stay_out(self) -> None:
        self.as_user("maud")
        path = f"/productions/{self.production.pk}/members"
        self.post(path, {"username": " Stranger ", "role": "animator"}, "put")
        number = Invitation.objects.get().pk
        self.assertEqual(self.post(f"/invitations/{number}", {}).status_code, 404)
        self.as_user("stranger")
        self.assertEqual(self.client.delete(f"/api/invitations/{number}").status_code, 204)
        self.assertEqual((Invitation.objects.count(), self.get("/invitations").json()), (0, []))

    def test_a_lead_cannot_leave_by_another_spelling_and_a_production_keeps_a_lead(self) -> None:
        self.as_user("maud")
        path = f"/productions/{self.production.pk}/members"
        for name in ("maud", "MAUD", "Maud ", "m\u00e4ud"):
            self.assertIn(self.client.delete(f"/api{path}/{name}").status_code, (200, 422))
            self.post(path, {"username": name, "role": "guest"}, "put")
            self.assertEqual(Membership.objects.get(user=self.maud).role, "lead", name)  # type: ignore[attr-defined]

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


# Hashing takes long by design; how long is not what these tests are about.
QUICK = [f"django.contrib.auth.hashers.{name}PasswordHasher" for name in ("MD5", "PBKDF2")]


@override_settings(PASSWORD_HASHERS=QUICK)
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

    def guess(self, client: Client, name: str, word: str = "guess", address: str = "10.0.0.1") -> int:
        token = client.get("/api/session").json()["csrf"]
        return client.post(
            "/api/session", json.dumps({"username": name, "password": word}), content_type="application/json",
            headers={"X-CSRFToken": token}, REMOTE_ADDR=address,
        ).status_code  # fmt: skip

    def test_guessing_is_slowed_down_whatever_the_spelling(self) -> None:
        client = Client()
        names = ("maud", "MAUD", "Maud", "mAud", "m\u00e4ud")  # one account to the database
        tries = [self.guess(client, names[n % 5]) for n in range(12)]
        self.assertEqual((tries[:5], tries[6:]), ([403] * 5, [429] * 6))
        self.assertEqual(self.guess(client, "maud", "maud-lamp-oil"), 429)

    def test_an_address_that_is_made_up_is_not_believed(self) -> None:
        client = Client()
        for _ in range(6):
            self.guess(client, "maud")
        token = client.get("/api/session").json()["csrf"]
        headers = {"X-CSRFToken": token, "X-Forwarded-For": "192.0.2.7", "Forwarded": "for=192.0.2.7"}
        body = json.dumps({"username": "maud", "password": "guess"})
        answer = client.post(
            "/api/session", body, content_type="application/json", headers=headers, REMOTE_ADDR="10.0.0.1"
        )
        self.assertEqual(answer.status_code, 429)
        self.assertIn("Wait", answer.json()["message"])

    def test_nobody_is_locked_out_by_others_guesses(self) -> None:
        client = Client()
        for _ in range(20):
            self.guess(client, "maud")
        self.assertEqual(self.guess(Client(), "maud", "maud-lamp-oil", "10.0.0.2"), 200)

    def test_many_who_sign_in_rightly_from_one_address_are_not_slowed(self) -> None:
        for _ in range(40):
            self.assertEqual(self.guess(Client(), "maud", "maud-lamp-oil"), 200)

    def test_one_address_cannot_try_one_account_after_the_other(self) -> None:
        client = Client()
        tries = [self.guess(client, f"keeper {n}") for n in range(45)]
        self.assertEqual(tries.count(403), 31)
        self.assertEqual(tries[-1], 429)

    def test_the_pauses_grow_and_a_right_password_ends_them(self) -> None:
        client = Client()
        for _ in range(6):
            self.guess(client, "maud")
        pauses = []
        for _ in range(4):
            cache.delete("sign-in:10.0.0.1:" + tries.account_key("maud") + ":pause")
            self.assertEqual(self.guess(client, "maud"), 403)
            pauses.append(tries.wait_for("10.0.0.1", tries.account_key("maud")))
        self.assertEqual(pauses, sorted(pauses))
        self.assertGreater(pauses[-1], pauses[0])
        cache.clear()
        self.assertEqual(self.guess(client, "maud", "maud-lamp-oil"), 200)
        self.assertEqual([self.guess(client, "maud") for _ in range(5)], [403] * 5)

    def test_a_page_that_goes_on_asking_does_not_lock_its_address(self) -> None:
        """What one account is refused for counts against nobody else at the same address."""
        account, other = tries.account_key("maud"), tries.account_key("isla")
        for _ in range(200):
            tries.wait_for("10.0.0.7", account)
        self.assertGreater(tries.wait_for("10.0.0.7", account), 0)
        self.assertEqual([tries.wait_for("10.0.0.7", other) for _ in range(tries.PAIR.free)], [0] * tries.PAIR.free)
        # The other way round: an address that is refused uses up nobody's account.
        for n in range(60):
            tries.wait_for("10.0.0.8", f"name-{n}")
        self.assertEqual([tries.wait_for("10.0.0.9", "name-50") for _ in range(5)], [0] * 5)

    def test_tries_at_once_are_all_counted(self) -> None:
        """Twenty-four at the same moment: counting comes before hashing, so no more than the free ones get through."""
        account, gate, waits = tries.account_key("maud"), Barrier(24), []

        def one() -> None:
            gate.wait()
            waits.append(tries.wait_for("10.0.0.9", account))

        threads = [Thread(target=one) for _ in range(24)]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        self.assertEqual(sum(wait == 0 for wait in waits), tries.PAIR.free + 1)

    def test_the_admin_s_own_page_is_slowed_down_too(self) -> None:
        client = Client()
        body = {"username": "maud", "password": "guess"}
        for _ in range(7):
            client.post("/admin/login/", body)
        with mock.patch("django.contrib.auth.backends.ModelBackend.authenticate") as hashed:
            client.post("/admin/login/", body)
        hashed.assert_not_called()

    def test_demo_accounts_are_only_open_in_demo_mode(self) -> None:
        client = Client()
        self.assertEqual(client.get("/api/session").json()["demo"], [])
        self.assertEqual(self.sign_in(client, "/demo", {"username": "isla"}), 403)
        with override_settings(DEMO=True):
            self.assertEqual(self.sign_in(client, "/demo", {"username": "maud"}), 403)
            self.assertEqual(self.sign_in(client, "/demo", {"username": "isla"}), 200)
