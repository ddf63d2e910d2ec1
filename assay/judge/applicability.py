"""Which checkpoints apply to a pair, from facts known before anything is measured."""

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Needs:
    """What a checkpoint asks of the pair and the table."""

    new_only: bool = False
    """Wear, or a second hand, makes the sign worthless."""
    in_hand: bool = False
    """Touch or smell: a photograph does not do."""


@dataclass(frozen=True, slots=True)
class Facts:
    """What is known of the pair and the situation."""

    worn: bool
    in_hand: bool


def why_void(needs: Needs, facts: Facts) -> str | None:
    """Reason code why a checkpoint does not apply, or None where it does.

    >>> why_void(Needs(new_only=True), Facts(worn=True, in_hand=True))
    'worn'
    """
    if needs.new_only and facts.worn:
        return "worn"
    if needs.in_hand and not facts.in_hand:
        return "photographs_only"
    return None
