"""What is told over the channel layer may be lost; nothing else goes with it."""

from __future__ import annotations

from typing import Any
from unittest import mock

from asgiref.sync import async_to_sync
from channels.layers import InMemoryChannelLayer
from redis.exceptions import ConnectionError as Gone

from server.shots import pace
from server.shots.live import DEAF
from server.shots.models import Take
from tests.server.base import ServerTest
from tests.server.test_live import SocketTest


class LostTest(ServerTest):
    def test_a_step_is_stored_and_a_cast_changed_though_nobody_can_be_told(self) -> None:
        with (
            mock.patch.object(InMemoryChannelLayer, "group_send", side_effect=Gone("away")),
            self.captureOnCommitCallbacks(execute=True),
            self.assertLogs("hame.telling", "ERROR"),
        ):
            self.assertEqual(self.pose(3, head__rx=0.2).status_code, 200)
            cast = self.post(f"/shots/{self.shot.pk}/cast", {"character_id": self.character.pk})
            self.assertEqual(cast.status_code, 200)
        self.assertEqual((Take.objects.get().revision, self.shot.cast.count()), (1, 2))

    def test_frames_are_given_out_though_nothing_can_be_counted(self) -> None:
        path = f"/takes/{self.take.pk}/motion?casting={self.casting.pk}&first=1&last=2"
        with mock.patch.object(pace.cache, "add", side_effect=Gone("away")), self.assertLogs("hame.pace", "ERROR"):
            self.assertEqual(self.get(path).status_code, 200)


class DeafTest(SocketTest):
    def test_a_socket_that_hears_nothing_any_more_is_closed_so_that_its_page_comes_again(self) -> None:
        socket = self.socket("isla")

        async def run() -> Any:
            with (
                mock.patch.object(InMemoryChannelLayer, "receive", side_effect=Gone("away")),
                self.assertLogs("hame.live", "ERROR"),
            ):
                await socket.connect(5)
                while (got := await socket.receive_output(5))["type"] != "websocket.close":
                    pass
            await socket.disconnect()
            return got["code"]

        self.assertEqual(async_to_sync(run)(), DEAF)
