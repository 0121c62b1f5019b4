"""Results kept for as long as there is room: what a cache may hold is said in bytes, not in pieces."""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Callable
from typing import Any, ParamSpec, TypeVar

import numpy as np

P = ParamSpec("P")
R = TypeVar("R")


def bytes_of(value: object) -> int:
    """Bytes of the arrays and texts in a result; a few hundred for whatever else there is."""
    if isinstance(value, np.ndarray):
        return int(value.nbytes) + 128
    if isinstance(value, str):
        return len(value) + 64
    if isinstance(value, tuple | list):
        return 64 + sum(map(bytes_of, value))
    return 256


def kept(most_bytes: int, weigh: Callable[[Any], int] = bytes_of) -> Callable[[Callable[P, R]], Callable[P, R]]:
    """Keep the latest results of a pure function, together no more than `most_bytes` as `weigh` counts them.

    One that is larger by itself is not kept. Arguments have to be hashable.
    """

    def around(function: Callable[P, R]) -> Callable[P, R]:
        lock = threading.Lock()
        results: OrderedDict[tuple[object, ...], tuple[R, int]] = OrderedDict()
        held = 0

        def call(*args: P.args, **kwargs: P.kwargs) -> R:
            nonlocal held
            key = (*args, *sorted(kwargs.items()))
            with lock:
                if key in results:
                    results.move_to_end(key)
                    return results[key][0]
            value = function(*args, **kwargs)
            weight = weigh(value)
            if weight > most_bytes:
                return value
            with lock:
                if key not in results:
                    results[key] = (value, weight)
                    held += weight
                while held > most_bytes:
                    held -= results.popitem(last=False)[1][1]
            return value

        return call

    return around
