"""All kinds of edit that there are: those of every module beside this one."""

from __future__ import annotations

import pkgutil
from importlib import import_module

import hame.edits
from hame.edits.edit import EDITS as EDITS
from hame.edits.edit import Edit

for _module in pkgutil.iter_modules(hame.edits.__path__):
    if _module.name not in ("kinds", "reading"):
        import_module(f"hame.edits.{_module.name}")

ALL: tuple[type[Edit], ...] = tuple(EDITS[kind] for kind in sorted(EDITS))
