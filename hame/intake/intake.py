"""Bringing a character file in: read, turned to face ahead, its body plan proposed, written regular and read back."""

from __future__ import annotations

import logging
import math
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from hame.character.bodyplan import BodyPlan
from hame.character.build import build_rig
from hame.character.bulks import with_bulks
from hame.character.face import proposed
from hame.character.propose import propose
from hame.character.shapes import shapes_of
from hame.character.skeleton import Skeleton
from hame.character.skin import Skin
from hame.character.soles import with_soles
from hame.character.volumes import with_masses
from hame.errors import BadFile, BadPlan
from hame.formats.glb import MAX_BYTES
from hame.formats.gltf_read import Character, read_character
from hame.formats.gltf_write import write_character
from hame.formats.kinds import reader_for
from hame.intake.facing import evened, heading_of, turned


@dataclass(frozen=True)
class Card:
    """What is shown of a character in a list.

    Attributes
    ----------
    height : from the lowest to the highest point of the surface, metres
    controls : of its rig; 0 when none can be built yet
    problem : what keeps a rig from being built; empty when nothing does
    """

    joints: int
    triangles: int
    height: float
    controls: int
    problem: str = ""

    def to_json(self) -> dict[str, Any]:
        return {"joints": self.joints, "triangles": self.triangles, "height": self.height, "controls": self.controls,
                "problem": self.problem}  # fmt: skip


@dataclass(frozen=True)
class Intake:
    """A character ready to be stored: the regular file, its plan, what is shown of it, and notes in words."""

    mesh: bytes
    plan: BodyPlan
    card: Card
    notes: tuple[str, ...]


def take_in(name: str, data: bytes, prop: bool = False, file: str = "") -> Intake:
    """Reads a file somebody brings in, as a figure or as a prop, whose joints are not looked at for a body.

    The figure is turned to face +Z and its sides are evened out; what results
    is written as a regular .glb and read back, so that what is stored can be
    opened. A body of which no plan can be guessed is no error: it has no rig
    until somebody maps its joints.

    ``file`` is what the file is called; its end says how it is read.

    Raises
    ------
    BadFile
        If the file cannot be used, in words for the person who chose it.
    """
    try:
        found = reader_for("character", file).read(data, prop)
        if prop:
            plan = replace(prop_plan(found.skeleton, found.skin), shapes=shapes_of(found.skin))
            plan = with_bulks(plan, found.skeleton, found.skin)
            mesh = written(name, Character(name, found.skeleton, found.skin, ()))
            return Intake(mesh, plan, card_of(read_character(mesh), plan), tuple(found.notes))
        angle = heading_of(found.skeleton)
        skeleton, skin = turned(found.skeleton, found.skin, -angle)
        plan = propose(skeleton)
        even = evened(skeleton, plan)
        notes = list(found.notes)
        if angle:
            notes.append(f"the figure faced {_side(angle)} in the file and was turned to face ahead")
        for limb in even.limbs:
            notes.append(f"{limb} rested otherwise than the other side; it rests as its mirror image now")
        plan = with_soles(replace(plan, facing=math.degrees(angle)), even.skeleton, skin)
        plan = replace(with_masses(plan, even.skeleton, skin), shapes=shapes_of(skin))
        plan = with_bulks(proposed(plan, even.skeleton, skin), even.skeleton, skin)
        mesh = written(name, Character(name, even.skeleton, skin, ()))
        return Intake(mesh, plan, card_of(read_character(mesh), plan), tuple(notes))
    except BadFile:
        raise
    except (ValueError, KeyError, TypeError, IndexError, AttributeError, ArithmeticError, MemoryError,
            RecursionError) as error:  # fmt: skip
        # A file built to break readers: whatever tripped it, the person gets a plain refusal. It may be ours to mend.
        logging.getLogger("hame.intake").exception("a file could not be read")
        raise BadFile("the file is damaged: its parts do not fit together") from error


SMALLEST = 1e-4  # metres: what is smaller has no size


def prop_plan(skeleton: Skeleton, skin: Skin) -> BodyPlan:
    """The plan of a prop: its topmost joint carries it, and its surface tells how large it is."""
    points = np.concatenate([piece.points for piece in skin.pieces])
    size = float(np.ptp(points, axis=0).max())
    if size < SMALLEST:
        raise BadFile("the prop has no size: all of its surface lies in one place. Scale it up before saving")
    base = skeleton.names[next(j for j, parent in enumerate(skeleton.parents) if parent < 0)]
    return with_masses(BodyPlan({"base": base}, {"base": "shape"}, size=size), skeleton, skin)


def written(name: str, character: Character) -> bytes:
    """The regular file of a character; raises :class:`BadFile` if it would be too large to be read again."""
    mesh = write_character(name, character.skeleton, character.skin)
    if len(mesh) > MAX_BYTES:
        raise BadFile(
            f"written out in full the character has {len(mesh) / 1e6:.0f} MB; at most {MAX_BYTES // 1024**2} MB are "
            "taken. Reduce its mesh or its pictures"
        )
    return mesh


def turned_by_hand(name: str, mesh: bytes, degrees: float) -> bytes:
    """The regular file of a character with the figure turned about +Y, for one that was found to face another way."""
    found = read_character(mesh)
    skeleton, skin = turned(found.skeleton, found.skin, math.radians(degrees))
    return written(name, Character(name, skeleton, skin, ()))


def card_of(character: Character, plan: BodyPlan) -> Card:
    """What is shown of a character with a plan, whether a rig can be built or not."""
    problem, controls = "", 0
    try:
        controls = len(build_rig(character.skeleton, plan).controls)
    except BadPlan as error:
        problem = str(error)
    except (ValueError, ArithmeticError, IndexError) as error:
        problem = f"no rig can be built on this skeleton with this plan ({error})"
    return Card(len(character.skeleton), character.skin.triangle_count, _height(character.skin), controls, problem)


def _height(skin: Skin) -> float:
    heights = np.concatenate([piece.points[:, 1] for piece in skin.pieces])
    return float(np.ptp(heights))


def _side(angle: float) -> str:
    quarters = round(math.degrees(angle) / 90) % 4
    near = abs(math.degrees(angle) - 90 * round(math.degrees(angle) / 90)) < 1
    return (
        ["ahead", "to its left", "backwards", "to its right"][quarters]
        if near
        else f"{math.degrees(angle):.0f} degrees aside"
    )
