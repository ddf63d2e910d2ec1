"""Reads for checks of print and packing: their fields, the packing table, the two boxes to scale."""

import json

from assay.errors import AssayError
from assay.paperwork.accessories import items_from
from assay.paperwork.fields import FIELDS, SIDES, box_sides
from assay.paperwork.papers import PAPERS
from assay.paperwork.print_reader import is_installed
from casework import paper_wording
from casework.bench.drawings import boxes
from casework.models import Case
from pairs.print import OfferedPrint, offered_print
from pairs.queries import inscriptions_of, latest_readings, retail_pairs

# One key an item, in the table's order; other letters mean something else on the bench.
KEYS = "123456789qwertyzsdfghxcm"


def paper_page(case: Case, checkpoint, typed: dict) -> dict:
    """What a check of print or packing wants read; nothing for the others. Two queries, four for boxes."""
    if not checkpoint.paper:
        return {}
    kept = {place: one.text for place, one in inscriptions_of(case.pair).items()}
    said = {**kept, **{place: typed[place] for place in typed if place in FIELDS}}
    paper = PAPERS[checkpoint.paper]
    read = offered_print(case.pair) if not case.signed_at else {}
    page = {"fields": [_field(place, said, paper.fields[0] == place, read.get(place)) for place in paper.fields]}
    if any(field.get("read") for field in page["fields"]):
        page |= {"read": True, "also_read": _also_read(read, paper.fields)}
    page["no_reader"] = not is_installed() and bool(checkpoint.view)
    entry = FIELDS[paper.fields[0]].entry
    if entry == "packing":
        page["packing"] = _packing(case.pair.release, said.get("packing", "{}"))
    if entry == "lengths":
        page["boxes"] = _boxes(case, kept.get("box.outer"))
    return page


def _also_read(read: dict[str, OfferedPrint], fields: tuple[str, ...]) -> list[dict]:
    """What else was read off the same label or tags: nobody confirms what is not shown."""
    start = fields[0].split(".")[0]
    others = {place: one for place, one in read.items() if place.split(".")[0] == start and place not in fields}
    return [{"label": paper_wording.PLACES[place][0], "read": one} for place, one in others.items()]


def _field(place: str, said: dict, first: bool, read: OfferedPrint | None) -> dict:  # noqa: FBT001
    label, hint = paper_wording.PLACES[place]
    text = said.get(place, "")
    if not text and read:
        return {
            "place": place,
            "label": label,
            "hint": paper_wording.print_words(read.field),
            "entry": FIELDS[place].entry,
            "text": read.field.text,
            "read": read,
            "first": first,
        }
    offered = said.get("box.scanned", "") if place == "box.barcode" and not text else ""
    return {
        "place": place,
        "label": label,
        "hint": hint,
        "entry": FIELDS[place].entry,
        "text": text or (offered if " " not in offered else ""),
        "offered": bool(offered),
        "first": first,
    }


def _packing(release, text: str) -> dict:
    ticked = _ticks(text)
    rows = []
    for n, item in enumerate(items_from(release.packing)):
        seen = ticked.get(item.key)
        rows.append(
            {
                "item": item,
                "key": KEYS[n] if n < len(KEYS) else "",
                "looked": seen is not None,
                "count": seen.get("count", 0) if seen else 0,
                "attributes": [
                    {
                        "name": name,
                        "expected": expected,
                        "chosen": (seen or {}).get(name, expected),
                        "choices": item.choices[name],
                    }
                    for name, expected in item.attributes.items()
                ],
            }
        )
    return {
        "wanted": [row for row in rows if row["item"].count],
        "unwanted": [row for row in rows if not row["item"].count],
        "text": json.dumps(ticked),
    }


def _ticks(text: str) -> dict:
    try:
        ticked = json.loads(text)
    except ValueError:
        return {}
    return {key: seen for key, seen in ticked.items() if isinstance(seen, dict)} if isinstance(ticked, dict) else {}


def _boxes(case: Case, text: str | None) -> dict | None:
    """Both boxes: the mean of those verified pairs that share this box's kind is what the findings compare with."""
    checkpoints = {c.pk: c.quantity for c in case.pair.release.checkpoints.filter(paper="box_size")}
    readings = latest_readings(retail_pairs(case.pair), drawn=False, checkpoints=checkpoints)
    used = {label for f in case.findings.filter(checkpoint__in=checkpoints) for label, _ in f.retail}
    sides: dict[str, list[float]] = {f"{side}_mm": [] for side in SIDES}
    for (_, checkpoint), reading in readings.items():
        if checkpoint in checkpoints and reading.pair.label in used and reading.value is not None:
            sides[checkpoints[checkpoint]].append(reading.value)
    if not all(sides.values()):
        return None
    try:
        found = [value for value, _ in box_sides(text)] if text else None
    except AssayError:
        found = None
    return boxes([sum(values) / len(values) for values in sides.values()], found)
