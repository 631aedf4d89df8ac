"""Who plays in a shot: coming, going, and in which order."""

from __future__ import annotations

from collections.abc import Sequence

from django.db.models import Max, QuerySet
from django.utils import timezone

from hame.clip.clip import Clip
from hame.clip.curve import from_keys
from hame.errors import BadEdit
from hame.scene.standing import free_place, half_width
from server.characters import store as characters
from server.characters.models import Character
from server.shots import clips, store
from server.shots.models import Casting, Curve, Shot

MOST = 24


def playing(shot: Shot) -> QuerySet[Casting]:
    """Those who play, in their order."""
    return shot.cast.filter(taken_out_at=None).select_related("version").prefetch_related("sets")


def able_to_play(production_id: int, character_id: int) -> Character:
    """The character or prop, if it can play.

    Raises
    ------
    BadEdit
        If it belongs to another production or was put away, or has no rig yet.
    """
    character = Character.objects.filter(production_id=production_id, pk=character_id, put_away_at=None).first()
    if character is None:
        raise BadEdit("a chosen character does not belong to this production")
    problem = characters.card(character.current).problem
    if problem:
        raise BadEdit(f"{character.name} has no rig yet, so it cannot play: map its joints first ({problem})")
    return character


def add_to_cast(shot: Shot, character: Character) -> Casting:
    """A new one of the cast, named after the character, with a number where that name is taken."""
    if shot.cast.filter(taken_out_at=None).count() >= MOST:
        raise BadEdit(f"{MOST} play in this shot already; take somebody out first. Nothing was changed")
    names = set(shot.cast.values_list("name", flat=True))
    name, number = character.name, 2
    while name in names:
        name, number = f"{character.name[:90]} {number}", number + 1
    casting = Casting.objects.create(shot=shot, version=character.current, name=name, place=_behind(shot))
    _stand_beside(casting)
    return casting


def _stand_beside(casting: Casting) -> None:
    """Keys the newcomer's master beside the others in every take, where they would stand in one another."""
    rig = characters.rig(casting.version)
    master = f"{rig.controls[0].name}/tx"
    others = {other.pk: half_width(characters.rig(other.version)) for other in playing(casting.shot)}
    others.pop(casting.pk)
    for take in casting.shot.takes.all():
        keys = Curve.objects.filter(take=take, casting__in=others, channel=master).values_list("casting", "keys")
        stands = {number: float(rows[0][1]) for number, rows in keys}
        x = free_place([(stands.get(number, 0.0), half) for number, half in others.items()], half_width(rig))
        if x:
            placed = Clip({master: from_keys({casting.shot.start: round(x, 3)})})
            clips.store_snapshot(take, casting.pk, Clip(), placed)


def take_out(casting: Casting, out: bool) -> None:
    """Takes one out of the shot, where its motion is kept in all takes, or brings it back; to be saved."""
    if out and not casting.shot.cast.filter(taken_out_at=None).exclude(pk=casting.pk).exists():
        raise BadEdit("nobody else plays in this shot; add somebody first, or put the whole shot away")
    if not out and casting.taken_out_at is not None:
        if casting.shot.cast.filter(taken_out_at=None).count() >= MOST:
            raise BadEdit(f"{MOST} play in this shot already; take somebody out first. Nothing was changed")
        casting.place = _behind(casting.shot)
    casting.taken_out_at = timezone.now() if out else None


def reorder(shot: Shot, castings: Sequence[int]) -> None:
    """Raises :class:`BadEdit` if these are not just those who play."""
    found = {casting.pk: casting for casting in playing(shot)}
    if sorted(castings) != sorted(found):
        raise BadEdit("somebody has come or gone meanwhile; look at the cast again. Nothing was changed")
    for place, number in enumerate(castings):
        found[number].place = place
    Casting.objects.bulk_update(found.values(), ["place"])


def tell_of_cast(shot: Shot) -> None:
    """Tells all pages that have a take of the shot open."""
    for take in shot.takes.values_list("pk", flat=True):
        store.announce(take, {"type": "cast.changed"})


def _behind(shot: Shot) -> int:
    last = shot.cast.aggregate(last=Max("place"))["last"]
    return 0 if last is None else int(last) + 1
