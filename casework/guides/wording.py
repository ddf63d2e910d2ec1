"""What measures and their numbers are called where a check is drawn."""

from dataclasses import dataclass

from assay.contracts import MarkKind
from assay.measure.registry import MEASURES
from casework.guides.measure_words.words import MeasureWords, gathered

COUNT = "count"
LENGTH = "mm"
WORDS: dict[str, MeasureWords] = gathered()


@dataclass(frozen=True, slots=True)
class Choice:
    """A number that a check may judge."""

    measure: str
    quantity: str
    name: str
    unit: str

    @property
    def key(self) -> str:
        return f"{self.measure}:{self.quantity}"


def choices_of(measure: str) -> list[Choice]:
    """Numbers of a measure that have a name, in the order they are offered."""
    units = MEASURES[measure].numbers
    return [Choice(measure, quantity, name, units[quantity]) for quantity, name in WORDS[measure].numbers.items()]


def choices() -> dict[str, Choice]:
    """Every number that a check may judge, by its key."""
    return {choice.key: choice for measure in WORDS if measure in MEASURES for choice in choices_of(measure)}


def pickable() -> list[dict]:
    """Measures with their numbers, for the picker: those offered at first in their order, then the rest by name."""
    known = sorted(
        (measure for measure in MEASURES if measure in WORDS),
        key=lambda measure: (not WORDS[measure].first, WORDS[measure].first, WORDS[measure].heading),
    )
    return [
        {
            "key": measure,
            "first": WORDS[measure].first,
            "name": WORDS[measure].heading,
            "how": WORDS[measure].how,
            "closed": MEASURES[measure].marks is MarkKind.REGION,
            "choices": choices_of(measure),
        }
        for measure in known
    ]
