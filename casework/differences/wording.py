"""What differs, in words."""

KINDS = {
    "moved": "Lies {amount} further {towards}.",
    "missing": "Something that retail has is missing here.",
    "extra": "Something is here that retail does not have.",
    "lighter": "Lighter here, by {amount} of 100.",
    "darker": "Darker here, by {amount} of 100.",
    "hue": "Another hue here (ΔE {amount}).",
    "smoother": "Smoother grain here.",
    "coarser": "Coarser grain here.",
    "other": "Looks otherwise here.",
}
TOWARDS = {"left": "to the left", "right": "to the right", "up": "up", "down": "down"}


def words_of(region: dict, mm_per_px: float | None) -> str:
    """One region in a sentence; lengths only where there is a scale."""
    amount = f"{region['amount']:.0f}"
    if region["kind"] == "moved":
        amount = f"{region['amount'] * mm_per_px:.1f} mm" if mm_per_px else "a little"
    return KINDS[region["kind"]].format(amount=amount, towards=TOWARDS.get(region["towards"], ""))
