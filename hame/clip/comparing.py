"""Keys of many curves compared at once."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import numpy.typing as npt

from hame.clip.curve_kernel import compare_all
from hame.clip.key import Array, no_keys


def compared(a: Sequence[Array], b: Sequence[Array]) -> tuple[list[Array], list[Array], npt.NDArray[np.float64]]:
    """Of curves before ``a`` and after ``b``, by pairs, the keys that differ, and the frames ``(C, 2)`` between which
    they may play otherwise.

    Computed handles do not count as a difference of a key. Since they look one
    key to each side, a key that differs changes two gaps each way; the
    frames reach to NO_FIRST or NO_LAST where no kept key bounds them.
    """
    ends_a = np.cumsum([0, *map(len, a)])
    ends_b = np.cumsum([0, *map(len, b)])
    keys_a = np.concatenate([no_keys(), *a])
    keys_b = np.concatenate([no_keys(), *b])
    gone, new = np.ones(len(keys_a), np.bool_), np.ones(len(keys_b), np.bool_)
    spans = np.empty((len(a), 2))
    compare_all(keys_a, ends_a, keys_b, ends_b, gone, new, spans)
    return _parted(keys_a, ends_a, gone), _parted(keys_b, ends_b, new), spans


def _parted(keys: Array, ends: npt.NDArray[np.int64], wanted: npt.NDArray[np.bool_]) -> list[Array]:
    cuts = np.concatenate([[0], np.cumsum(wanted)])[ends]
    kept = keys[wanted]
    return [kept[m:n] for m, n in zip(cuts[:-1].tolist(), cuts[1:].tolist(), strict=True)]
