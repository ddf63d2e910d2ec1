"""What lies in the box besides the shoes: what must be there, what must not, and how it should be."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from enum import StrEnum
from typing import Any

from assay.errors import AssayError, CannotJudge

# How often a retail pair differs, where the release's list does not say. Common practice, no source: packers forget a
# sheet now and then, and hardly ever put in what does not belong.
LACKS = 0.01
ADDS = 0.0005
DIFFERS = 0.002
MOST = 99
TOKENS = frozenset({"sheet", "cover", "stuffing", "card", "lace", "bag", "tag", "film", "lacing", "sticker", "box"})


class BadTicks(AssayError):
    """What was ticked is not of this list."""


@dataclass(frozen=True, slots=True)
class Item:
    """One thing of a release's packing list."""

    key: str
    name: str
    token: str
    """Which small drawing stands for it."""
    count: int = 1
    """How many; 0: it must not be there."""
    attributes: Mapping[str, str] = field(default_factory=dict)
    """What it is like on a retail pair."""
    choices: Mapping[str, tuple[str, ...]] = field(default_factory=dict)
    """What else it could be, by attribute."""
    goes_missing: bool = True
    """Whether a second-hand pair may lack it without blame."""
    retail_rate: float | None = None
    """How often a retail pair lacks it, or has it where it must not be."""


class State(StrEnum):
    """What became of one item."""

    AS_LISTED = "as_listed"
    MISSING = "missing"
    UNEXPECTED = "unexpected"
    WRONG = "wrong"
    VOID = "void"
    NOT_LOOKED = "not_looked"


@dataclass(frozen=True, slots=True)
class Compared:
    """One item, as found."""

    item: Item
    state: State
    count: int | None
    differing: Mapping[str, str]
    """Attribute: what it is like instead."""
    rate: float
    """How often a retail pair shows this."""


def items_from(data: object) -> tuple[Item, ...]:
    """A packing list from plain data. Raises CannotJudge ``bad_packing`` (item)."""
    if not isinstance(data, list):
        raise CannotJudge("bad_packing", item=str(data)[:60])
    items = []
    for entry in data:
        try:
            choices = {name: tuple(values) for name, values in entry.get("choices", {}).items()}
            item = Item(**{**entry, "choices": choices})
        except (TypeError, AttributeError) as error:
            raise CannotJudge("bad_packing", item=str(entry)[:60]) from error
        known = all(value in item.choices.get(name, ()) for name, value in item.attributes.items())
        if item.token not in TOKENS or item.count < 0 or not known:
            raise CannotJudge("bad_packing", item=item.key)
        items.append(item)
    if len({item.key for item in items}) != len(items):
        raise CannotJudge("bad_packing", item="the same key twice")
    return tuple(items)


def compare(items: Sequence[Item], ticked: Mapping[str, Mapping[str, Any]], *, second_hand: bool) -> list[Compared]:
    """Every item of the list as found.

    ``ticked``: by item key ``{"count": 1, "colour": "grey"}``; an item that is not in it was not looked at.
    ``second_hand``: the pair has been opened by somebody, who may have kept or swapped what goes missing.
    Raises BadTicks ``unknown_item`` or ``unknown_choice``.
    """
    unknown = set(ticked) - {item.key for item in items}
    if unknown:
        raise BadTicks("unknown_item", item=sorted(unknown)[0][:40])
    return [_compare(item, ticked.get(item.key), second_hand=second_hand) for item in items]


def _compare(item: Item, seen: Mapping[str, Any] | None, *, second_hand: bool) -> Compared:
    if seen is None:
        return Compared(item, State.NOT_LOOKED, None, {}, 1.0)
    count = _checked_count(item, seen)
    differing = {name: seen[name] for name, value in item.attributes.items() if seen.get(name, value) != value}
    state, rate = State.AS_LISTED, 1.0
    if count > item.count:
        state, rate = State.UNEXPECTED, ADDS
    elif count < item.count and second_hand and item.goes_missing:
        state = State.VOID
    elif count < item.count:
        state, rate = State.MISSING, LACKS
    elif count and differing:
        state, rate = State.WRONG, DIFFERS
    if item.retail_rate is not None and state is (State.MISSING if item.count else State.UNEXPECTED):
        rate = item.retail_rate
    return Compared(item, state, count, differing if count else {}, rate)


def _checked_count(item: Item, seen: Mapping[str, Any]) -> int:
    count = seen.get("count")
    if not isinstance(count, int) or isinstance(count, bool) or not 0 <= count <= MOST:
        raise BadTicks("unknown_choice", item=item.name, got=str(count)[:20])
    for name, value in seen.items():
        if name != "count" and value not in item.choices.get(name, ()):
            raise BadTicks("unknown_choice", item=item.name, got=str(value)[:20])
    return count
