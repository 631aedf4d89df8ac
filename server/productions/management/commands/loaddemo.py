"""Loads the demo: the production Skerry Light with its keeper and his apprentice. Does nothing when it is there
already.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from django.contrib.auth import get_user_model
from django.core.files.base import ContentFile
from django.core.management.base import BaseCommand
from django.db import transaction

import hame.demo
from hame.character.rig import Rig
from hame.clip.clip import Clip
from hame.demo import shots
from hame.edits.making import Made
from server.characters import store as characters
from server.characters.models import CharacterVersion
from server.productions.models import Membership, Production, Role
from server.shots import store
from server.shots.models import Casting, Shot, Take
from server.shots.scenes import cast_of

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
            figures = {
                name: characters.bring_in(
                    production.pk, name, (DATA / f"{name.lower()}.glb").read_bytes(), people["isla"]
                ).current
                for name in ("Brannoc", "Wick")
            }
            for plan in SHOTS:
                _make(production, plan, figures, people["isla"])


@dataclass(frozen=True)
class Plan:
    """A demo shot: frames up to ``last``, frames played, its cast, and by take who plays what."""

    name: str
    last: int
    play: int
    cast: tuple[str, ...]
    takes: dict[str, dict[str, Callable[[Rig], Clip]]]


SHOTS = (
    Plan("Before dawn", 49, 24, ("Brannoc",), {"Take 1": {}}),
    Plan("Morning round", 73, 72, ("Brannoc",), {
        "Walking on": {"Brannoc": shots.walk_across}, "On the spot": {"Brannoc": shots.walk_there},
    }),
    Plan("Late for the lamp", 65, 64, ("Wick",), {
        "Running on": {"Wick": shots.run_across}, "On the spot": {"Wick": shots.run_there},
    }),
    Plan("Gull on the rail", 64, 64, ("Brannoc", "Wick"), {
        "Take 1": {"Brannoc": shots.take, "Wick": shots.second_take},
    }),
    Plan("Keeping watch", 33, 32, ("Brannoc",), {"Take 1": {"Brannoc": shots.keeping_watch}}),
)  # fmt: skip


def _make(production: Production, plan: Plan, figures: dict[str, CharacterVersion], user: Any) -> None:
    shot = Shot.objects.create(
        production=production, name=plan.name, fps=24, start=1, end=plan.last, play_start=1, play_end=plan.play
    )
    picture = DATA / f"{plan.name.lower().replace(' ', '-')}.png"
    shot.thumbnail.save(picture.name, ContentFile(picture.read_bytes()))
    cast = {
        name: Casting.objects.create(shot=shot, version=figures[name], name=name, place=place)
        for place, name in enumerate(plan.cast)
    }
    for name, motions in plan.takes.items():
        take = Take.objects.create(shot=shot, name=name, created_by=user)
        for who, make in motions.items():
            take.refresh_from_db()
            _lay_down(take, cast[who], make(characters.rig(figures[who])), user)


def _lay_down(take: Take, casting: Casting, clip: Clip, user: Any) -> None:
    """Commits a finished motion as one step."""
    label = f"Lay down {take.shot.name}"
    store.commit(take.pk, cast_of(take.shot), take.revision, user, label, lambda _: Made({casting.pk: clip}))
