"""Every assumed figure of the weighing, one table: what it means, and why it has that value.

None of these was measured on real copies; outcomes that a shop learns replace the beliefs among them
(``copy_model.learned``). ``python -m tests.study.assumptions`` shows what a verdict does when each is halved or
doubled; docs/assumptions.md keeps that table.
"""

from enum import StrEnum


class CopyLevel(StrEnum):
    """How well a copy of no known batch is made, at every check alike."""

    ROUGH = "rough"
    MIDDLING = "middling"
    CLOSE = "close"
    NEARLY_PERFECT = "nearly perfect"


ODDS_OF_RIGHT = {
    CopyLevel.ROUGH: 0.25,
    CopyLevel.MIDDLING: 1.0,
    CopyLevel.CLOSE: 8.0,
    CopyLevel.NEARLY_PERFECT: 200.0,
}
"""By so much the odds of getting one part right are multiplied. Spread over three decades, so that a copy of any skill
lies near one of the four."""
SHARE_OF_LEVEL = {
    CopyLevel.ROUGH: 0.35,
    CopyLevel.MIDDLING: 0.44,
    CopyLevel.CLOSE: 0.2,
    CopyLevel.NEARLY_PERFECT: 0.01,
}
"""How many copies of no known batch are made so well. The last bounds what agreeing may ever say: a hundred to one."""


def shares_of_levels(near_perfect: float) -> dict[CopyLevel, float]:
    """Shares of unknown copies by how well they are made, where so many of them are nearly perfect; the others keep
    their proportions.

    >>> {str(level): round(share, 3) for level, share in shares_of_levels(0.1).items()}
    {'rough': 0.318, 'middling': 0.4, 'close': 0.182, 'nearly perfect': 0.1}
    """
    rest = 1 - SHARE_OF_LEVEL[CopyLevel.NEARLY_PERFECT]
    others = {level: share * (1 - near_perfect) / rest for level, share in SHARE_OF_LEVEL.items()}
    return others | {CopyLevel.NEARLY_PERFECT: near_perfect}


SHARE_OF_UNKNOWN = 0.5
"""How likely a copy is of no known batch, before anything is seen; the batches share the rest."""
WIDER = 4.0
"""κ: what an unknown copy gets wrong scatters so many times as wide as retail's, where nothing was learned. A fault
that a checker notices by eye lies some four scatters off."""
LOOSENESS = {1.0: 0.7, 1.4: 0.2, 1.9: 0.1}
"""One pair's scatter over what retail pairs usually scatter, and how often a pair is so: a loose day at the factory, a
stiff box, another last of the same size. One looseness goes through all of a pair's lengths."""
READING_ERROR = 0.01
"""How often a reading that nobody has looked at is wrong although it is sure. On independent test images 7 of 1,100
were (docs/accuracy.md); real photographs are harder."""
READING_ERROR_WORTH = 200.0
"""How many readings that belief is worth, beside those of the test images and those that people looked at here."""
READING_ERROR_SEEN = 0.001
"""The same of one that a person measured, or confirmed by eye. Assumed."""
SCALE_ERROR = 0.02
"""How often a photograph's scale is off by far more than it claims: the shoe stood above the card's plane, the card was
not printed at full size. Assumed."""
SCALE_ERROR_SIZE = 0.02
"""The standard deviation of such an error, relative. Assumed: up to .05 nobody is asked (``pipeline.scale``)."""
LEAST_WIDER = 1.5
"""κ below this would make a copy's faults pass for retail's scatter."""
OVER_LOOSE = 1.2
"""What a copy gets wrong scatters so many times as wide as the loosest retail pair, at least."""
WIDER_WORTH = 4.0
"""How many batches that belief is worth."""
UNKNOWN_DOF = 3.0
"""Degrees of freedom of what a copy gets wrong: heavy tails, as faults have no typical size."""
RIGHT = 0.75
"""How often a copy gets a count or an answer right, where nothing was learned: whoever copies can count."""
RIGHT_LENGTH = 0.5
"""The same of a length or another number that scatters: it takes the last and the tools to get it right."""
RIGHT_WORTH = 4.0
"""How many batches those two beliefs are worth."""
COPY_SLIPS = 0.3
"""How often a copy's print or packing slips at one place."""
RETAIL_SLIPS = 0.01
"""How often retail's does."""
STEP_DOWN = 0.5
"""What a copy gets wrong of a count falls off by this from neighbour to neighbour: one off is likelier than two."""
CAP_FOR = 6.0
"""What one check may say for retail at most, decibans: agreeing is cheap to copy. Common practice, no source."""
CAP_AGAINST = 15.0
"""The same against."""
BELIEVED_AGAINST = 6.0
"""The same of an answer that no known copy has taught: no more than one measured number may say for retail. Common
practice, no source."""
DECISIVE_AGAINST = 30.0
"""The same of a decisive check."""
PAPER_FOR = 2.0
"""The same of print and packing, which are reproduced with the box."""
PAPER_AGAINST = 12.0
ONE_WAY_AGAINST = 12.0
"""Of what glows under the lamp: marks wash off, and stray glue glows as well."""
LESS = {"photo_only": 0.8, "worn": 0.7, "unsure": 0.5, "unfit_photo": 0.5}
"""What lowers a cap, and by which factor."""
FALLING = 0.5
"""Of one group the second strongest sign counts half, the third a quarter: what has one cause is not new evidence."""
NEAR_PERFECT_WORTH = 50.0
"""How many copies of known end the believed share of nearly perfect ones is worth."""
READS_LIKE_RETAIL = 5.0
"""Decibans from which a copy is told to have read like retail: a ratio of three. Assumed."""
OUTLYING = 2.0
"""A batch whose centre lies so many of retail's scales from retail's got the part wrong."""
TOLD_APART = 0.05
"""A batch's habit is surely not retail's where it is retail's with less probability. Assumed."""
