"""The shot camera: a prop whose joint of that name looks along its z axis, y up, with a lens and a film gate."""

from __future__ import annotations

from hame.character.rig import EXTRA, Channel, Rig

CAMERA = "camera"
LENS, WIDE, HIGH = "lens", "gate_wide", "gate_high"
# Millimetres: a usual lens, and a 16:9 part of the gate of 35 mm film (both from memory of the trade).
USUAL_LENS, USUAL_GATE = 35.0, (24.89, 14.0)


def lens_channels(control: str) -> list[Channel]:
    """The channels of a camera's control besides place and turn, millimetres."""

    def channel(name: str, label: str, rest: float, low: float, high: float, purpose: str) -> Channel:
        return Channel(address=f"{control}/{name}", control=control, name=name, label=label, kind=EXTRA, unit="",
                       rest=rest, low=low, high=high, purpose=purpose)  # fmt: skip

    return [
        channel(LENS, "lens, mm", USUAL_LENS, 8.0, 600.0, "focal length: longer brings what is far nearer"),
        channel(WIDE, "gate wide, mm", USUAL_GATE[0], 4.0, 80.0, "how wide the picture is on the film"),
        channel(HIGH, "gate high, mm", USUAL_GATE[1], 3.0, 80.0, "how high the picture is on the film"),
    ]


def is_camera(rig: Rig) -> bool:
    """Whether a rig is of a shot camera."""
    return rig.plan.is_prop and rig.has_channel(f"{CAMERA}/{LENS}")
