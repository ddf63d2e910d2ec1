"""Posts to every door with values of every wrong kind."""

import random
from collections.abc import Iterator

FIELDS = (
    *("points", "lengths", "value", "choice", "view", "foot", "place", "marks", "tool", "side", "pixel", "others"),
    *(
        "name",
        "words",
        "group",
        "sure",
        "like",
        "verdict",
        "after",
        "red_flags",
        "coverage",
        "decision_rule",
        "legit_from",
    ),
    *(
        "decision_rule",
        "near_perfect",
        "near_basis",
        "fake_from",
        "style_code",
        "token",
        "size_us",
        "region",
        "condition",
        "arrival",
        "asked_price",
        "bought_on",
    ),
    *("card_bar_mm", "maker", "model", "colourway", "year", "generation", "barcodes", "sizes_us", "batch", "label"),
    *("verified_how", "paper", "photo", "member", "role", "action", "why", "minutes", "cap_for", "scatter", "when"),
    *("kept", "overwrite", "typed", "answers", "instruction", "section", "add", "pair", "count", "like", "lamp"),
    *("away_mm", "lamp_mm", "at", "above_mm", "unknown_mm", "second_from", "link_days", "q", "what", "size", "height"),
    *("tag.style_code", "box.sizes", "tag.made", "packing", "box.outer", "corners", "delta", "matrix", "quantity"),
)
VALUES = (
    *("", " ", "0", "-1", "1e308", "-1e400", "nan", "inf", "1e999", "9" * 400, "x" * 5000, "\x00", "ÿ\u202e", "null"),
    *("[]", "{}", "[[1]]", "[[1,2]]", "[[1,2],[3,4]]", "[[1e308,1e308],[0,0]]", "[[null,1]]", '{"a":1}', "true"),
    *("[" * 3000, "[[" + "9" * 400 + ",1]]", "../../etc", "<script>", "1,2,3", "2024-13-45", "100 %.", "%s%n", "'"),
)


def malformed(seed: int, many: int) -> Iterator[dict]:
    """So many bodies, each of a few fields."""
    rng = random.Random(seed)
    for _ in range(many):
        yield {rng.choice(FIELDS): rng.choice(VALUES) for _ in range(rng.randrange(1, 9))}
