"""Faults as the tests ask for them: of one of the cast, without a server."""

from __future__ import annotations

from hame.clip.clip import Clip
from hame.evaluate.posed import Posed
from hame.faults.kinds import Alert, faults_in
from hame.faults.look import Finer, Look
from hame.maths.rotations import Array
from hame.measure.ground import FLAT, Ground


def alerts(clip: Clip, posed: Posed, first: int, fps: float, ground: Ground = FLAT) -> list[Alert]:
    """The faults of contact of its frames from ``first`` on."""
    return faults_in("contacts", Look(clip, posed, first, fps, ground))


def arc_alerts(
    clip: Clip, posed: Posed, first: int, fps: float, camera: Array | None = None, finer: Finer | None = None
) -> list[Alert]:
    """The faults of its paths and its timing."""
    return faults_in("paths", Look(clip, posed, first, fps, FLAT, camera, finer))
