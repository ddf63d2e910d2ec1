"""Production windows: two dates on a size tag, in whichever order the maker writes them."""

import re
from dataclasses import dataclass
from datetime import date, timedelta
from itertools import permutations

from assay.errors import AssayError
from assay.paperwork.signs import latin

ORDERS = ("DMY", "MDY", "YMD")
MONTHS = ("JAN", "FEB", "MAR", "APR", "MAY", "JUN", "JUL", "AUG", "SEP", "OCT", "NOV", "DEC")
# Two-digit years belong to this century; nothing older is sold as new.
CENTURY = 2000
EARLIEST = 1985


class BadDate(AssayError):
    """No date, or one that can be read in several ways."""


@dataclass(frozen=True, slots=True)
class Window:
    """From when to when a pair was made."""

    start: date
    end: date


def window(typed: str, order: str) -> Window:
    """A window as typed, ``02/24 - 04/24`` or with days; ``order``: how this maker writes dates, such as ``MDY``.

    Raises BadDate ``two_dates`` (got), ``date_impossible`` (got, order, fits), ``date_unclear`` or
    ``window_backwards`` (start, end). What does not fit the maker's order is never turned round silently.

    >>> window("12/08/23 to 03/15/24", "MDY")
    Window(start=datetime.date(2023, 12, 8), end=datetime.date(2024, 3, 15))
    >>> window("02/24 - 04/24", "DMY").end
    datetime.date(2024, 4, 30)
    """
    parts = _split(latin(typed))
    if len(parts) != 2:
        raise BadDate("two_dates", got=typed[:40])
    start, end = _date(parts[0], order), _date(parts[1], order, end=True)
    if end < start:
        raise BadDate("window_backwards", start=start.isoformat(), end=end.isoformat())
    return Window(start, end)


def _split(text: str) -> list[str]:
    """The dates apart. A dash stands between dates only with spaces round it, or where slashes or dots part a date."""
    words = re.sub(r"\s*(?:\bTO\b|–|—|~|\s-\s|\+)\s*", "|", text)
    if "|" not in words and re.fullmatch(r"[\d/. A-Z]+-[\d/. A-Z]+", words):
        words = words.replace("-", "|")
    if "|" not in words:
        words = re.sub(r"(?<=\d)\s+(?=\S+$)", "|", words)
    return [part.strip() for part in words.split("|") if part.strip()]


def _date(text: str, order: str, *, end: bool = False) -> date:
    parts = [part for part in re.split(r"[\s/.\-]+", text) if part]
    named = [part[:3] in MONTHS for part in parts]
    if not 2 <= len(parts) <= 3 or not all(part.isdigit() or name for part, name in zip(parts, named, strict=True)):
        raise BadDate("date_unclear", got=text[:30])
    places = _places(parts, named, order)
    read = _read(parts, places, end=end)
    if read is None:
        raise BadDate("date_impossible", got=text[:30], order=places, fits=" or ".join(_others(parts, named, end=end)))
    return read


def _places(parts: list[str], named: list[bool], order: str) -> str:
    """Which part is day, month and year. A month in letters stands where it stands; the maker's order does the rest."""
    places = order if len(parts) == 3 else order.replace("D", "")
    if any(named):
        at = named.index(True)
        rest = iter(places.replace("M", ""))
        places = "".join("M" if n == at else next(rest) for n in range(len(parts)))
    return places


def _read(parts: list[str], places: str, *, end: bool) -> date | None:
    given = dict(zip(places, parts, strict=True))
    year = int(given["Y"]) if given["Y"].isdigit() else 0
    year += CENTURY if year < 100 else 0
    month = MONTHS.index(given["M"][:3]) + 1 if given["M"][:3] in MONTHS else int(given["M"])
    try:
        if "D" in given:
            found = date(year, month, int(given["D"]))
        else:
            found = date(year, month, 1)
            found = (found + timedelta(days=31)).replace(day=1) - timedelta(days=1) if end else found
    except ValueError:
        return None
    return found if found.year >= EARLIEST else None


def _others(parts: list[str], named: list[bool], *, end: bool) -> list[str]:
    """Orders in which it would be a date."""
    if any(named):
        return []
    letters = "DMY" if len(parts) == 3 else "MY"
    orders = ("".join(order) for order in permutations(letters))
    known = [order for order in orders if order in ORDERS or len(order) == 2]
    return [order for order in known if _read(parts, order, end=end)]
