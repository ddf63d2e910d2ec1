"""Shoe sizes: exact units, makers' charts, rows of a label.

Units from memory of their definitions: a Paris point is 2/3 cm, a barleycorn 1/3 inch; Mondopoint (ISO 9407) is the
foot's length in mm. The relations to the last's length are those of ISO/TS 19407, as orientation only: what a label
should say is decided by its maker's own chart.
"""

import csv
import io
import re
import unicodedata
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum
from fractions import Fraction
from itertools import pairwise
from statistics import fmean

from assay.errors import AssayError

PARIS_POINT_MM = Fraction(20, 3)
BARLEYCORN_MM = Fraction(254, 30)


class BadSize(AssayError):
    """No size, or none that this maker makes."""


class System(StrEnum):
    """Columns of a size row, as labels name them."""

    US = "US"
    UK = "UK"
    EU = "EU"
    CM = "CM"
    MONDO = "MONDO"


NAMES = {"EUR": System.EU, "FR": System.EU, "F": System.EU, "JP": System.CM, "JPN": System.CM, "MM": System.MONDO}
NAMES |= {system.value: system for system in System}


class Group(StrEnum):
    """Whose feet a chart is for."""

    MEN = "men"
    WOMEN = "women"
    CHILD = "child"


# Barleycorns of the last's length at size 0, by system and group. Source: ISO/TS 19407 (relations from memory).
_US_ZERO = {Group.MEN: 24, Group.WOMEN: 23, Group.CHILD: 11}
_UK_ZERO = {Group.MEN: 25, Group.WOMEN: 25, Group.CHILD: 12}


def last_mm(system: System, size: Fraction, group: Group = Group.MEN) -> Fraction:
    """Length of the last for a size, mm, exact.

    >>> float(last_mm(System.UK, Fraction(8))), float(last_mm(System.EU, Fraction(42)))
    (279.4, 280.0)
    """
    if system is System.EU:
        return size * PARIS_POINT_MM
    if system is System.US:
        return (size + _US_ZERO[group]) * BARLEYCORN_MM
    if system is System.UK:
        return (size + _UK_ZERO[group]) * BARLEYCORN_MM
    raise BadSize("not_a_last_size", system=system.value)


def size_by_length(length_mm: float, other_mm: float, other: Fraction, group: Group = Group.MEN) -> float:
    """The US size whose last stands to another size's as two lengths of the shoes do.

    >>> round(size_by_length(303.0, 300.0, Fraction(9)), 2)
    9.33
    """
    return float(other + _US_ZERO[group]) * length_mm / other_mm - _US_ZERO[group]


def size_spoken_of(
    length_mm: float, u_mm: float, known: Sequence[tuple[float, Fraction]], group: Group = Group.MEN
) -> tuple[float, float]:
    """The US size that a shoe's length speaks of, and its standard uncertainty; ``known``: lengths of pairs of known
    size, mm.

    >>> [round(n, 2) for n in size_spoken_of(303.0, 1.0, [(300.0, Fraction(9))])]
    [9.33, 0.11]
    """
    found, more = (
        fmean(size_by_length(length_mm + extra, length, size, group) for length, size in known) for extra in (0.0, u_mm)
    )
    return found, more - found


def number(text: str) -> Fraction:
    """A size as a number: ``9.5``, ``9,5``, ``9½``, ``42 2/3`` or ``42⅔``.

    >>> number("42 2/3") == number("42⅔"), number("9½")
    (True, Fraction(19, 2))
    """
    spaced = "".join(f" {sign} " if unicodedata.decomposition(sign).startswith("<fraction>") else sign for sign in text)
    plain = unicodedata.normalize("NFKC", spaced).replace("\u2044", "/").replace(",", ".").strip()
    found = re.fullmatch(r"(\d{1,3}(?:\.\d{1,2})?)?\s*(?:(\d)\s*/\s*([2348]))?", plain)
    if not found or not plain:
        raise BadSize("size_not_a_number", got=text[:20])
    whole, above, below = found.groups()
    return Fraction(whole or 0) + (Fraction(int(above), int(below)) if above else 0)


def written(size: Fraction) -> str:
    """A size as labels have it.

    >>> written(Fraction(19, 2)), written(Fraction(128, 3)), written(Fraction(43))
    ('9.5', '42⅔', '43')
    """
    whole, rest = divmod(size, 1)
    if not rest:
        return str(whole)
    thirds = {Fraction(1, 3): "⅓", Fraction(2, 3): "⅔"}
    return f"{whole}{thirds[rest]}" if rest in thirds else f"{float(size):g}"


Row = Mapping[System, Fraction]


@dataclass(frozen=True, slots=True)
class Chart:
    """One maker's sizes for one group, row by row."""

    group: Group
    columns: tuple[System, ...]
    rows: tuple[Row, ...]

    def row(self, system: System, size: Fraction) -> Row | None:
        """The row of a size, or None where the maker has none."""
        return next((row for row in self.rows if row.get(system) == size), None)


def parse_row(typed: str) -> dict[System, Fraction]:
    """A label's size row, each figure behind the name of its system.

    Raises BadSize ``size_row_unnamed``, ``size_twice`` or ``size_not_a_number``.

    >>> {k.value: written(v) for k, v in parse_row("us 9.5 UK 8½ eur 42 2/3 cm27.5").items()}
    {'US': '9.5', 'UK': '8.5', 'EU': '42⅔', 'CM': '27.5'}
    """
    parts = re.findall(r"([A-Za-z]+)[\s:.=]*([^A-Za-z]*)", typed)
    row: dict[System, Fraction] = {}
    if not parts or re.match(r"\s*[\d½⅓⅔]", typed):
        raise BadSize("size_row_unnamed", got=typed[:40])
    for name, figure in parts:
        system = NAMES.get(name.upper())
        if system is None:
            raise BadSize("size_system_unknown", got=name[:12])
        if system in row:
            raise BadSize("size_twice", system=system.value)
        row[system] = number(figure.strip(" ,;/|·-"))
    return row


def row_words(row: Row) -> str:
    """A row as labels have it."""
    return "  ".join(f"{system.value} {written(size)}" for system, size in row.items())


@dataclass(frozen=True, slots=True)
class Cell:
    """One figure of a label's size row against the chart."""

    system: System
    found: Fraction | None
    expected: Fraction | None

    @property
    def is_wrong(self) -> bool:
        """Whether it is not what the chart has."""
        return self.found != self.expected


def against_chart(row: Row, chart: Chart, layout: Sequence[System] = ()) -> list[Cell]:
    """Every figure of a label beside the chart's row that most of them agree with.

    ``layout``: systems that labels of this region carry; a missing or surplus one is off as well. Raises BadSize
    ``size_never_made`` where no row of the chart shares a figure.
    """
    shared = [sum(known.get(system) == size for system, size in row.items()) for known in chart.rows]
    best = max(shared, default=0)
    if best == 0:
        raise BadSize("size_never_made", got=row_words(row))
    known = chart.rows[shared.index(best)]
    order = list(dict.fromkeys([*(layout or ()), *row]))
    return [
        Cell(system, row.get(system), known.get(system) if not layout or system in layout else None) for system in order
    ]


def us_size(typed: str, chart: Chart | None) -> Fraction:
    """A size typed in any system as this maker's US size; a bare number is US.

    Raises BadSize ``size_never_made`` or ``no_chart``.
    """
    named = re.match(r"\s*[A-Za-z]", typed)
    row = parse_row(typed) if named else {System.US: number(typed)}
    (system, size), *more = row.items()
    if more:
        raise BadSize("one_size_only", got=typed[:40])
    if system is System.US:
        return size
    if chart is None:
        raise BadSize("no_chart", system=system.value)
    found = chart.row(system, size)
    if found is None or System.US not in found:
        raise BadSize("size_never_made", got=row_words(row))
    return found[System.US]


def chart_from_csv(text: str) -> Chart:
    """A chart from CSV: first line ``group,US,UK,EU,CM``, then a row a size, the first column saying whose.

    Raises BadSize ``chart_empty``, ``chart_column`` (got), ``chart_group``, ``chart_cell`` (line, system, got) or
    ``chart_not_rising`` (line, system): every column must rise from row to row.
    """
    lines = [line for line in csv.reader(io.StringIO(text.lstrip("\ufeff"))) if any(cell.strip() for cell in line)]
    if len(lines) < 2:
        raise BadSize("chart_empty")
    head = [cell.strip().upper() for cell in lines[0]]
    if head[0] != "GROUP" or len(head) < 3:
        raise BadSize("chart_column", got=head[0][:20])
    columns = tuple(_column(name) for name in head[1:])
    groups = {line[0].strip().lower() for line in lines[1:]}
    if len(groups) != 1 or not groups <= set(Group):
        raise BadSize("chart_group", got=", ".join(sorted(groups))[:40])
    rows = tuple(_chart_row(columns, line, n) for n, line in enumerate(lines[1:], start=2))
    for n, (one, following) in enumerate(pairwise(rows), start=3):
        for system in columns:
            if following[system] <= one[system]:
                raise BadSize("chart_not_rising", line=n, system=system.value)
    return Chart(Group(groups.pop()), columns, rows)


def chart_to_csv(chart: Chart) -> str:
    """The chart as ``chart_from_csv`` reads it."""
    target = io.StringIO()
    writer = csv.writer(target, lineterminator="\n")
    writer.writerow(["group", *(system.value for system in chart.columns)])
    for row in chart.rows:
        writer.writerow([chart.group.value, *(written(row[system]) for system in chart.columns)])
    return target.getvalue()


def _column(name: str) -> System:
    if name not in NAMES:
        raise BadSize("chart_column", got=name[:20])
    return NAMES[name]


def _chart_row(columns: tuple[System, ...], line: list[str], n: int) -> dict[System, Fraction]:
    row = {}
    for system, cell in zip(columns, line[1:] + [""] * len(columns), strict=False):
        try:
            row[system] = number(cell)
        except BadSize as error:
            raise BadSize("chart_cell", line=n, system=system.value, got=cell[:20]) from error
    return row
