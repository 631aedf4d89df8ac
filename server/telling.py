"""Telling open sockets what happened, over the channel layer: in this process, or with Redis in all of them."""

from __future__ import annotations

import logging
from typing import Any

from asgiref.sync import async_to_sync
from channels.layers import get_channel_layer

_log = logging.getLogger("hame.telling")


def tell(group: str, message: dict[str, Any]) -> None:
    """Sends a message to all sockets of a group.

    Where it cannot be sent, that is logged and no more: what it tells of is stored. Pages ask for what they missed when
    their sockets come back, and sockets look up their rights again by themselves.
    """
    layer = get_channel_layer()
    if layer is None:
        return
    try:
        async_to_sync(layer.group_send)(group, message)
    except Exception:
        _log.exception("a message to %s was not sent", group)
