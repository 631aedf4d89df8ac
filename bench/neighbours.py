"""What others feel while one asks for much: ``python -m bench.neighbours [URL]`` while ``./start`` serves.

A hand drags on a take of its own, thirty times a second. Beside it others drag with drawn paths, ask for faults of long
stretches, plant many, and send the edits that are dear. Told is how long the first hand waits for its poses, and how
long each request took. A neighbour is to stay under 33 ms at the 95th percentile.
"""

from __future__ import annotations

import json
import statistics
import sys
import threading
import time
from collections.abc import Callable
from typing import Any

from websockets.sync.client import connect

try:
    from bench.desk import Api, furnish
except ModuleNotFoundError as error:
    sys.exit(f"This bench needs {error.name}, which ./start does not install: run ./test once, any part of it.")

SECONDS, A_SECOND = 6.0, 30.0


class Hand(threading.Thread):
    """Drags the body of one of the cast until it is told to stop, and keeps how long it waited each time."""

    def __init__(self, api: Api, shot: dict[str, Any], watch: dict[str, Any] | None = None, pull: bool = False) -> None:
        super().__init__(daemon=True)
        self.api, self.take, self.cast = api, shot["takes"][0]["id"], shot["cast"][0]["id"]
        self.watch, self.pull, self.over = watch, pull, threading.Event()
        self.times: list[float] = []

    def run(self) -> None:
        url = self.api.url.replace("http", "ws") + f"/live/takes/{self.take}"
        with connect(url, additional_headers={"Cookie": self.api.cookies(), "Origin": self.api.url}) as socket:

            def ask(message: dict[str, Any]) -> None:
                socket.send(json.dumps(message))
                while isinstance(socket.recv(), str):
                    pass

            ask({"do": "begin", "seq": 0, "casting": self.cast, "frame": 9, "watch": self.watch})
            n = 0
            while not self.over.is_set():
                n += 1
                begun = time.perf_counter()
                way = [0.0, 0.0, 0.0005 * (n % 100)]
                if self.pull:
                    ask({"do": "pull", "seq": n, "controls": ["arm.L.goal"], "offset": way,
                         "grips": [{"part": "leg.L.foot", "grade": "fast"}], "leanings": {}})  # fmt: skip
                else:
                    ask({"do": "move", "seq": n, "controls": ["body"], "axes": "world", "offset": way})
                took = time.perf_counter() - begun
                self.times.append(took)
                time.sleep(max(1.0 / A_SECOND - took, 0.0))


def felt(hand_of: Callable[[], Hand], what: str, load: Callable[[], list[float]]) -> None:
    """How a neighbour's drag goes while something runs."""
    hand = hand_of()
    hand.start()
    time.sleep(0.5)
    hand.times.clear()
    took = load()
    hand.over.set()
    hand.join(10)
    times = sorted(hand.times) or [0.0]
    median, high = statistics.median(times), times[int(0.95 * (len(times) - 1))]
    said = f"; requests {min(took):.2f} to {max(took):.2f} s" if took else ""
    print(f"{what}: neighbour's drag median {1000 * median:.1f} ms, 95th {1000 * high:.1f} ms{said}", flush=True)


def dragging(hands: list[Hand]) -> list[float]:
    for hand in hands:
        hand.start()
    time.sleep(SECONDS)
    for hand in hands:
        hand.over.set()
    for hand in hands:
        hand.join(10)
    return []


def timed(work: Callable[[], object], times: int = 1) -> list[float]:
    found = []
    for _ in range(times):
        begun = time.perf_counter()
        try:
            work()
        except Exception as error:
            print("   ", str(error)[:160])
        found.append(time.perf_counter() - begun)
    return found


def main() -> None:
    api = Api(sys.argv[1] if len(sys.argv) > 1 else "http://127.0.0.1:8000")
    mine = furnish(api)[0]
    who = [mine["cast"][0]["character_id"]]
    shots = f"/api/productions/{mine['production_id']}/shots"
    other, long = (
        api("POST", shots, {"name": f"{frames} frames", "character_ids": who, "start": 1, "end": frames})
        for frames in (1000, 5000)
    )
    take, cast = long["takes"][0]["id"], long["cast"][0]["id"]

    def hand() -> Hand:
        return Hand(api, mine)

    def edit(given: dict[str, Any]) -> object:
        revision = api("GET", f"/api/takes/{take}")["revision"]
        return api("POST", f"/api/takes/{take}/edits", {"revision": revision, "casting": cast, "edit": given})

    def watched(count: int) -> dict[str, Any]:
        names = ["head", "arm.L.goal", "arm.R.goal", "leg.L.goal", "leg.R.goal", "hips", "chest", "body"]
        things = [{"casting": other["cast"][0]["id"], "name": names[n % len(names)]} for n in range(count)]
        return {"first": 1, "last": 1000, "things": things}

    edit({"kind": "pose", "frame": 1, "values": {"head/ry": 0.1}, "keying": "whole"})
    edit({"kind": "pose", "frame": 2500, "values": {"head/ry": 0.3, "body/tz": 0.5}, "keying": "whole"})
    edit({"kind": "pose", "frame": 5000, "values": {"head/ry": 0.1}, "keying": "whole"})
    felt(hand, "alone", lambda: dragging([]))
    felt(hand, "beside four pulls with two paths", lambda: dragging([Hand(api, other, watched(2), True)] * 1 + [
        Hand(api, other, watched(2), True) for _ in range(3)]))  # fmt: skip
    felt(hand, "beside four drags with 24 paths of 1,000 frames", lambda: dragging(
        [Hand(api, other, watched(24)) for _ in range(4)]))  # fmt: skip
    look = "first=1&last=5000"
    for what in ("contacts", "paths"):
        felt(hand, f"faults ({what}) over 5,000 frames", lambda what=what: timed(  # type: ignore[misc]
            lambda: api("GET", f"/api/takes/{take}/faults?group={what}&{look}")))  # fmt: skip
    felt(hand, "balance over 1,000 frames", lambda: timed(
        lambda: api("GET", f"/api/takes/{take}/balance?casting={cast}&first=1&last=1000")))  # fmt: skip
    plants = [{"control": "leg.L.goal", "start": 8 * n + 1, "end": 8 * n + 4} for n in range(500)]
    felt(hand, "500 plants at once", lambda: timed(lambda: edit({"kind": "plant", "plants": plants})))
    felt(hand, "fewer keys over 5,000 frames", lambda: timed(lambda: edit({"kind": "fit keys"})))
    felt(hand, "spare keys", lambda: timed(lambda: edit({"kind": "spare keys"})))
    felt(hand, "a path rounded over 5,000 frames", lambda: timed(
        lambda: edit({"kind": "smooth arc", "control": "head", "first": 1, "last": 5000})))  # fmt: skip
    felt(hand, "sides parted over 3,000 frames", lambda: timed(
        lambda: edit({"kind": "part sides", "start": 1, "end": 2999})))  # fmt: skip


if __name__ == "__main__":
    main()
