"""Many pages that drag at once: ``.venv/bin/python -m bench.pages [URL] [PAGES]`` while ``./start`` serves.

Each page has a socket of its own, on which a hand moves thirty times a second: a state is sent whether the one before
was answered or not, as by an impatient page. The pages are played by two processes, so that the load is
not measured with its own waiting.
"""

from __future__ import annotations

import asyncio
import json
import statistics
import struct
import sys
import time
from multiprocessing import get_context
from typing import Any

from websockets.asyncio.client import connect

try:
    from bench.desk import Api, furnish
except ModuleNotFoundError as error:
    sys.exit(
        f"This bench needs {error.name}, which ./start does not install. Run ./test once (any part of it), or "
        ".venv/bin/pip install -r requirements/dev.txt -c requirements/constraints.txt"
    )

A_SECOND, SECONDS = 30, 10


async def _page(
    url: str, headers: dict[str, str], cast: int, delay: float, found: list[float], lost: list[int]
) -> None:
    await asyncio.sleep(delay)
    async with connect(url, additional_headers=headers, compression=None) as socket:
        sent: dict[int, float] = {}
        await socket.send(json.dumps({"do": "begin", "seq": 1, "casting": cast, "frame": 1}))
        while isinstance(await socket.recv(), str):
            pass

        async def hear() -> None:
            async for message in socket:
                if isinstance(message, bytes):
                    seq = struct.unpack_from("<I", message)[0]
                    if seq in sent:
                        found.append(time.perf_counter() - sent.pop(seq))

        ear = asyncio.create_task(hear())
        begun = time.perf_counter()
        for n in range(A_SECOND * SECONDS):
            await asyncio.sleep(max(0.0, begun + n / A_SECOND - time.perf_counter()))
            sent[n + 2] = time.perf_counter()
            wish = {
                "do": "move",
                "seq": n + 2,
                "controls": ["leg.L.goal"],
                "axes": "world",
                "offset": [0, 0.0005 * n, 0],
            }
            await socket.send(json.dumps(wish))
        await asyncio.sleep(1.0)
        ear.cancel()
        lost.append(len(sent))


def _play(url: str, headers: dict[str, str], cast: int, pages: int, first: int, results: Any) -> None:
    found: list[float] = []
    lost: list[int] = []

    async def run() -> None:
        await asyncio.gather(*(_page(url, headers, cast, 0.011 * (first + n), found, lost) for n in range(pages)))

    asyncio.run(run())
    results.put((found, sum(lost)))


def main() -> None:
    api = Api(sys.argv[1].rstrip("/") if len(sys.argv) > 1 else "http://127.0.0.1:8000")
    one, _ = furnish(api)
    url = api.url.replace("http", "ws") + f"/live/takes/{one['takes'][0]['id']}"
    headers = {"Cookie": api.cookies(), "Origin": api.url}
    context = get_context("spawn")
    for pages in [int(n) for n in sys.argv[2:]] or [1, 10, 25, 50]:
        results = context.Queue()
        shares = [pages // 2, pages - pages // 2]
        players = [
            context.Process(target=_play, args=(url, headers, one["cast"][0]["id"], n, first, results))
            for n, first in zip(shares, (0, shares[0]), strict=True)
            if n
        ]
        for player in players:
            player.start()
        found, lost = [], 0
        for _ in players:
            times, gone = results.get()
            found += times
            lost += gone
        for player in players:
            player.join()
        found.sort()
        wished = pages * A_SECOND * SECONDS
        print(
            f"{pages} pages, each dragging {A_SECOND} times a second: median {statistics.median(found) * 1e3:.1f} ms, "
            f"95th percentile {found[int(len(found) * 0.95)] * 1e3:.1f} ms; "
            f"of {wished:,} states {lost:,} were passed over "
            "for newer ones"
        )


if __name__ == "__main__":
    main()
