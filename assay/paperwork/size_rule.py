"""How a length in mm is carried from a pair of one size to a pair of another.

``{}`` fixed: the same on every size. ``{"rule": "length"}``: grows with the last. ``{"rule": "slope", "mm_per_size":
0.4}``: so much a whole US size. ``{"rule": "bands", "bands": [[3.5, 8.5], [9, 12]]}``: the same within a band, not
comparable across.
"""

from collections.abc import Mapping
from fractions import Fraction
from typing import Any

from assay.errors import CannotJudge
from assay.paperwork.sizes import Group, System, last_mm


def checked(rule: Mapping[str, Any]) -> Mapping[str, Any]:
    """The rule, if it is one. Raises CannotJudge ``bad_size_rule``."""
    kind = rule.get("rule", "fixed")
    whole = {"fixed": set(), "length": set(), "slope": {"mm_per_size"}, "bands": {"bands"}}.get(kind)
    if whole is None or set(rule) - {"rule"} != whole:
        raise CannotJudge("bad_size_rule", rule=str(dict(rule))[:80])
    return rule


def carried(
    value_mm: float, rule: Mapping[str, Any], size: Fraction | None, onto: Fraction | None, group: Group = Group.MEN
) -> float | None:
    """What a length read on US size ``size`` would be on US size ``onto``; None where the two are not comparable.

    Where a size is not known, only what stays the same on every size can be carried.

    >>> carried(300.0, {"rule": "length"}, Fraction(9), Fraction(9)), carried(55.0, {}, None, None)
    (300.0, 55.0)
    """
    kind = checked(rule).get("rule", "fixed")
    if kind == "fixed" or (size is not None and size == onto):
        return value_mm
    if size is None or onto is None:
        return None
    if kind == "length":
        return value_mm * float(last_mm(System.US, onto, group) / last_mm(System.US, size, group))
    if kind == "slope":
        return value_mm + rule["mm_per_size"] * float(onto - size)
    return value_mm if band_of(size, rule["bands"]) == band_of(onto, rule["bands"]) is not None else None


def band_of(size: Fraction | None, bands: list[Any]) -> int | None:
    """Index of the band that holds a size, ends included.

    >>> band_of(Fraction(9), [[3.5, 8.5], [9, 12]]), band_of(Fraction(13), [[3.5, 8.5], [9, 12]])
    (1, None)
    """
    if size is None:
        return None
    return next((n for n, (low, high, *_) in enumerate(bands) if low <= size <= high), None)
