"""Shapes that morph a skin, as sliders: one control of the head that has a channel of each."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence

from hame.character.bodyplan import BodyPlan
from hame.character.draft import Draft
from hame.character.face import label_of
from hame.character.names import numbered
from hame.character.rig import EXTRA, Channel
from hame.character.skin import Skin
from hame.errors import BadPlan

SHAPES = "shapes"
LOW, HIGH = 0.0, 1.0  # of an amount, where nobody allows more
FARTHEST = 10.0
_LETTERS = re.compile(r"[^\w .+-]")


def shapes_of(skin: Skin) -> tuple[tuple[str, float, float, float], ...]:
    """The shapes of a skin as a plan has them: each goes from 0 to 1, or as far as it is at rest."""
    return tuple(
        (name, rest, min(LOW, rest), max(HIGH, rest)) for name, rest in zip(skin.shapes, skin.amounts, strict=True)
    )


def allowed(
    shapes: Sequence[tuple[str, float, float, float]], given: Mapping[str, tuple[float, float]]
) -> tuple[tuple[str, float, float, float], ...]:  # fmt: skip
    """Shapes of a plan with the least and greatest amounts that are ``given`` by name; others go from 0 to 1.

    Raises
    ------
    BadPlan
        If there is no such shape, or it would be kept from where every file may take it, or go absurdly far.
    """
    names = {shape[0] for shape in shapes}
    for name, (low, high) in given.items():
        if name not in names:
            raise BadPlan(f"the skin has no shape called {name}; nothing was changed")
        if not (-FARTHEST <= low <= LOW and HIGH <= high <= FARTHEST):
            raise BadPlan(
                f"{name} goes from {low:g} to {high:g}: a shape goes from 0 to 1 at least, and to {FARTHEST:g} either "
                "way at most. Nothing was changed"
            )
    return tuple(
        (name, rest, min(given.get(name, (LOW, HIGH))[0], rest), max(given.get(name, (LOW, HIGH))[1], rest))
        for name, rest, _, _ in shapes
    )


def channel_names(shapes: Sequence[str]) -> list[str]:
    """Names of channels for shapes, in their order: without what means something in an address, and all different."""
    found: list[str] = []
    for shape in shapes:
        found.append(numbered(_LETTERS.sub("_", shape).strip() or "shape", found))
    return found


def shape_names(plan: BodyPlan) -> dict[str, tuple[str, tuple[str, float, float, float]]]:
    """By shape, the name of its channel and what the plan says of it, in the skin's order."""
    names = channel_names([shape[0] for shape in plan.shapes])
    return {shape[0]: (name, shape) for name, shape in zip(names, plan.shapes, strict=True)}


def shapes_in(d: Draft, control: str, shapes: Sequence[str]) -> list[Channel]:
    """Channels of a control for shapes of the skin, which then are laid."""
    known = shape_names(d.plan)
    found = []
    for shape in shapes:
        name, (label, rest, low, high) = known[shape]
        d.shaping[shape] = f"{control}/{name}"
        found.append(
            Channel(address=f"{control}/{name}", control=control, name=name, label=label, kind=EXTRA, unit="",
                    rest=rest, low=low, high=high, purpose="how much of this shape the skin takes")
        )  # fmt: skip
    return found


def lay_shapes(d: Draft) -> None:
    """Sliders for the shapes of each zone of the face that no joint's control has, and one control of all others; they
    are carried by the head, or by what there is."""
    parent = next((name for name in ("head", "body", "master") if name in {one.name for one in d.controls}), "")
    part = "whole" if d.plan.is_prop else "face"
    for zone, found in d.plan.face.items():
        left = [shape for shape in found.shapes if shape not in d.shaping]
        if left:
            control, first = d.unused(zone), len(d.channels)
            d.channels += shapes_in(d, control, left)
            d.sliders(
                control, first, label=label_of(zone), part=part, kind="shapes", parent=parent, at=found.at,
                side=next((word for word in zone.split(".") if word in "LR"), ""),
            )  # fmt: skip
    left = [shape for shape, *_ in d.plan.shapes if shape not in d.shaping]
    if left:
        control, first = d.unused(SHAPES), len(d.channels)
        d.channels += shapes_in(d, control, left)
        d.sliders(control, first, label="shapes", part=part, kind="shapes", parent=parent)
