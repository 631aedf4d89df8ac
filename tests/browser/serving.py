"""Server processes that begin at once: all is loaded a single time, and each of them is a fork of that.

To load a server takes seconds of each walk-through, and its first answers some more; what a process does once it is
there is the same. Run as a program it reads a port a line and answers with the number of the process that serves there.
"""

from __future__ import annotations

import contextlib
import ctypes
import os
import signal
import subprocess
import sys
import time
from collections.abc import Mapping
from pathlib import Path
from typing import Protocol

ROOT = Path(__file__).parents[2]
_ON_PARENT_GONE = 1  # PR_SET_PDEATHSIG, prctl(2)


class Serving(Protocol):
    """What tests ask of a server process, however it was begun."""

    def send_signal(self, sig: int, /) -> None: ...

    def wait(self) -> int | None: ...


class Fork:
    """A server process by its number."""

    def __init__(self, pid: int) -> None:
        self._pid = pid

    def send_signal(self, sig: int, /) -> None:
        with contextlib.suppress(ProcessLookupError):  # it may have gone by itself
            os.kill(self._pid, sig)

    def wait(self) -> int | None:
        """Waits until it has gone; it is not a child of this process, so that it has no code to give."""
        while Path(f"/proc/{self._pid}").exists():
            time.sleep(0.01)
        return None


class Loaded:
    """A process that has loaded all of the server, and goes with this one."""

    def __init__(self, env: Mapping[str, str]) -> None:
        self._process = subprocess.Popen(
            [sys.executable, "-m", "tests.browser.serving"], cwd=ROOT, env=dict(env), text=True,
            stdin=subprocess.PIPE, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL,
        )  # fmt: skip

    def begin(self, port: int) -> Fork:
        """A server on a port; it may take a moment until it answers."""
        assert self._process.stdin is not None and self._process.stdout is not None
        self._process.stdin.write(f"{port}\n")
        self._process.stdin.flush()
        told = self._process.stdout.readline()
        if not told.strip():
            raise RuntimeError("the process that begins servers has gone")
        return Fork(int(told))


def _serve(port: int) -> None:
    import uvicorn

    ctypes.CDLL(None).prctl(_ON_PARENT_GONE, signal.SIGKILL)
    signal.signal(signal.SIGCHLD, signal.SIG_DFL)
    nowhere = os.open(os.devnull, os.O_RDWR)
    os.dup2(nowhere, 0)
    os.dup2(nowhere, 1)
    uvicorn.run(
        "server.asgi:application", host="127.0.0.1", port=port, log_level="warning", ws_per_message_deflate=False
    )


def main() -> None:
    signal.signal(signal.SIGCHLD, signal.SIG_IGN)  # those that have gone leave nothing behind
    import server.asgi  # noqa: F401  (which sets Django up)
    from server.working import load

    load()
    for line in sys.stdin:
        pid = os.fork()
        if pid == 0:
            try:
                _serve(int(line))
            finally:
                os._exit(0)
        print(pid, flush=True)


if __name__ == "__main__":
    main()
