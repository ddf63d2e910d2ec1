"""The last few results of looking at one and the same array: several gauges are read off one picture."""

from collections import OrderedDict
from collections.abc import Callable
from threading import Lock
from typing import TypeVar

import numpy as np

T = TypeVar("T")


class IdentityCache:
    """Results by the array looked at (itself, not its contents: pictures are never written to) and by a key."""

    def __init__(self, kept: int) -> None:
        self._kept, self._results, self._lock = kept, OrderedDict(), Lock()

    def of(self, array: np.ndarray, key: bytes, make: Callable[[], T]) -> T:
        """The result kept for them, or ``make()``, kept from now on. What it raises is not kept."""
        name = id(array), key
        with self._lock:
            # The array is kept as well, so that its identity cannot pass on to another.
            known = self._results.get(name)
            if known:
                self._results.move_to_end(name)
                return known[1]
        result = make()
        with self._lock:
            self._results[name] = array, result
            while len(self._results) > self._kept:
                self._results.popitem(last=False)
        return result
