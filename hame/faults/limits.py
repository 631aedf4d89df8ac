"""Beyond what the weight of a motion is told as a fault: a person's own, since style is theirs."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Limits:
    """What the ground, a body and its hands are taken to give.

    Attributes
    ----------
    falls : metres that the mass of a body that is held still may be beside what bears it
    outside : metres that the centre of pressure may be beside what bears a body
    frames : for how many frames in a row, before that is told
    pull : how much of its weight a body may be held down by, percent
    friction : what is asked for along the ground, as a share of what presses on it. Rubber on dry stone gives some 0.8
        (from memory of engineers' tables)
    flight : by how many percent of gravity a flight may fall otherwise
    turning : degrees a second that a figure in the air may be turned by nothing
    landing : body weights of force over a frame after a flight. A drop from half a metre lands with some 4 to 5 (from
        memory of studies of landings)
    strength : newtons with which a thing is held and moved
    """

    falls: float = 0.01
    outside: float = 0.05
    frames: int = 3
    pull: float = 10.0
    friction: float = 0.8
    flight: float = 15.0
    turning: float = 90.0
    landing: float = 5.0
    strength: float = 400.0
