"""A rig as the browser needs it."""

from __future__ import annotations

import math

from hame.character.rig import PLACE, TURN, Channel, Control, Rig
from hame.evaluate.evaluate import evaluate
from hame.maths import transforms
from hame.maths.rotations import Array
from hame.solve.body import Link, body_of, grip_at_first, joint_of
from server.characters.groups import GroupOut
from server.shots import schemas


def rig_out(rig: Rig, groups: list[GroupOut], face: list[tuple[float, float]]) -> schemas.RigOut:
    nodes = evaluate(rig, rig.rest[None])[0]
    return schemas.RigOut(
        controls=[_control(rig, control, nodes[control.node]) for control in rig.controls],
        channels=[_channel(rig, channel) for channel in rig.channels],
        limbs=[
            schemas.LimbOut(
                name=l.name, label=l.label, kind=l.kind, switch=l.switch, fk=list(l.fk), ik=l.ik, pole=l.pole,
                toe=l.toe,
                points={name: list(place) for name, place in l.points.items()},
            )
            for l in rig.limbs  # noqa: E741
        ],
        chains=[
            schemas.ChainOut(
                name=c.name, label=c.label, kind=c.kind, switch=c.switch, ik=c.ik, middle=c.middle,
                controls=list(c.controls), points={},
            )
            for c in rig.chains
        ],
        parts=_parts(rig), groups=groups, face=[[x, y] for x, y in face],
        joints=list(rig.skeleton.names), shapes=rig.shape_channels.tolist(),
        parents=list(rig.skeleton.parents), height=rig.size,
        picks=[list(pick) for pick in rig.picks], rest_places=rig.skeleton.places.tolist(),
    )  # fmt: skip


def _parts(rig: Rig) -> list[schemas.PartOut]:
    if rig.plan.is_prop:
        return []
    body = body_of(rig, chains=True)
    rest = evaluate(rig, rig.rest[None])[0]
    return [
        schemas.PartOut(
            name=link.name, label=link.label, controls=list(link.controls), joint=joint_of(body, n),
            at=_end_at(rig, link, rest), chain=link.chain.name if link.chain else "", **grip_at_first(link),
        )
        for n, link in enumerate(body.links)
    ]  # fmt: skip


def _end_at(rig: Rig, link: Link, rest: Array) -> list[float]:
    """Where a part is seen from its joint, metres: of the tip of a chain the end of its last joint."""
    if link.role != "tip" or link.chain is None:
        return [0.0, 0.0, 0.0]
    seen = transforms.relative(rest[rig.joint_nodes[link.chain.joints[-1]]], rest[link.node])
    return [float(value) for value in seen[:3]]


def _control(rig: Rig, control: Control, at_rest: Array) -> schemas.ControlOut:
    free = {c.kind for c in rig.channels_of(control.name) if not c.locked}
    return schemas.ControlOut(
        name=control.name, label=control.label, part=control.part, kind=control.kind, side=control.side,
        parent=control.parent, limb=control.limb, mode=control.mode,
        shape=schemas.ShapeOut(kind=control.shape.kind, size=control.shape.size, offset=list(control.shape.offset)),
        first=control.first, count=control.count, posed=control.posed, other=control.other,
        can_move=PLACE in free, can_turn=TURN in free,
        place=at_rest[:3].tolist(), order=control.order, pre=control.pre.tolist(),
    )  # fmt: skip


def _channel(rig: Rig, channel: Channel) -> schemas.ChannelOut:
    return schemas.ChannelOut(
        address=channel.address, name=channel.name, label=channel.label, kind=channel.kind, unit=channel.unit,
        rest=channel.rest, low=channel.low if math.isfinite(channel.low) else None,
        high=channel.high if math.isfinite(channel.high) else None, locked=channel.locked, purpose=channel.purpose,
        mirror=channel.mirror, echo=rig.echo_of(channel.address)[0] or "",
    )  # fmt: skip
