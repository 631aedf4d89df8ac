"""Shapes that morph a skin, as sliders: one control of the head that has a channel of each."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence

from hame.character.draft import Draft
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


def lay_shapes(d: Draft) -> None:
    """The control of all shapes, if there are any; it is carried by the head, or by what there is."""
    shapes = d.plan.shapes
    if not shapes:
        return
    names = channel_names([shape[0] for shape in shapes])
    control = d.unused(SHAPES)
    first = len(d.channels)
    for name, (label, rest, low, high) in zip(names, shapes, strict=True):
        d.channels.append(
            Channel(address=f"{control}/{name}", control=control, name=name, label=label, kind=EXTRA, unit="",
                    rest=rest, low=low, high=high, purpose="how much of this shape the skin takes")
        )  # fmt: skip
    laid = {one.name for one in d.controls}
    parent = next((name for name in ("head", "body", "master") if name in laid), "")
    part = "whole" if d.plan.is_prop else "face"
    d.sliders(control, first, label="shapes", part=part, kind="shapes", parent=parent)
