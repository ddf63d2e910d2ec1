"""One search for cases, at the counter and in the logbook: every word must stand somewhere in the case."""

import calendar
import re
from functools import reduce
from operator import or_

from django.db.models import Q, QuerySet, Value
from django.db.models.functions import Replace

from assay.judge.rules import Verdict
from casework.access import key_in

PLACES = (
    *("pair__release__style_code", "pair__release__colourway", "pair__release__shoe_model__name"),
    *("pair__release__shoe_model__maker__name", "pair__label", "source"),
    *("desk__ticket", "desk__shelf", "opened_by__username", "opened_by__first_name"),
)
SAID = (
    *("opinions__words", "opinions__checker__username", "opinions__checker__first_name"),
    *("sightings__words", "desk__promised", "desk__to_ask"),
)
"""Where a word is not sought in a case that its person must judge without seeing the first opinion."""
MOST_WORDS = 8
MONTHS = {name.casefold(): n for n, name in enumerate(calendar.month_name) if n}
SHORT_MONTHS = {name.casefold(): n for n, name in enumerate(calendar.month_abbr) if n}
LONGEST_NUMBER = 9


def search_cases(cases: QuerySet, asked: str, hidden: frozenset[int] = frozenset()) -> QuerySet:
    """Cases in which all words of ``asked`` stand: code, name, number, person, words, a verdict, a month, a year or an
    ISO date of opening or signing. ``hidden``: keys of cases whose first opinion its person must not see."""
    plain = Replace(Replace("pair__release__style_code", Value("-")), Value(" "))
    cases = cases.annotate(code=plain)
    for word in asked.split()[:MOST_WORDS]:
        cases = cases.filter(_stands(word) | (_said(word) & ~Q(pk__in=hidden)))
    return cases.distinct()


def _stands(word: str) -> Q:
    found = reduce(or_, (Q(**{f"{place}__icontains": word}) for place in PLACES)) | _on(word)
    if len(word) <= LONGEST_NUMBER and (number := key_in(word)):
        found |= Q(number=number)
    if code := re.sub(r"[^A-Za-z0-9]", "", word):
        found |= Q(code__icontains=code)
    return found


def _on(word: str) -> Q:
    """Opened or signed on that day, in that month or year; nothing for any other word."""
    month = MONTHS.get(word.casefold()) or SHORT_MONTHS.get(word.casefold())
    if month:
        return Q(opened_at__month=month) | Q(signed_at__month=month)
    if re.fullmatch(r"20\d{2}(-\d{2}){0,2}", word):
        return Q(opened_at__date__startswith=word) | Q(signed_at__date__startswith=word)
    return Q(pk=None)


def _said(word: str) -> Q:
    said = reduce(or_, (Q(**{f"{place}__icontains": word}) for place in SAID))
    if word.casefold() in {verdict.value for verdict in Verdict}:
        said |= Q(opinions__verdict=word.casefold())
    return said
