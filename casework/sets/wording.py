"""What two sets of photographs tell of each other, in words."""

from assay.judge.judgement import UNSURE_COUNT
from assay.units import Unit
from casework.bench.panel import UNIT_WORDS
from casework.differences.wording import words_of
from casework.figures import THIN, decimals, figure, usual_decimals
from casework.guides.wording import WORDS, choices

FIRST = "the trusted pair"
VERDICT = "undecided"
WHY = "Neither pair is verified, and two retail pairs differ as well: no difference here says which of them is a copy."
FORMAT = "wahrheit-two-sets/1"


def number_words(reading: dict) -> tuple[str, str]:
    """What was read, and what it reads on either photograph."""
    choice = choices().get(f"{reading['measure']}:{reading['quantity']}")
    name = (choice.name if choice else WORDS[reading["measure"]].heading).replace("retail’s", f"{FIRST}’s")
    first, second = (_written(reading, side) for side in ("first", "second"))
    if reading["compared"]:
        return name, second
    return name, f"{first} and {second}"


def _written(reading: dict, side: str) -> str:
    value, unsure, unit = reading[side], reading[f"{side}_uncertainty"], reading["unit"]
    if Unit(unit) is Unit.COUNT:
        return f"{value:.0f}{' (unsure)' if unsure >= UNSURE_COUNT else ''}"
    places = decimals(unsure, usual_decimals(value, unit))
    return f"{figure(value, places)} ± {figure(unsure, places)}{THIN}{UNIT_WORDS.get(unit, unit)}".strip()


def region_words(region: dict, mm_per_px: float | None) -> str:
    """One place that differs, on the second pair."""
    return words_of(region, mm_per_px, FIRST)
