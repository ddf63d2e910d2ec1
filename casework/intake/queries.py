"""Reads for the intake page, in a known number of queries."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass

from assay.judge.levels import Level
from assay.paperwork import sizes
from casework import paper_wording
from casework.actions.save_intake import OF_PAIR, why_fully
from casework.findings import state_of
from casework.grading import VOID
from casework.models import Case
from casework.photos.queries import tray
from pairs.models import Pair, Region
from pairs.print import OfferedPrint, offered_print, receipt_read
from pairs.queries import inscriptions_of, retail_pairs


def intake(case: Case) -> dict:
    """The intake page beside its form. About twelve queries."""
    state = state_of(case)
    agenda = state.agenda
    applying = [f for f in state.findings if f.reason != VOID]
    void: dict[str, list[str]] = {}
    for finding in state.findings:
        if finding.reason == VOID:
            void.setdefault(paper_wording.void_words(finding.void), []).append(finding.checkpoint.name)
    return {
        **tray(case),
        "agenda": agenda,
        "left": len(agenda.confirm) + len(agenda.steps),
        "blocked": len(agenda.blocked),
        "applying": applying,
        "required": [f for f in applying if f.checkpoint.mandatory],
        "references": [] if case.signed_at else retail_pairs(case.pair),
        "void": sorted(void.items(), key=lambda one: -len(one[1])),
        "void_count": sum(map(len, void.values())),
        "minutes": f"{agenda.minutes:.0f}",
        "why_fully": why_fully(case) if case.level == Level.FULL else "",
        "read_facts": [] if case.signed_at else read_facts(case),
    }


@dataclass(frozen=True, slots=True)
class ReadFact:
    """A fact that a photograph tells and nobody has said yet."""

    name: str
    value: str
    words: str
    where: str
    offered: OfferedPrint | None = None
    """Its line, where one line tells it."""


def read_facts(case: Case) -> list[ReadFact]:
    """Size, region, day and price as label, tag and receipt have them. About nine queries where print was read."""
    pair = case.pair
    labels = _on_labels(pair) if not (pair.size_us and pair.region) else ()
    receipt = _on_receipt(pair) if not (case.source and pair.bought_on and case.asked_price is not None) else ()
    told = {fact.name: fact for fact in [*labels, *receipt]}
    kept = {name: getattr(pair if name in OF_PAIR else case, name) for name in told}
    return [fact for name, fact in told.items() if kept[name] in ("", None)]


def _on_labels(pair: Pair) -> Iterator[ReadFact]:
    """Size and region; the tag's word on the size stands over the box's."""
    said, read = inscriptions_of(pair), offered_print(pair)
    for place, thing in (("box.sizes", "box label"), ("tag.sizes", "size tag")):
        text = said[place].text if place in said else read[place].field.text if place in read else ""
        row = sizes.parse_row(text) if text else {}
        if sizes.System.US in row:
            size = sizes.written(row[sizes.System.US])
            yield ReadFact("size_us", size, f"US {size}", thing, read.get(place))
        region = _region(row, pair.release.shoe_model.maker.label_layouts) if place == "box.sizes" else ""
        if region:
            yield ReadFact("region", region, Region(region).label, thing, read.get(place))


def _on_receipt(pair: Pair) -> Iterator[ReadFact]:
    receipt = receipt_read(pair)
    if receipt.shop:
        yield ReadFact("source", receipt.shop, receipt.shop, "receipt")
    if receipt.bought_on:
        day = receipt.bought_on
        yield ReadFact("bought_on", day.isoformat(), f"bought {day:%-d %B %Y}", "receipt")
    if receipt.total:
        yield ReadFact("asked_price", str(receipt.total), f"{receipt.total} paid", "receipt")


def _region(row: sizes.Row, layouts: Mapping[str, list[str]]) -> str:
    """The one region whose labels carry these systems."""
    fitting = [region for region, systems in layouts.items() if set(systems) == {system.value for system in row}]
    return fitting[0] if len(fitting) == 1 and fitting[0] in Region.values else ""
