"""When a check applies, as a form's choices say it."""

CHOICES = {
    "in_hand": ("the pair is in hand", {"fact": "in_hand", "is": [True]}),
    "unworn": ("it was never worn", {"fact": "condition", "is": ["deadstock", "tried_on"]}),
    "own_box": ("it came in its own box", {"fact": "arrival", "is": ["own_box"]}),
    "both_feet": ("both shoes are here", {"fact": "feet", "is": ["both"]}),
    "eu": ("its label is for Europe", {"fact": "region", "is": ["eu"]}),
    "us": ("its label is for North America", {"fact": "region", "is": ["us"]}),
    "asia": ("its label is for Asia", {"fact": "region", "is": ["asia"]}),
    "tag_reader": ("a tag reader is on the table", {"fact": "tools", "has": "tag_reader"}),
    "caliper": ("a caliper is on the table", {"fact": "tools", "has": "caliper"}),
    "lamp": ("a UV lamp is on the table", {"fact": "tools", "has": "uv_lamp"}),
}
"""Key, words, and the clause that the core understands."""


def chosen(clauses: list) -> list[str]:
    """Keys of the conditions that a check has; what no drop-down says is left out."""
    return [key for key, (_, clause) in CHOICES.items() if clause in clauses]


def others(clauses: list) -> list:
    """Clauses that no drop-down says: kept as they are."""
    known = [clause for _, clause in CHOICES.values()]
    return [clause for clause in clauses if clause not in known]


def clauses_of(keys: list[str], before: list) -> list:
    """What a form's choices say, and what no drop-down says as it was."""
    return [CHOICES[key][1] for key in CHOICES if key in keys] + others(before)
