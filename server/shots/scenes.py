"""The scene of a take out of the database: who plays, with clips that are opened when they are asked for."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass

from django.shortcuts import get_object_or_404

from hame.character.skin import Skin
from hame.clip.clip import Clip
from hame.scene.scene import Figure, Scene, StoredPose
from server.characters import store as characters
from server.shots.models import Casting, LibraryPose, Shot, Take


class Figures(Mapping[int, Figure]):
    """The cast by number. ``asked`` are those whose clips were asked for: what an edit may have read."""

    def __init__(self, cast: Mapping[int, Casting], clip_of: Callable[[int], Clip]) -> None:
        self._cast, self._clip_of = cast, clip_of
        self._opened: dict[int, Figure] = {}

    @property
    def asked(self) -> set[int]:
        return set(self._opened)

    def __getitem__(self, number: int) -> Figure:
        if number not in self._opened:
            casting = self._cast[number]
            self._opened[number] = Figure(
                characters.rig(casting.version), self._clip_of(number), casting.name, tuple(casting.protected),
                casting.taken_out_at is None,
            )  # fmt: skip
        return self._opened[number]

    def __iter__(self) -> Iterator[int]:
        return iter(self._cast)

    def __len__(self) -> int:
        return len(self._cast)


class Library(Mapping[int, StoredPose]):
    """The pose library of a production, read pose by pose."""

    def __init__(self, production_id: int) -> None:
        self._poses = LibraryPose.objects.filter(production_id=production_id)

    def __getitem__(self, number: int) -> StoredPose:
        found = self._poses.filter(pk=number).first()
        if found is None:
            raise KeyError(number)
        return StoredPose(found.values, found.size, found.name)

    def __iter__(self) -> Iterator[int]:
        return iter(self._poses.values_list("pk", flat=True))

    def __len__(self) -> int:
        return self._poses.count()


class Skins(Mapping[int, Skin]):
    """The surfaces of the cast, read when they are asked for."""

    def __init__(self, cast: Mapping[int, Casting]) -> None:
        self._cast = cast

    def __getitem__(self, number: int) -> Skin:
        return characters.read(self._cast[number].version).skin

    def __iter__(self) -> Iterator[int]:
        return iter(self._cast)

    def __len__(self) -> int:
        return len(self._cast)


@dataclass(frozen=True)
class Cast:
    """Who plays in a shot."""

    shot: Shot
    castings: Mapping[int, Casting]

    def scene(self, clip_of: Callable[[int], Clip]) -> Scene:
        """The scene with clips as ``clip_of`` opens them, by casting."""
        figures, library = Figures(self.castings, clip_of), Library(self.shot.production_id)
        return Scene(
            figures,
            self.shot.start,
            self.shot.end,
            library,
            skins=Skins(self.castings),
            fps=self.shot.fps,
            gravity=self.shot.gravity,
        )


def asked_of(scene: Scene) -> set[int]:
    """The figures of a scene whose clips were asked for."""
    figures = scene.figures
    return figures.asked if isinstance(figures, Figures) else set(figures)


def cast_of(shot: Shot) -> Cast:
    """Those who play, and those taken out as well: steps may still be about them."""
    found = shot.cast.select_related("version").defer("version__card", "version__notes").order_by()
    return Cast(shot, {c.pk: c for c in sorted(found, key=lambda c: (c.place, c.pk))})


def take_of(take_id: int) -> Take:
    """A take with its shot, whoever asks: what they may see has been made sure of. 404 where it is gone."""
    return get_object_or_404(Take.objects.select_related("shot"), pk=take_id)
