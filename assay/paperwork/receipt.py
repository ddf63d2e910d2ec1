"""What a receipt says: shop, date and total."""

import re
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from decimal import Decimal

from assay.paperwork.print_fields import SURE, is_on_level
from assay.paperwork.print_reader import PrintLine

TOTAL = re.compile(r"\b(GRAND TOTAL|TOTAL|AMOUNT DUE|SUM|SUMME|GESAMT|BETRAG|ZU ZAHLEN)\b", re.IGNORECASE)
NOT_THE_TOTAL = re.compile(r"\bSUB|ZWISCHEN|\bTAX|\bVAT|MWST", re.IGNORECASE)
AMOUNT = re.compile(r"(?<![\d.,])(\d{1,5})[.,](\d{2})(?![\d.,])")
DAY = re.compile(r"(?<!\d)(\d{4}-\d{2}-\d{2}|\d{1,2}[./-]\d{1,2}[./-](?:\d{4}|\d{2}))(?!\d)")


@dataclass(frozen=True, slots=True)
class Receipt:
    """What could be read surely; the rest is empty."""

    shop: str = ""
    bought_on: date | None = None
    total: Decimal | None = None


def receipt_of(lines: Sequence[PrintLine]) -> Receipt:
    """What stands on a receipt; ``lines`` from top to bottom. What two lines say differently, and a date that may be
    read in two ways, is left empty.
    """
    sure = [line for line in lines if line.confidence >= SURE]
    days = {day for line in sure for text in DAY.findall(line.text) for day in [_day(text)]}
    shop = next((line.text.strip() for line in sure if sum(sign.isalpha() for sign in line.text) > 2), "")
    return Receipt(shop, days.pop() if len(days) == 1 else None, _total(sure))


def _day(text: str) -> date | None:
    """The one day that a text means; with dots the day stands first.

    >>> _day("14/03/2026"), _day("03/04/2026"), _day("3.4.26")
    (datetime.date(2026, 3, 14), None, datetime.date(2026, 4, 3))
    """
    first, second, third = re.split(r"[./-]", text)
    if len(first) == 4:
        return _date(first, second, third)
    year = third if len(third) == 4 else f"20{third}"
    ways = {_date(year, second, first)} | (set() if "." in text else {_date(year, first, second)})
    meant = ways - {None}
    return meant.pop() if len(meant) == 1 else None


def _date(*parts: str) -> date | None:
    try:
        return date(*map(int, parts))
    except ValueError:
        return None


def _total(lines: Sequence[PrintLine]) -> Decimal | None:
    """The amount on the line of the total, or beside it."""
    found = set()
    for line in lines:
        if TOTAL.search(line.text) and not NOT_THE_TOTAL.search(line.text):
            level = [one for one in lines if is_on_level(one, line)]
            found |= {Decimal(f"{whole}.{cents}") for one in level for whole, cents in AMOUNT.findall(one.text)}
    return found.pop() if len(found) == 1 else None
