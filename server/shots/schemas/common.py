"""What several schemas are made of."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

Values = dict[str, float]


KeyRow = list[float]


FrameNumber = Annotated[int, Field(ge=-1_000_000, le=1_000_000)]
