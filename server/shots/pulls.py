"""Pulls by some parts of the body, and poses made of few, as they are asked for over a socket."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np

from hame.clip.plants import Plant
from hame.errors import HameError
from hame.solve.begun import Begun, where
from hame.solve.few import estimate
from hame.solve.pull import Pulled, pull
from hame.solve.wishes import Grip, Target
from server.shots.messages import Few, Pull


def pulled(
    begun: Begun, planted: Mapping[str, Plant], protected: Sequence[str], message: Pull | Few
) -> tuple[Pulled, dict[str, object]]:
    """The pose that a message asks for, and what to say of it.

    Raises
    ------
    HameError
        If a part is no part of the body, is protected, planted or locked, or is wanted too far off.
    """
    body = begun.body
    parts = list(dict.fromkeys(body.link(control).name for control in message.controls))
    for part in parts:
        _refuse(begun, part, planted, protected)
    offset = np.array(message.offset)
    if isinstance(message, Few):
        placed = [(body.link(t.part).name, t.turn) for t in message.targets]
        targets = []
        for part, turn in placed:
            place, way = where(begun, part)
            targets.append(Target(part, place + offset if part in parts else place, way if turn else None))
        result = estimate(begun, targets, message.leanings.leanings())
        return result, _said(begun, result, False)
    targets = [Target(part, where(begun, part)[0] + offset) for part in parts]
    grips = {}
    for g in message.grips:
        name = body.link(g.part).name
        grips[name] = Grip(name, g.grade, g.place, g.turn)
    # What a plant holds stays, and so does a limb whose IK control nobody may touch.
    grips |= {part: Grip(part, "fast") for part in (*planted, *_kept_by_ik(begun, protected))}
    held = [grip for part, grip in grips.items() if part not in parts]
    result = pull(begun, targets, held, message.leanings.leanings())
    return result, _said(begun, result, not any(grip.place for grip in held))


def _refuse(begun: Begun, part: str, planted: Mapping[str, Plant], protected: Sequence[str]) -> None:
    link = begun.body.link(part)
    if part in planted:
        plant = planted[part]
        raise HameError(
            f"{link.label} is planted from {plant.start} to {plant.end}, so it stays. Move the plant or take it away "
            "to pull there; nothing was changed"
        )
    if set(link.controls) & set(protected):
        raise HameError(f"{link.label} is protected, so it cannot be pulled; nothing was changed")


def _kept_by_ik(begun: Begun, protected: Sequence[str]) -> list[str]:
    """The ends of limbs and chains that are posed by an IK control which is protected."""
    rig = begun.body.rig
    ends = [end for end in rig.ends if end.ik in protected and begun.values[rig.number(end.switch)] > 0.5]
    return [begun.body.link(end.ik).name for end in ends]


def _said(begun: Begun, result: Pulled, whole: bool) -> dict[str, object]:
    """What a page shows of a pull besides the pose: which parts gave by how much, metres and radians."""
    gave = [
        {"part": g.part, "label": g.label, "grade": g.grade, "metres": g.metres, "radians": g.radians}
        for g in result.gave
    ]
    return {"gave": gave, "whole": whole, "beyond": list(begun.beyond)}
