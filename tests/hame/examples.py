"""Characters that several tests use, made once."""

from __future__ import annotations

from dataclasses import replace
from functools import cache
from pathlib import Path

import numpy as np

import hame.demo
from hame.character import skeleton as skeletons
from hame.character.build import build_rig
from hame.character.face import proposed
from hame.character.propose import propose
from hame.character.rig import Rig
from hame.character.shapes import shapes_of
from hame.character.skeleton import Skeleton
from hame.character.soles import with_soles
from hame.clip.clip import Clip
from hame.clip.cycle import Cycle
from hame.clip.cycles import cycles_of, with_cycles
from hame.formats.gltf_read import Character, read_character
from hame.intake.intake import prop_plan
from hame.maths import transforms

BRANNOC = Path(hame.demo.__file__).parent / "data" / "brannoc.glb"


@cache
def brannoc() -> Character:
    return read_character(BRANNOC.read_bytes())


@cache
def brannoc_rig() -> Rig:
    character = brannoc()
    plan = replace(propose(character.skeleton), shapes=shapes_of(character.skin))
    plan = with_soles(plan, character.skeleton, character.skin)
    return build_rig(character.skeleton, proposed(plan, character.skeleton, character.skin))


@cache
def prop(name: str) -> Character:
    """A prop that ships: ``oil_can``, ``signal_lamp``."""
    return read_character((BRANNOC.parent / f"{name.replace('_', '-')}.glb").read_bytes())


@cache
def prop_rig(name: str) -> Rig:
    return build_rig(prop(name).skeleton, prop_plan(prop(name).skeleton, prop(name).skin))


STRETCHES = ("stretch", "volume", "reach", "from")  # channels that make bones longer or shorter


def random_pose(rig: Rig, seed: int, spread: float = 0.4, stretched: bool = False) -> np.ndarray:
    """Channel values (C,) with every free channel somewhere inside its limits; bones keep their length unless
    ``stretched``.
    """
    rng = np.random.default_rng(seed)
    values = rig.rest.copy()
    shaping = set(rig.shape_channels.tolist())
    for n in sorted(range(len(rig.channels)), key=lambda n: n in shaping):
        channel = rig.channels[n]
        if channel.control.startswith("chain.") and channel.name in ("ik", "tx", "ty", "tz"):
            continue  # what reaches for a place stays there, whatever else moves
        if channel.locked or channel.kind == "scale" or channel.name in STRETCHES and not stretched:
            continue
        size = {"place": 0.08, "turn": spread, "extra": 0.3}[channel.kind]
        values[n] = np.clip(channel.rest + rng.normal(0, size), channel.low, channel.high)
    return values


def skeleton_of(rows: dict[str, tuple[str | None, tuple[float, float, float]]]) -> Skeleton:
    """A skeleton from ``{name: (parent, place in the world)}``, axes along the world's."""
    names = list(rows)
    parents = [-1 if rows[n][0] is None else names.index(rows[n][0]) for n in names]  # type: ignore[arg-type]
    rest = np.array([
        transforms.transform(np.array(rows[n][1]) - (np.array(rows[rows[n][0]][1]) if rows[n][0] else 0.0))
        for n in names
    ])  # fmt: skip
    return skeletons.build(names, parents, rest)


def cycle_of(clip: Clip) -> Cycle | None:
    """The first cycle of a clip, for those that have one at most."""
    return next(iter(cycles_of(clip)), None)


def with_cycle(clip: Clip, cycle: Cycle | None) -> Clip:
    """The clip with this cycle and no other."""
    return with_cycles(clip, () if cycle is None else (cycle,))
