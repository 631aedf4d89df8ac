"""A JSON column for many numbers, written and read by orjson: several times as fast as the usual one."""

from __future__ import annotations

from typing import Any

import orjson
from django.db import models


class FastJSONField(models.JSONField):
    def get_db_prep_value(self, value: Any, connection: Any, prepared: bool = False) -> Any:
        return None if value is None else orjson.dumps(value, option=orjson.OPT_SERIALIZE_NUMPY).decode()

    def from_db_value(self, value: Any, expression: Any, connection: Any) -> Any:
        return None if value is None else orjson.loads(value)
