"""Words printed on a thing, line by line, against those that verified pairs carry at the same place."""

from collections.abc import Callable, Mapping, Sequence
from difflib import SequenceMatcher

from assay.paperwork.found import Found, Known, Line, Outcome, Slip
from assay.paperwork.signs import squeezed
from assay.paperwork.style_code import compare

BETWEEN = " / "
"""Between the lines of one text, as it is kept."""
LIKE = 0.6
"""Two lines are the same line, perhaps misprinted, if they are so alike (Ratcliff & Obershelp's ratio)."""
ENOUGH_PAIRS = 2
"""Verified pairs that must agree before a letter that differs is off: one may itself have been misread."""
LEAST_LETTERS = 3
"""Of a single verified pair, lines with fewer letters are left out: sizes and serials differ from pair to pair."""


def kept(typed: str) -> str:
    """A text as it is kept: one line or several, with ``/`` or a new line between them.

    >>> kept("quayside / 9.5")
    'QUAYSIDE / 9.5'
    """
    return BETWEEN.join(lines_of(typed))


def lines_of(text: str) -> list[str]:
    """The lines of a text."""
    return [squeezed(line) for line in text.replace("\n", "/").split("/") if line.strip()]


def shared_lines(texts: Sequence[str]) -> list[str]:
    """The lines that every one of several texts has.

    >>> shared_lines(["QUAYSIDE / 9.5", "QUAYSIDE / 9"])
    ['QUAYSIDE']
    """
    first, *others = [lines_of(text) for text in texts] or [[]]
    if not others:
        return [line for line in first if sum(sign.isalpha() for sign in line) >= LEAST_LETTERS]
    return [line for line in first if all(_signs(line) in map(_signs, other) for other in others)]


def words_at(place: str) -> Callable[[Mapping[str, str], Known], Found]:
    """The check of one place: nothing missing, no letter different."""

    def check(said: Mapping[str, str], known: Known) -> Found:
        texts, here = known.words.get(place, ()), lines_of(said[place])
        slips, lines = [], []
        for number, wanted in enumerate(shared_lines(texts), start=1):
            found = max(here, key=lambda line: _likeness(line, wanted), default="")
            if found and _likeness(found, wanted) >= LIKE:
                here = [line for line in here if line is not found]
                slip = _difference(wanted, found, sure=len(texts) >= ENOUGH_PAIRS)
            else:
                found, slip = "", Slip("words_missing", {"wanted": wanted}, Outcome.UNUSUAL)
            slips += [slip] if slip else []
            lines.append(Line(f"line {number}", wanted, found, is_wrong=slip is not None))
        return Found(said[place], tuple(slips), tuple(lines), contradictable=bool(lines))

    return check


def _difference(wanted: str, found: str, *, sure: bool) -> Slip | None:
    """Whether a sign differs; spaces and stops do not count."""
    signs = compare(_signs(wanted), _signs(found)).differences
    if not signs:
        return None
    alike = all(sign.lookalike for sign in signs)
    outcome = Outcome.OFF if sure and not alike else Outcome.UNUSUAL
    return Slip("words_alike" if alike else "words_differ", {"wanted": wanted, "found": found}, outcome)


def _signs(line: str) -> str:
    return "".join(sign for sign in line if sign.isalnum())


def _likeness(one: str, other: str) -> float:
    return SequenceMatcher(None, _signs(one), _signs(other), autojunk=False).ratio()
