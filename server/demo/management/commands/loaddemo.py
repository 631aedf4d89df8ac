"""Lays what is missing of the demo: the production Skerry Light with its people, props, shots and poses.

Each piece is laid once. So a later demo reaches an installation that has an earlier one, and nothing that was renamed,
changed or deleted there is touched.
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
from hame.demo import bollard, expressions, refined, scenes, shots
from hame.demo.falls import GIVES_WAY
from hame.demo.fog import FOG
from hame.demo.gallery import GALLERY
from hame.demo.ladder import UP_THE_LADDER
from hame.demo.poses import FACES, SHELF, Shelved
from hame.demo.pulled import PULLED
from hame.demo.quay import QUAY
from hame.demo.roundover import ROUND
from hame.edits.library import size_of
from hame.edits.making import Made
from server.characters import store as characters
from server.characters.body import BodyIn, set_body
from server.characters.models import Character, CharacterVersion
from server.characters.reading import take_ours
from server.demo.pieces import NAME, missing
from server.productions.models import DemoPiece, Membership, Production, Role
from server.shots import store
from server.shots.models import Casting, LibraryPose, Shot, Take
from server.shots.scenes import cast_of

DATA = Path(hame.demo.__file__).parent / "data"


class Command(BaseCommand):
    help = __doc__

    def handle(self, *args: Any, **options: Any) -> None:
        wanted = missing()
        if not wanted:
            return
        with transaction.atomic():
            isla = _people()
            production = _production(wanted)
            if production is None:
                return  # it was deleted for good: it is not wanted here
            figures: dict[str, CharacterVersion] = {}
            for piece in wanted:
                kind, _, name = piece.partition(" ")
                if kind in ("character", "prop"):
                    data = (DATA / f"{name.lower().replace(' ', '-')}.glb").read_bytes()
                    taken = take_ours(name, data, kind == "prop")
                    found = characters.keep(taken, production.pk, name, data, isla)
                    figures[name] = found.current
                    if name.lower() in shots.RANGES:
                        set_body(found, BodyIn(ranges=shots.RANGES[name.lower()]))
                elif kind == "shot":
                    _lay_shot(production, PLANS[name], figures, isla)
                elif kind == "take":
                    shot_name, _, take_name = name.partition(": ")
                    _lay_take(production, shot_name, take_name, isla)
                elif kind in ("poses", "expressions"):
                    _lay_poses(production, figures, isla, SHELF if kind == "poses" else FACES)
                DemoPiece.objects.create(name=piece, production=production)


def _people() -> Any:
    """The demo's accounts; the first is the animator who is said to have made everything."""
    people = []
    for username, first in (("isla", "Isla"), ("tam", "Tam")):
        user, _ = get_user_model().objects.get_or_create(username=username, defaults={"first_name": first})
        user.set_unusable_password()
        user.save()
        people.append(user)
    return people[0]


def _production(wanted: list[str]) -> Production | None:
    if "production" not in wanted:
        laid = DemoPiece.objects.select_related("production").get(name="production")
        return laid.production
    production = Production.objects.create(name=NAME)
    for username, role in (("isla", Role.ANIMATOR), ("tam", Role.GUEST)):
        user = get_user_model().objects.get(username=username)
        Membership.objects.create(production=production, user=user, role=role)
    return production


def _version(production: Production, name: str, figures: dict[str, CharacterVersion]) -> CharacterVersion | None:
    """The demo's character of that name, as it is now; None where it is gone or has no rig."""
    if name not in figures:
        found = Character.objects.filter(production=production, name=name).order_by("id").first()
        if found is None or characters.card(found.current).problem:
            return None
        figures[name] = found.current
    return figures[name]


def _lay_poses(
    production: Production, figures: dict[str, CharacterVersion], user: Any, shelf: tuple[Shelved, ...]
) -> None:  # fmt: skip
    for pose in shelf:
        version = _version(production, pose.figure, figures)
        if version is None:
            continue
        rig = characters.rig(version)
        values = pose.make(rig)
        if not values:
            continue  # a figure from before it had a face
        kept = LibraryPose(
            production=production, name=pose.name, character=pose.figure, values=values, size=size_of(rig), made_by=user
        )  # fmt: skip
        kept.picture.save(pose.picture, ContentFile((DATA / pose.picture).read_bytes()), save=False)
        kept.save()


@dataclass(frozen=True)
class Plan:
    """A demo shot: frames up to ``last``, frames played, its cast, and by take who plays what, or what all play."""

    name: str
    last: int
    play: int
    cast: tuple[str, ...]
    takes: dict[str, dict[str, Callable[[Rig], Clip]]]
    scene: scenes.ScenePlan | None = None


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
    Plan("Filling the lamp", 49, 48, ("Brannoc", "Wick", "Oil can", "Signal lamp"), {"Take 1": {
        "Brannoc": shots.watching_wick, "Wick": shots.at_the_lamp, "Oil can": shots.standing_can,
        "Signal lamp": shots.turning_lamp,
    }}),
)  # fmt: skip
SHOTS_OF_SEVERAL = tuple(
    Plan(s.name, s.last, s.last, s.cast, {}, s)
    for s in (*scenes.SCENES, UP_THE_LADDER, *PULLED, bollard.BOLLARD, GIVES_WAY, QUAY, ROUND, GALLERY, FOG)
)
PLANS = {plan.name: plan for plan in (*SHOTS, *SHOTS_OF_SEVERAL)}


def _lay_shot(production: Production, plan: Plan, figures: dict[str, CharacterVersion], user: Any) -> None:
    versions: dict[str, CharacterVersion] = {}
    for name in plan.cast:
        version = _version(production, name, figures)
        if version is None:
            return  # somebody of its cast is gone
        versions[name] = version
    shot = Shot.objects.create(
        production=production, name=plan.name, fps=24, start=1, end=plan.last, play_start=1, play_end=plan.play
    )
    picture = DATA / f"{plan.name.lower().replace(' ', '-')}.png"
    if picture.is_file():  # not where it is about to be drawn for the first time
        shot.thumbnail.save(picture.name, ContentFile(picture.read_bytes()))
    cast = {
        name: Casting.objects.create(shot=shot, version=version, name=name, place=place)
        for place, (name, version) in enumerate(versions.items())
    }
    for name, motions in plan.takes.items():
        take = Take.objects.create(shot=shot, name=name, created_by=user)
        for who, make in motions.items():
            take.refresh_from_db()
            _lay_down(take, {cast[who].pk: make(characters.rig(cast[who].version))}, user)
    if plan.scene is not None:
        rigs = {name: characters.rig(version) for name, version in versions.items()}
        skins = {name: characters.read(version).skin for name, version in versions.items()}
        clips = scenes.acted(plan.scene, rigs, {name: casting.pk for name, casting in cast.items()}, skins)
        take = Take.objects.create(shot=shot, name="Take 1", created_by=user)
        _lay_down(take, {cast[name].pk: clip for name, clip in clips.items()}, user)
        if plan.scene is bollard.BOLLARD:
            drawn = enumerate(bollard.PATHS)
            paths = [
                {
                    "casting": cast[bollard.WHO].pk,
                    "name": control,
                    "joint": False,
                    "tone": tone,
                    "within": "",
                    "shown": True,
                }
                for tone, control in drawn
            ]
            Take.objects.filter(pk=take.pk).update(paths=paths)


# Takes of shots that were laid earlier: by shot and name, who plays what.
TAKES: dict[tuple[str, str], dict[str, Callable[[Rig], Clip]]] = {
    ("Morning round", "Tired"): {"Brannoc": refined.tired_round},
    ("Gull on the rail", "Refined"): {"Brannoc": refined.refined_take, "Wick": shots.second_take},
    ("Gull on the rail", "With faces"): {"Brannoc": expressions.gull_keeper, "Wick": expressions.gull_apprentice},
}


def _lay_take(production: Production, shot_name: str, name: str, user: Any) -> None:
    """A take more in a shot of the demo, where that is still there with its cast."""
    shot = Shot.objects.filter(production=production, name=shot_name, put_away_at=None).order_by("id").first()
    if shot is None:
        return
    cast = {casting.name: casting for casting in shot.cast.filter(taken_out_at=None).select_related("version")}
    motions = TAKES[shot_name, name]
    if not motions.keys() <= cast.keys():
        return
    first = shot.takes.order_by("id").first()
    take = Take.objects.create(shot=shot, name=name, created_by=user)
    for who, make in motions.items():
        take.refresh_from_db()
        _lay_down(take, {cast[who].pk: make(characters.rig(cast[who].version))}, user)
    if first is not None:  # the shot goes on to be opened with the take it was opened with before
        Take.objects.filter(pk=take.pk).update(changed_at=first.created_at)


def _lay_down(take: Take, clips: dict[int, Clip], user: Any) -> None:
    """Commits finished motions, by casting, as one step."""
    label = f"Lay down {take.shot.name}"
    store.commit(take.pk, cast_of(take.shot), store.Basis(take.revision), user, label, lambda _: Made(clips))
