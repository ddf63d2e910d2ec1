"""What the demo holds: plain data in ``demo/data``, to be read and changed by people."""

import json
from pathlib import Path


def _read(name: str) -> dict:
    return json.loads((Path(__file__).parent / "data" / f"{name}.json").read_text())


_ORGANISATION, LIBRARY, GUIDES, _PAIRS, _CASES = map(_read, ("house", "library", "guides", "pairs", "cases"))
ORGANISATION, PASSWORD, CHECKERS = _ORGANISATION["name"], _ORGANISATION["password"], _ORGANISATION["checkers"]
COURT = next(iter(GUIDES))
"""Style code of the release that the cases are of."""
CHECKPOINTS = GUIDES[COURT]
RETAIL, COPIES, CASES = _PAIRS["retail"], _PAIRS["copies"], _CASES["cases"]
POLICY = _ORGANISATION["policy"]
ON_THE_TABLE = _CASES["on_the_table"]
"""What the simulated caliper and tag reader find, by case."""


def first_pair_of(code: str) -> str:
    """Label of the verified pair on which a release's checks are drawn."""
    return next(one["label"] for one in RETAIL if one["release"] == code)


def marks_of(code: str) -> dict[str, list[list[float]]]:
    """Where a guide writer drew each check on that pair, px."""
    return {one["key"]: one["marks"] for one in GUIDES[code] if "marks" in one}


def drawn(key: str) -> list[list[float]]:
    """The same of one check, of whichever release."""
    return next(marks[key] for marks in map(marks_of, GUIDES) if key in marks)
