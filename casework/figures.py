"""Numbers as they are written: no more digits than the uncertainty justifies, a true minus, thin spaces."""

import math

MOST_DECIMALS = 4
MINUS, THIN = "−", "\N{NARROW NO-BREAK SPACE}"


def usual_decimals(value: float, unit: str = "") -> int:
    """Where nothing is known of the uncertainty."""
    return 1 if unit == "dE00" else 3 if unit == "ratio" else 2 if abs(value) < 100 else 1


def decimals(uncertainty: float, usual: int) -> int:
    """So many that the standard uncertainty keeps one figure.

    >>> [decimals(uncertainty, 2) for uncertainty in (0.12, 1.149, 0.096, 0.0, math.inf)]
    [1, 0, 1, 2, 2]
    """
    if not 0 < uncertainty < math.inf:
        return usual
    exponent = math.floor(math.log10(uncertainty))
    carries = round(uncertainty / 10**exponent) == 10
    return min(MOST_DECIMALS, max(0, -exponent - carries))


def figure(value: float, places: int) -> str:
    """A number with so many decimals, never −0.

    >>> figure(-1.26, 1), figure(-0.001, 2)
    ('−1.3', '0.00')
    """
    return f"{round(value, places) + 0.0:.{places}f}".replace("-", MINUS)


def plain(value: float, unit: str = "") -> str:
    """A number of which no uncertainty is known."""
    return figure(value, usual_decimals(value, unit))


def signed(value: float, places: int = 0) -> str:
    """The same with its sign.

    >>> signed(3.04, 1), signed(-20)
    ('+3.0', '−20')
    """
    return f"{round(value, places) + 0.0:+.{places}f}".replace("-", MINUS)
