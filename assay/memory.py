"""What was looked at on one picture, so that several checks that need it look once."""

from collections import OrderedDict
from collections.abc import Callable, Hashable
from typing import TypeVar, cast

T = TypeVar("T")
KEPT = 2
"""Regions cut out of a photograph have up to 20 MB each; checks of one place come one after the other."""


class Memory:
    """The last few results by what was asked. It belongs to one picture and goes with it."""

    def __init__(self, kept: int = KEPT) -> None:
        self._kept = kept
        self._results: OrderedDict[Hashable, object] = OrderedDict()

    def of(self, key: Hashable, make: Callable[[], T]) -> T:
        """The result known for the key, or ``make()``, known from now on. What it raises is not kept."""
        if key in self._results:
            self._results.move_to_end(key)
            return cast("T", self._results[key])
        result = self._results[key] = make()
        while len(self._results) > self._kept:
            self._results.popitem(last=False)
        return result
