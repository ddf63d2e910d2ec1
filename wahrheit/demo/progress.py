"""How far the demo's photographs are, for a line on the counter; without the simulator, so that pages start quickly."""

import json
from pathlib import Path

from django.conf import settings

NAME = "demo-progress.json"


def tell(done: int, of: int) -> None:
    """Note it."""
    kept, half = Path(settings.DATA_DIR) / NAME, Path(settings.DATA_DIR) / f"{NAME}.part"
    half.write_text(json.dumps({"done": done, "of": of}))
    half.replace(kept)


def line() -> dict | None:
    """What the counter shows: words, photographs done and of how many; None once all are there."""
    try:
        kept = json.loads((Path(settings.DATA_DIR) / NAME).read_text())
    except (OSError, ValueError):
        return None
    if kept["done"] >= kept["of"]:
        return None
    return kept | {"words": "The demo’s other photographs are being taken. What is here can be worked on meanwhile."}
