"""Body, hips, spine, neck, head, jaw and eyes of a rig."""

from __future__ import annotations

from math import radians

from hame.character.draft import (
    SIDES,
    TURN_ONLY,
    Draft,
    stretch_channels,
)
from hame.character.free import freedom
from hame.character.rig import Channel, Shape
from hame.character.shapes import shapes_in
from hame.maths import transforms
from hame.program import Stretch


def lay_trunk(d: Draft, master: int, hips: int, size: float) -> int:
    """Body, hips, spine, neck, head, jaw and eyes; returns the node of the body."""
    upright = {"rx": "bend", "ry": "turn", "rz": "lean"}
    spine = [d.skeleton.index(name) for name in d.plan.numbered("spine")]
    body = d.control(
        "body", master, transforms.transform(d.place(hips)), label="body", part="body", kind="body",
        shape=Shape("body", 0.15 * size), parent_control="master",
        labels={**upright, "tx": "sideways", "ty": "height", "tz": "forward"},
    )  # fmt: skip
    waist = d.place(spine[0]) if spine else d.place(hips)
    pelvis = d.control(
        "hips", body, transforms.transform(waist), label="hips", part="body", kind="trunk",
        shape=Shape("belt", 0.12 * size, (0.0, float(d.place(hips)[1] - waist[1]), 0.0)), parent_control="body",
        labels=upright, locks={"t": "turns only: move the body to carry the hips"},
    )  # fmt: skip
    d.joint(hips, pelvis, "hips")

    # Joints between two that have a role hang rigidly on the upper one.
    node, above, parent_control, carried = body, hips, "body", pelvis
    line = [(j, "chest" if n == len(spine) - 1 else "spine" if n == 0 else f"spine.{n + 1}", "spine")
            for n, j in enumerate(spine)]  # fmt: skip
    neck = [d.skeleton.index(name) for name in d.plan.numbered("neck")]
    line += [(j, "neck" if n == 0 else f"neck.{n + 1}", "head") for n, j in enumerate(neck)]
    head = d.at("head")
    if head is not None:
        line.append((head, "head", "head"))
    # Of a row, the first has the sliders that stretch it: what comes after lies farther off, and all but the last of
    # the spine, which bears the ribs, grow thinner by it. The head grows and shrinks as a whole.
    stretch: Stretch | None = None
    rows = {"spine": len(spine), "neck": len(neck) + (head is not None)}
    for n, (j, name, part) in enumerate(line):
        for between in d.skeleton.chain(above, j)[1:-1]:
            d.joint(between, carried, parent_control)
        begins = name in rows and rows[name] > 1
        row = "spine" if n < len(spine) else "neck"
        follows = stretch if n and row == ("spine" if n - 1 < len(spine) else "neck") else None
        radius = {"head": 0.085, "neck": 0.05, "chest": 0.125}.get(name.split(".")[0], 0.105) * size
        shape = Shape("crown", radius, (0.0, 0.09 * size, 0.0)) if name == "head" else Shape("ring", radius)
        node = d.control(
            name, node, transforms.transform(d.place(j)), label=name.replace(".", " "), part=part, kind="trunk",
            shape=shape, parent_control=parent_control, labels=upright, locks={"t": TURN_ONLY}, stretch=follows,
            extra=stretch_channels(name, {"spine": "torso"}.get(name, name)) if begins else (),
            scalable=name == "head", scale_label="makes the head larger or smaller",
        )  # fmt: skip
        if begins:
            stretch = Stretch(d.number(f"{name}/stretch"), d.number(f"{name}/volume"))
        last = name in ("chest", "head")
        d.joint(j, node, name, stretch=None if last or not (begins or follows) else stretch)
        above, parent_control, carried = j, name, node
    jaw = d.at("jaw")
    if jaw is not None:
        open_jaw = d.control(
            "jaw", node, transforms.transform(d.place(jaw)), label="jaw", part="face", kind="face",
            shape=Shape("drop", 0.02 * size, (0.0, -0.03 * size, 0.07 * size)), parent_control="head",
            labels={"rx": "open", "ry": "side to side", "rz": "tilt"}, scale_label="makes the jaw larger or smaller",
            extra=_shapes(d, "jaw"), **freedom(d.plan, d.skeleton.names[jaw], {
                "locks": {"t": TURN_ONLY},
                "limits": {"rx": (radians(-5), radians(40)), "ry": (radians(-12), radians(12)),
                           "rz": (radians(-8), radians(8))},
            }),
        )  # fmt: skip
        d.joint(jaw, open_jaw, "jaw")
    for side in "LR":
        eye = d.at(f"eye.{side}")
        if eye is not None:
            look = d.control(
                f"eye.{side}", node, transforms.transform(d.place(eye)), label=f"{SIDES[side]} eye", part="face",
                kind="face", side=side, shape=Shape("drop", 0.014 * size, (0.0, 0.0, 0.05 * size)),
                parent_control="head", labels={"rx": "look down", "ry": "look aside", "rz": "roll"},
                scale_label="makes the eye larger or smaller",
                extra=_shapes(d, f"eye.{side}"), **freedom(d.plan, d.skeleton.names[eye], {
                    "locks": {"t": TURN_ONLY, "rz": "does not roll"},
                    "limits": {"rx": (radians(-35), radians(35)), "ry": (radians(-50), radians(50))},
                }),
            )  # fmt: skip
            d.joint(eye, look, f"eye.{side}")
    return body


def _shapes(d: Draft, zone: str) -> list[Channel]:
    """The shapes of a zone whose joint has a role in the body."""
    return shapes_in(d, zone, d.plan.face[zone].shapes) if zone in d.plan.face else []
