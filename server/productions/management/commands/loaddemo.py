"""Loads the demo: the production Skerry Light with its keeper. Does nothing when it is there already."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from django.contrib.auth import get_user_model
from django.core.files.base import ContentFile
from django.core.management.base import BaseCommand
from django.db import transaction

import hame.demo
from hame.clip.clip import Clip
from hame.demo import shots
from server.characters import store as characters
from server.productions.models import Membership, Production, Role
from server.shots import store
from server.shots.models import Casting, Shot, Take

DATA = Path(hame.demo.__file__).parent / "data"


class Command(BaseCommand):
    help = __doc__

    def handle(self, *args: Any, **options: Any) -> None:
        if Production.objects.filter(name="Skerry Light").exists():
            return
        with transaction.atomic():
            production = Production.objects.create(name="Skerry Light")
            people = {}
            for username, first, role in (("isla", "Isla", Role.ANIMATOR), ("tam", "Tam", Role.GUEST)):
                user, _ = get_user_model().objects.get_or_create(username=username, defaults={"first_name": first})
                user.set_unusable_password()
                user.save()
                Membership.objects.create(production=production, user=user, role=role)
                people[username] = user
            keeper = characters.bring_in(production.pk, "Brannoc", (DATA / "brannoc.glb").read_bytes(), people["isla"])
            version = keeper.current
            for name, last, play, make in (
                ("Morning round", 49, 24, None), ("Keeping watch", 33, 32, shots.keeping_watch),
            ):  # fmt: skip
                shot = Shot.objects.create(
                    production=production, name=name, fps=24, start=1, end=last, play_start=1, play_end=play
                )
                picture = DATA / f"{name.lower().replace(' ', '-')}.png"
                shot.thumbnail.save(picture.name, ContentFile(picture.read_bytes()))
                casting = Casting.objects.create(shot=shot, version=version, name=keeper.name)
                take = Take.objects.create(shot=shot, name="Take 1", created_by=people["isla"])
                if make is not None:
                    _lay_down(take, casting, make(characters.rig(version)), people["isla"])


def _lay_down(take: Take, casting: Casting, clip: Clip, user: Any) -> None:
    """Commits a finished motion as one step."""
    from hame.edits.outcome import Outcome

    store.commit(take.pk, casting.pk, take.revision, user, f"Lay down {take.shot.name}", lambda _: Outcome(clip))
