"""Style codes: a maker's pattern, what people type, and where two codes differ.

A pattern is written as a mask: ``A`` stands for a letter, ``9`` for a figure, anything else for itself.
``AA-99999-A`` reads "two letters, five figures, one letter".
"""

from dataclasses import dataclass

from assay.errors import AssayError
from assay.paperwork.signs import latin

# Signs that are confused when read from a small label or typed; each letter with the figure it resembles.
LOOKALIKES = {"O": "0", "Q": "0", "D": "0", "I": "1", "L": "1", "Z": "2", "S": "5", "G": "6", "B": "8"}
# The way back is only safe where one letter is by far the likeliest.
LIKELY_LETTER = {"0": "O", "1": "I", "2": "Z", "5": "S", "6": "G", "8": "B"}


class UnreadableCode(AssayError):
    """What was typed does not fit the maker's pattern."""


@dataclass(frozen=True, slots=True)
class Difference:
    """One place where a code differs from the expected one."""

    position: int
    """Place in the written code, counted from 1, separators included."""
    expected: str
    found: str
    lookalike: bool
    """Whether the two signs are easily confused."""


@dataclass(frozen=True, slots=True)
class Comparison:
    """Two codes of one pattern, sign by sign."""

    expected: str
    found: str
    differences: tuple[Difference, ...]

    @property
    def same(self) -> bool:
        """Whether no sign differs."""
        return not self.differences


def normalise(typed: str, mask: str) -> str:
    """Write a typed code as the pattern has it: case, separators, look-alikes in places that allow one kind only.

    >>> normalise("vq 4412 7b", "AA-99999-A")
    'VQ-44127-B'
    >>> normalise("VQ-441O7-8", "AA-99999-A")
    'VQ-44107-B'

    Raises UnreadableCode ``wrong_length`` (wanted, got) or ``wrong_sign`` (position, wanted, got), or
    WrongAlphabet for a letter that only looks Latin.
    """
    signs = [sign for sign in latin(typed) if sign.isalnum()]
    wanted = [place for place in mask if place in "A9"]
    if len(signs) != len(wanted):
        raise UnreadableCode("wrong_length", wanted=len(wanted), got=len(signs), mask=mask)
    left = iter(signs)
    written = []
    for position, place in enumerate(mask, start=1):
        written.append(_fit(next(left), place, position) if place in "A9" else place)
    return "".join(written)


def compare(expected: str, found: str) -> Comparison:
    """Compare two normalised codes and say where they differ.

    >>> compare("VQ-44127-B", "VQ-44721-B").differences[0]
    Difference(position=6, expected='1', found='7', lookalike=False)
    """
    length = max(len(expected), len(found))
    pairs = zip(expected.ljust(length), found.ljust(length), strict=True)
    differences = tuple(
        Difference(position, a, b, lookalike=_alike(a, b)) for position, (a, b) in enumerate(pairs, start=1) if a != b
    )
    return Comparison(expected, found, differences)


def _fit(sign: str, place: str, position: int) -> str:
    if place == "9":
        sign = LOOKALIKES.get(sign, sign)
    elif sign.isdigit():
        sign = LIKELY_LETTER.get(sign, sign)
    fits = sign in "0123456789" if place == "9" else "A" <= sign <= "Z"
    if not fits:
        raise UnreadableCode("wrong_sign", position=position, wanted=place, got=sign)
    return sign


def _alike(a: str, b: str) -> bool:
    return LOOKALIKES.get(a, a) == LOOKALIKES.get(b, b)
