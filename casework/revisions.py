"""What has changed since something was computed: random words that the database itself renews with every change.

Triggers (see ``triggers``) write a new word for a case, a pair or the library whenever a row changes that an assessment
rests on, whoever changes it. What was computed is kept in memory under these words and is never shown once one of them
differs. A word is random, not counted, so one that was rolled back never comes again.
"""

from collections import OrderedDict
from collections.abc import Callable, Iterable
from threading import Lock
from typing import TypeVar

from casework.models import Case, Revision

T = TypeVar("T")
LIBRARY = "library"
"""Scope of what all cases share: checks, retail pairs, known copies, policies, people's names."""


def revisions_of(cases: Iterable[Case]) -> dict[int, tuple]:
    """The words that each case's assessment rests on, by the case's key. One query."""
    cases = list(cases)
    scopes = {LIBRARY, *(f"case-{case.pk}" for case in cases), *(f"pair-{case.pair_id}" for case in cases)}
    words = dict(Revision.objects.filter(scope__in=scopes).values_list("scope", "word"))
    return {
        case.pk: (words.get(LIBRARY), words.get(f"case-{case.pk}"), words.get(f"pair-{case.pair_id}")) for case in cases
    }


class Kept:
    """Results in this process's memory, the ones used last; none is shared between processes."""

    def __init__(self, most: int):
        self._most, self._lock = most, Lock()
        self._kept: OrderedDict = OrderedDict()

    def get(self, key, revision: tuple) -> object | None:
        """What was kept under a key at this very revision."""
        with self._lock:
            known = self._kept.get(key)
            if known is None or known[0] != revision:
                return None
            self._kept.move_to_end(key)
            return known[1]

    def put(self, key, revision: tuple, result: T) -> T:
        """Keep a result; the one used longest ago goes."""
        with self._lock:
            self._kept[key] = revision, result
            self._kept.move_to_end(key)
            while len(self._kept) > self._most:
                self._kept.popitem(last=False)
        return result

    def of_case(self, case: Case, compute: Callable[[], T]) -> T:
        """The result for a case: the kept one, else computed now. One query, and what computing needs."""
        revision = revisions_of([case])[case.pk]
        known = self.get(case.pk, revision)
        return self.put(case.pk, revision, compute()) if known is None else known
