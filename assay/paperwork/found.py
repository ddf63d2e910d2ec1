"""What a check of printed or packed things gets, and what it gives."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import date
from enum import StrEnum
from fractions import Fraction

from assay.paperwork.accessories import Item
from assay.paperwork.sizes import Chart, System


class Outcome(StrEnum):
    """How what stands there is to what should stand there."""

    SAME = "same"
    NOT_CONTRADICTED = "not_contradicted"
    """Nothing speaks against it, and nothing is known that could speak for it."""
    UNUSUAL = "unusual"
    OFF = "off"


@dataclass(frozen=True, slots=True)
class Known:
    """What is known of the release and of this pair, as far as print and packing go. Empty means not known."""

    style_code: str = ""
    style_code_mask: str = ""
    colour_wording: str = ""
    barcodes: Mapping[str, str] = field(default_factory=dict)
    """GTIN-14 by US size."""
    barcodes_elsewhere: Mapping[str, str] = field(default_factory=dict)
    """GTIN-14 of other releases, with their names."""
    charts: tuple[Chart, ...] = ()
    layout: tuple[System, ...] = ()
    """Systems that labels of this region carry, in order."""
    size_us: Fraction | None = None
    date_order: str = ""
    released_on: date | None = None
    bought_on: date | None = None
    factory_codes: tuple[str, ...] = ()
    stamp_mask: str = ""
    """Form of the ink stamp in the lid, in the notation of style codes; ``NONE``: there is never one."""
    serials_differ: bool | None = None
    inlay_expected: bool | None = None
    inlays_seen: Mapping[str, str] = field(default_factory=dict)
    """EPC of inlays read before, with the pair they were in."""
    words: Mapping[str, tuple[str, ...]] = field(default_factory=dict)
    """What verified pairs carry at a place, a text each."""
    packing: tuple[Item, ...] = ()
    second_hand: bool = False


@dataclass(frozen=True, slots=True)
class Slip:
    """One thing that is not as it should be: a reason code and its numbers."""

    reason: str
    numbers: Mapping[str, str | int | float] = field(default_factory=dict)
    outcome: Outcome = Outcome.OFF
    rate: float | None = None
    """How often a retail pair shows it, where that is known for this thing by itself."""


@dataclass(frozen=True, slots=True)
class Line:
    """One line of the comparison as a person reads it."""

    name: str
    expected: str
    found: str
    is_wrong: bool = False


@dataclass(frozen=True, slots=True)
class Found:
    """What a check found."""

    written: str
    """What stands there, in one line."""
    slips: tuple[Slip, ...] = ()
    lines: tuple[Line, ...] = ()
    parts: Mapping[str, float] = field(default_factory=dict)
    contradictable: bool = True
    """False where nothing was known to compare with."""

    @property
    def outcome(self) -> Outcome:
        """The worst slip's outcome."""
        if any(slip.outcome is Outcome.OFF for slip in self.slips):
            return Outcome.OFF
        if self.slips:
            return Outcome.UNUSUAL
        return Outcome.SAME if self.contradictable else Outcome.NOT_CONTRADICTED

    def retail_rate(self, rates: Mapping[str, float]) -> float | None:
        """How often a retail pair is like this; ``rates`` by outcome. None where nothing could be compared."""
        if self.outcome is Outcome.NOT_CONTRADICTED:
            return None
        return min((rates[slip.outcome] if slip.rate is None else slip.rate for slip in self.slips), default=1.0)
