"""How costs grow with 10, 100 and 1,000 of a thing: ``python -m bench.costs``. As their number does is the aim."""

from __future__ import annotations

import statistics
import time
from collections.abc import Callable
from dataclasses import replace

import numpy as np

from hame.clip.belonging import Belonging
from hame.clip.clip import Clip
from hame.clip.curve import from_keys
from hame.clip.plants import Plant
from hame.demo.shots import figure
from hame.edits.chosen import refuse_hidden
from hame.edits.layers import new_layer
from hame.edits.making import made
from hame.edits.plants import Planting, PlantLimbs
from hame.evaluate.line import laid_values, played_values
from hame.evaluate.players import Player
from hame.scene.scene import Figure, Scene

FRAME = np.array([50.0])


def timed(work: Callable[[], object], times: int = 5) -> str:
    found = []
    for _ in range(times):
        begun = time.perf_counter()
        work()
        found.append(time.perf_counter() - begun)
    return f"{1000 * statistics.median(found):.2f} ms"


def main() -> None:
    rig = figure("brannoc")[0]
    turns = [c.address for c in rig.channels if not c.locked and c.unit == "rad"]
    keys = {a: from_keys({f: 0.05 * np.sin(f / 7 + n) for f in range(1, 2100, 10)}) for n, a in enumerate(turns)}
    base = Clip().with_curves(keys)
    for count in (10, 100, 1000):
        plants = [Plant(1 + 6 * n, 3 + 6 * n) for n in range(count)]
        clip = base.with_tracks({"plant/leg.L.goal": plants[::2], "plant/leg.R.goal": plants[1::2]})
        alone = {1: Player(rig, clip)}
        frame = timed(lambda alone=alone: played_values(alone, FRAME))  # type: ignore[misc]
        print(f"{count} plants: a frame {frame}, hidden keys looked for {timed(lambda c=clip: refuse_hidden(c))}")  # type: ignore[misc]
    for count in (1, 8, 24):
        clip = base
        for n in range(count):
            clip, number = new_layer(clip, f"Layer {n}", ())
            clip = clip.with_curves({f"#{number}/{a}": from_keys({1: 0.0, 50: 0.01}) for a in turns})
        print(f"{count} layers: a frame {timed(lambda c=clip: laid_values(rig, c, FRAME))}")  # type: ignore[misc]
    for count in (10, 100, 300):
        spans = [Belonging(1 + 4 * n, 3 + 4 * n, to=("hips", "chest")[n % 2]) for n in range(count)]
        clip = base.with_tracks({"belonging/arm.L.goal": spans})
        first = timed(lambda c=clip: played_values({1: Player(rig, replace(c))}, FRAME), 3)  # type: ignore[misc]
        print(f"{count} changes of owner: the first frame {first}")
    clip = base
    for half in range(2):
        wishes = tuple(Planting("leg.L.goal", 4000 * half + 8 * n + 1, 4000 * half + 8 * n + 5) for n in range(500))
        scene = Scene({1: Figure(rig, clip)}, 1, 10_000)
        begun = time.perf_counter()
        clip = made(PlantLimbs(plants=wishes), scene, 1).clips[1]
        print(f"{'500 plants more' if half else '500 plants'} in one step: {time.perf_counter() - begun:.2f} s")


if __name__ == "__main__":
    main()
