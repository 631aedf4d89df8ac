"""The library that ships: a dozen poses of both figures, and small pictures of them."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from math import radians

import numpy as np
import numpy.typing as npt

from hame.blocking.poses import rough_pose
from hame.character.rig import Rig
from hame.character.skin import Skin
from hame.clip.clip import Clip
from hame.clip.curve import from_keys
from hame.demo.contact_sheet import draw_sheet
from hame.demo.expressions import EXPRESSIONS, expression
from hame.demo.shots import standing

Values = dict[str, float]
FINGERS = ("index", "middle", "ring", "little")


@dataclass(frozen=True)
class Shelved:
    """A pose of the library: whose, its name, its channel values on a rig, and what its picture shows of it."""

    figure: str
    name: str
    make: Callable[[Rig], Values]
    close: str = ""  # the control that the picture is drawn about; empty for the whole figure

    @property
    def picture(self) -> str:
        """Name of its picture among the demo's data."""
        return f"pose-{self.figure}-{self.name}".lower().replace(" ", "-") + ".png"


def _walk(kind: str, name: str) -> Callable[[Rig], Values]:
    return lambda rig: rough_pose(rig, kind, name)[0]


def _standing(rig: Rig) -> Values:
    return {address: value for address, value in standing().items() if rig.has_channel(address)}


def _hand(curls: tuple[float, float, float, float], thumb: float, spread: float = 0.0) -> Callable[[Rig], Values]:
    """The left hand: how far each finger from index to little is curled, and the thumb, in degrees."""

    def make(rig: Rig) -> Values:
        values = {f"arm.L.{f}/curl": radians(v) for f, v in zip(FINGERS, curls, strict=True)}
        values |= {f"arm.L.{f}/rz": radians(spread * (1.5 - n)) for n, f in enumerate(FINGERS)}
        values["arm.L.thumb/curl"] = radians(thumb)
        return {address: value for address, value in values.items() if rig.has_channel(address)}

    return make


SHELF: tuple[Shelved, ...] = (
    Shelved("Brannoc", "Contact", _walk("walk", "Contact")),
    Shelved("Brannoc", "Down", _walk("walk", "Down")),
    Shelved("Brannoc", "Passing", _walk("walk", "Passing")),
    Shelved("Brannoc", "At ease", _standing),
    Shelved("Brannoc", "Startled", _walk("startle", "Accent")),
    Shelved("Wick", "Run extreme", _walk("run", "Extreme")),
    Shelved("Wick", "Run passing", _walk("run", "Passing")),
    Shelved("Wick", "At ease", _standing),
    Shelved("Wick", "Ducked", _walk("startle", "Anticipation")),
    Shelved("Brannoc", "Fist", _hand((92, 96, 98, 100), 48), "arm.L.hand"),
    Shelved("Brannoc", "Open hand", _hand((-6, -4, -5, -8), -10, 7.0), "arm.L.hand"),
    Shelved("Brannoc", "Pointing", _hand((0, 86, 92, 94), 40), "arm.L.hand"),
)


def _face(name: str) -> Callable[[Rig], Values]:
    return lambda rig: expression(rig, name)


FACES: tuple[Shelved, ...] = tuple(
    Shelved(figure, name, _face(name), "head") for figure in ("Brannoc", "Wick") for name in EXPRESSIONS
)


def pose_picture(rig: Rig, skin: Skin, pose: Shelved, size: int = 192) -> npt.NDArray[np.uint8]:
    """A picture (size, size, 3) of a pose, from three quarters; of a hand or a face from close by."""
    from PIL import Image

    from hame.evaluate.evaluate import channel_values, evaluate

    clip = Clip().with_curves({address: from_keys({1: value}) for address, value in pose.make(rig).items()})
    if not pose.close:
        return draw_sheet(rig, skin, clip, [1], ("quarter",), size, numbers=False)
    cell = 8 * size
    of_face = pose.close == "head"
    whole = draw_sheet(rig, skin, clip, [1], ("front" if of_face else "side",), cell, numbers=False)
    at = evaluate(rig, channel_values(rig, clip, [1]))[0, rig.control(pose.close).node, :3]
    scale = cell * 0.82 / rig.skeleton.height
    aside, up = (at[0], at[1] + 0.08) if of_face else (-at[2] - 0.02, at[1] - 0.06)
    x, y = int(cell * 0.5 + aside * scale), int(cell * 0.94 - up * scale)
    half = int((0.15 if of_face else 0.14) * scale)
    cut = Image.fromarray(whole).crop((x - half, y - half, x + half, y + half))
    return np.asarray(cut.resize((size, size), Image.Resampling.LANCZOS))
