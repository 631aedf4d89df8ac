"""A production with its people, the keeper and a shot, for the tests of the server."""

from __future__ import annotations

import json
from functools import cache as cache_of
from typing import Any
from unittest import mock

from django.contrib.auth import get_user_model
from django.contrib.auth.hashers import PBKDF2PasswordHasher
from django.core.cache import cache
from django.core.management import call_command
from django.test import Client, TestCase

from server.characters import reading
from server.characters import store as characters
from server.characters.models import Character
from server.productions.models import Membership, Production, Role
from server.shots import store
from server.shots.models import Casting, Shot, Take
from tests.hame.examples import BRANNOC

take_in_once = cache_of(reading.take_in)  # read in a process of its own; once is enough for the keeper


def lay_demo() -> None:
    """The demo laid, or what of it is missing."""
    call_command("loaddemo")


def furnish(case: Any) -> None:
    """Puts people, production, character, shot and take on a test case."""
    users = get_user_model().objects
    hasher = PBKDF2PasswordHasher()
    case.production = Production.objects.create(name="Skerry Light")
    for name, role in (("isla", Role.ANIMATOR), ("maud", Role.LEAD), ("tam", Role.GUEST)):
        # One round of hashing: what takes time by design is not what these tests are about.
        password = hasher.encode(f"{name}-lamp-oil", "salt", iterations=1)
        user = users.create(username=name, password=password, first_name=name.capitalize())
        Membership.objects.create(production=case.production, user=user, role=role)
        setattr(case, name, user)
    case.stranger = users.create(username="stranger")
    with mock.patch.object(characters, "take_in", take_in_once):
        case.character = characters.bring_in(case.production.pk, "Brannoc", BRANNOC.read_bytes(), case.isla)
    case.shot = Shot.objects.create(production=case.production, name="Morning round", end=49, play_end=24)
    case.casting = Casting.objects.create(shot=case.shot, version=case.character.current, name="Brannoc")
    case.take = Take.objects.create(shot=case.shot, name="Take 1")


class ServerTest(TestCase):
    production: Production
    character: Character
    shot: Shot
    casting: Casting
    take: Take

    @classmethod
    def setUpTestData(cls) -> None:
        furnish(cls)

    def setUp(self) -> None:
        cache.clear()  # counts of tries
        store.forget()  # another test's clips, rolled back since, may have had the same revisions
        self.client = Client()
        self.client.force_login(self.isla)  # type: ignore[attr-defined]

    def as_user(self, name: str) -> None:
        self.client.force_login(getattr(self, name))

    def get(self, path: str) -> Any:
        return self.client.get(f"/api{path}")

    def post(self, path: str, body: Any, method: str = "post") -> Any:
        call = getattr(self.client, method)
        return call(f"/api{path}", json.dumps(body), content_type="application/json")

    def edit(self, edit: dict[str, Any], revision: int | None = None) -> Any:
        if revision is None:
            revision = Take.objects.get(pk=self.take.pk).revision
        body = {"revision": revision, "casting": self.casting.pk, "edit": edit}
        return self.post(f"/takes/{self.take.pk}/edits", body)

    def pose(self, frame: int, keying: str = "changed", **values: float) -> Any:
        named = {name.replace("__", "/"): value for name, value in values.items()}
        return self.edit({"kind": "pose", "frame": frame, "values": named, "keying": keying})

    def clip(self) -> dict[str, Any]:
        return self.get(f"/takes/{self.take.pk}").json()["clips"][str(self.casting.pk)]
