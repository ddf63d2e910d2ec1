"""Instruments on the table, as the application sees them. A real driver and the simulated one have the same face."""

from dataclasses import dataclass
from typing import Protocol

from assay.errors import AssayError


class InstrumentSilent(AssayError):
    """The instrument gives no reading: nothing in its jaws, nothing in its field, or not connected."""


@dataclass(frozen=True, slots=True)
class Gauged:
    """What a caliper or a digital tape shows."""

    value: float
    unit: str
    """``mm`` or ``in``, as switched on the instrument."""
    resolution: float
    """Last digit shown, same unit."""


class Caliper(Protocol):
    """A caliper or digital tape that sends what it shows."""

    def read(self, thing: str) -> Gauged:
        """What it shows across ``thing``, such as ``box.length``. Raises InstrumentSilent ``caliper_silent``."""


class TagReader(Protocol):
    """A reader for radio inlays."""

    def read(self) -> str | None:
        """The Electronic Product Code of the one inlay in its field, 24 hexadecimal signs; None where none answers.

        Raises InstrumentSilent ``reader_silent`` or ``two_inlays``.
        """
