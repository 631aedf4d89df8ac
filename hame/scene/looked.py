"""How far gazes are off what they are meant for."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from hame.clip.gaze import Gaze
from hame.clip.spans import OWN, Track
from hame.evaluate.gaze import looks_of
from hame.evaluate.posed import Posed
from hame.maths import rotations
from hame.maths.rotations import Array
from hame.scene.scene import Figure

_AXES = {"x": (1.0, 0.0, 0.0), "y": (0.0, 1.0, 0.0), "z": (0.0, 0.0, 1.0)}


@dataclass(frozen=True)
class Off:
    """By how many radians something does not point at what it is meant for.

    Attributes
    ----------
    about, start : of its gaze, the control that is aimed (empty for a figure that looks), and the first frame
    control : what points: an eye, the head, or what is aimed
    """

    about: str
    start: int
    control: str
    angle: float


def gazes_off(figures: Mapping[int, Figure], posed: Mapping[int, Posed], of: int, frame: float) -> list[Off]:
    """How far the gazes of a figure are off at a frame, on which all stand as ``posed``; muted ones too."""
    rig, found = figures[of].rig, []
    for track, spans in figures[of].clip.tracks.items():
        kind, about = Track.named(track)
        if kind != Gaze.kind:
            continue
        for span in spans:
            if not isinstance(span, Gaze) or not span.start <= frame <= span.end:
                continue
            goal = _goal(posed, of, span)
            looks = looks_of(rig)
            names = [about] if about else [one.control.name for one in (looks.eyes or looks.head[-1:])]
            for name in names:
                if goal is not None and rig.has_control(name):
                    node = posed[of].nodes[0, rig.control(name).node]
                    axis = np.array(_AXES[span.axis[-1]]) * (-1.0 if span.axis.startswith("-") else 1.0)
                    found.append(Off(about, span.start, name, _between(node, axis if about else np.eye(3)[2], goal)))
    return found


def _goal(posed: Mapping[int, Posed], of: int, span: Gaze) -> Array | None:
    if not span.to:
        return span.at
    whose = posed.get(of if span.figure == OWN else span.figure)
    if whose is None or not whose.rig.has_control(span.to):
        return None
    node = whose.nodes[0, whose.rig.carrying_node(span.to)]
    return np.asarray(node[:3] + node[7] * rotations.rotate(node[3:7], span.at))


def _between(node: Array, axis: Array, goal: Array) -> float:
    way, now = goal - node[:3], rotations.rotate(node[3:7], axis)
    return math.atan2(float(np.linalg.norm(np.cross(now, way))), float(now @ way))
