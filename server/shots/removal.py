"""Deleting for good: what goes along is said first, and then goes in one transaction with its files."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any

from django.core.files.storage import Storage
from django.db import transaction
from django.db.models import QuerySet

from hame.errors import BadEdit
from server.characters.models import Character, CharacterVersion
from server.productions.models import Production
from server.shots.models import Casting, Change, Difference, Edit, LibraryPose, SheetImage, Shot, Take


@dataclass(frozen=True)
class Going:
    """What is deleted with something, in words."""

    words: tuple[str, ...]


def of_takes(takes: QuerySet[Take]) -> Going:
    steps = Edit.objects.filter(take__in=takes).count()
    return Going((*_count(takes.count(), "take"), *_count(steps, "step", "of history")))


def of_shots(shots: QuerySet[Shot]) -> Going:
    return Going((
        *_count(shots.count(), "shot"), *of_takes(Take.objects.filter(shot__in=shots)).words,
        *_count(SheetImage.objects.filter(shot__in=shots).count(), "picture", "of reference"),
    ))  # fmt: skip


def of_character(character: Character) -> Going:
    """A character that still plays in shots cannot go: its motion would have nobody left."""
    _refuse_playing(character)
    return Going((f"the character {character.name}", *_count(character.versions.count(), "version")))


def of_production(production: Production) -> Going:
    return Going((
        *of_shots(Shot.objects.filter(production=production)).words,
        *_count(production.characters.count(), "character"), *_count(production.poses.count(), "pose",
            "of the library"),
        *_count(production.memberships.count(), "place", "of people in it"),
    ))  # fmt: skip


def _count(count: int, one: str, more: str = "") -> tuple[str, ...]:
    return (f"{count} {one}{'' if count == 1 else 's'} {more}".strip(),) if count else ()


def _refuse_playing(character: Character) -> None:
    shots = sorted(set(Shot.objects.filter(cast__version__character=character).values_list("name", flat=True)))
    if shots:
        raise BadEdit(
            f"{character.name} plays in {', '.join(shots[:4])}{' and more' if len(shots) > 4 else ''}: "
            f"delete these shots "
            "first, or only put the character away"
        )


def delete_takes(takes: QuerySet[Take]) -> None:
    with transaction.atomic():
        numbers = list(takes.values_list("pk", flat=True))
        Take.objects.filter(pk__in=numbers).update(head=None, tip=None)
        Change.objects.filter(take__in=numbers).delete()
        # Steps hang on one another; once they do not, they go without being read.
        steps = Edit.objects.filter(take__in=numbers)
        steps.update(parent=None, inverse_of=None)
        Difference.objects.filter(edit__take__in=numbers).delete()
        steps._raw_delete(steps.db)
        Take.objects.filter(pk__in=numbers).delete()


def delete_shots(shots: QuerySet[Shot]) -> None:
    with transaction.atomic():
        numbers = list(shots.values_list("pk", flat=True))
        files = [shot.thumbnail for shot in shots] + [
            image.picture for image in SheetImage.objects.filter(shot__in=numbers)
        ]
        delete_takes(Take.objects.filter(shot__in=numbers))
        Casting.objects.filter(shot__in=numbers).delete()
        Shot.objects.filter(pk__in=numbers).delete()
        delete_files(files)


def delete_character(character: Character) -> None:
    with transaction.atomic():
        _refuse_playing(character)
        _delete_versions(CharacterVersion.objects.filter(character=character))
        character.delete()


def delete_production(production: Production) -> None:
    with transaction.atomic():
        delete_shots(Shot.objects.filter(production=production))
        _delete_versions(CharacterVersion.objects.filter(character__production=production))
        delete_files(pose.picture for pose in LibraryPose.objects.filter(production=production))
        production.delete()


def _delete_versions(versions: QuerySet[CharacterVersion]) -> None:
    files = [file for version in versions for file in (version.source, version.mesh)]
    versions.delete()
    delete_files(files)


def delete_files(files: Iterable[Any]) -> None:
    """Deletes files once what belongs to them is really gone."""
    named: dict[str, Storage] = {file.name: file.storage for file in files if file}

    def gone() -> None:
        for name, storage in named.items():
            storage.delete(name)

    transaction.on_commit(gone, robust=True)
