"""./start on an installation of its own: ready, used, stopped, and started again."""

from __future__ import annotations

import contextlib
import json
import os
import signal
import socket
import subprocess
import tempfile
import time
import unittest
import urllib.error
import urllib.request
from pathlib import Path

ROOT = Path(__file__).parents[1]


def free_port() -> int:
    with socket.socket() as s:
        s.bind(("127.0.0.1", 0))
        return int(s.getsockname()[1])


def running(needle: str, what: str = "cmdline") -> list[int]:
    """Processes whose command line (or ``environ``) holds the words; those that have ended already are none."""
    found = []
    for entry in Path("/proc").iterdir():
        if entry.name.isdigit():
            try:
                if needle in (entry / what).read_bytes().replace(b"\0", b" ").decode(errors="replace"):
                    found.append(int(entry.name))
            except OSError:
                continue
    return found


class StartTest(unittest.TestCase):
    def setUp(self) -> None:
        self.folder = tempfile.TemporaryDirectory()
        self.addCleanup(self.folder.cleanup)
        self.port = free_port()
        clean = {k: v for k, v in os.environ.items() if not k.startswith(("HAME_", "DJANGO_"))}
        self.env = {**clean, "HAME_VAR": self.folder.name, "PORT": str(self.port)}
        self.process: subprocess.Popen[str] | None = None
        self.addCleanup(self.stop, signal.SIGKILL)

    def start(self, **more: str) -> str:
        """Starts it and waits for the line that says it is ready; everything it printed."""
        self.process = subprocess.Popen(
            ["./start"], cwd=ROOT, env={**self.env, **more}, text=True, stdout=subprocess.PIPE,
            stderr=subprocess.STDOUT, start_new_session=True,
        )  # fmt: skip
        printed = ""
        assert self.process.stdout
        for line in self.process.stdout:
            printed += line
            if "is ready" in line:
                return printed
        return printed

    def stop(self, how: int = signal.SIGINT) -> None:
        if self.process is None:
            return
        self.process.send_signal(how)
        self.process.wait(timeout=30)
        if how == signal.SIGKILL:
            self.leave_nothing()
        if self.process.stdout:
            self.process.stdout.close()
        self.process = None

    def leave_nothing(self) -> None:
        """Ends whatever was started for this folder, the server and the database that outlived ./start too."""
        deadline = time.time() + 20
        while left := set(running(self.folder.name)) | set(running(self.folder.name, "environ")):
            for pid in left:
                with contextlib.suppress(ProcessLookupError):
                    os.kill(pid, signal.SIGKILL)
            time.sleep(0.1)
            assert time.time() < deadline, f"still running: {left}"

    def session(self) -> dict:
        with urllib.request.urlopen(f"http://127.0.0.1:{self.port}/api/session", timeout=10) as answer:
            return json.loads(answer.read())

    def test_it_says_its_address_serves_and_stops_all_that_it_started(self) -> None:
        printed = self.start()
        self.assertEqual(printed.strip().splitlines()[-1], f"Hame is ready at http://127.0.0.1:{self.port}/")
        self.assertEqual([a["username"] for a in self.session()["demo"]], ["isla", "tam"])
        self.assertEqual((Path(self.folder.name) / "secret-key").stat().st_mode & 0o077, 0)
        self.assertEqual((Path(self.folder.name) / "db-password").stat().st_mode & 0o077, 0)
        self.stop()
        deadline = time.time() + 20
        while running(self.folder.name) and time.time() < deadline:
            time.sleep(0.2)
        self.assertEqual(running(self.folder.name), [])
        with self.assertRaises(urllib.error.URLError):
            self.session()
        # A second time, without the demo: nothing has to be prepared, and nobody comes in without a password.
        printed = self.start(HAME_DEMO="0")
        self.assertEqual(len(printed.strip().splitlines()), 2)
        self.assertIn("One server process serves", printed)
        self.assertEqual(self.session()["demo"], [])

    def test_after_a_kill_it_finds_its_database_again_and_one_that_goes_away_is_begun_again(self) -> None:
        self.start(HAME_DEMO="0")
        assert self.process
        database = [pid for pid in running("mariadbd") if pid in running(self.folder.name)]
        os.kill(self.process.pid, signal.SIGKILL)
        for pid in running(f"--port {self.port}"):
            os.kill(pid, signal.SIGKILL)
        self.process.wait()
        self.assertTrue(Path(f"/proc/{database[0]}").exists())
        self.assertIn("is ready", self.start(HAME_DEMO="0"))
        self.assertEqual([pid for pid in running("mariadbd") if pid in running(self.folder.name)], database)

        assert self.process.stdout
        os.kill(database[0], signal.SIGKILL)
        said = ""
        while "The database is back" not in said:
            line = self.process.stdout.readline()
            self.assertTrue(line, said)
            said += line
        self.assertIn("has stopped", said)
        self.assertEqual([a["username"] for a in self.session()["demo"]], [])
        self.stop()
        self.assertEqual(running(self.folder.name), [])

    def test_a_port_in_use_is_said_before_anything_is_done(self) -> None:
        with socket.socket() as s:
            s.bind(("127.0.0.1", self.port))
            s.listen()
            printed = self.start()
        self.assertIn(f"Port {self.port} cannot be used", printed)
        self.assertIn("Choose another", printed)
        self.assertFalse((Path(self.folder.name) / "mariadb").exists())
