"""The words of every measure, by its name: found by their files, so that a new one is nowhere to be listed."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from importlib import import_module
from pkgutil import iter_modules

import casework.guides.measure_words as folder


@dataclass(frozen=True, slots=True)
class MeasureWords:
    """How a measure is called where a check is drawn, and what its reasons and doubts mean."""

    heading: str
    how: str
    """How its marks are drawn."""
    numbers: Mapping[str, str]
    """What its numbers are called, in the order shown; those left out are offered to nobody. "" is the value."""
    reasons: Mapping[str, str] = field(default_factory=dict)
    """Sentences for the reasons that are its own: what happened, and what to do."""
    doubts: Mapping[str, str] = field(default_factory=dict)
    first: int = 0
    """Its place among the eight that are offered with a picture at first; 0: behind "More"."""
    section: str = "Shape"
    """Heading of the guide that its checks go under until a guide writer says another."""
    present: Callable[[Mapping[str, float], object], dict] | None = None
    """Compared numbers and the reading → what the bench's panel shows besides, by its names there."""


def gathered() -> dict[str, MeasureWords]:
    """Every file's words."""
    names = [module.name for module in iter_modules(folder.__path__) if module.name not in ("words", "present")]
    return {name: import_module(f"{folder.__name__}.{name}").WORDS for name in names}
