"""What differs, in words."""

KINDS = {
    "moved": "A part is {amount} further {towards}.",
    "missing": "A part that {other} has is missing.",
    "extra": "A part that {other} does not have.",
    "lighter": "Lighter than {other}, by {amount} L*.",
    "darker": "Darker than {other}, by {amount} L*.",
    "hue": "Different colour, ΔE {amount}.",
    "smoother": "Smoother grain than {other}.",
    "coarser": "Coarser grain than {other}.",
    "other": "Looks different from {other}.",
}


def words_of(region: dict, mm_per_px: float | None, other: str = "retail") -> str:
    """One region in a sentence; lengths only where there is a scale."""
    amount = f"{region['amount']:.0f}"
    if region["kind"] == "moved":
        amount = f"{region['amount'] * mm_per_px:.1f} mm" if mm_per_px else "a little"
    return KINDS[region["kind"]].format(amount=amount, towards=region["towards"], other=other)
