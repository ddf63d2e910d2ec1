"""Reads for the page of two sets."""

import math
from dataclasses import dataclass, replace
from uuid import UUID

import numpy as np

from assay.contracts import MarkKind
from assay.measure.registry import MEASURES
from casework.actions.compare_sets import SIDES, photos_of
from casework.differences.queries import view_round
from casework.models import DroppedPhoto, SetComparison
from casework.sets import wording
from pairs.models import Organisation


@dataclass(frozen=True, slots=True)
class Cut:
    """A place on one photograph, and what is shown round it."""

    photo: DroppedPhoto
    view: str
    """SVG viewBox, px."""
    points: str
    closed: bool

    @property
    def width(self) -> int:
        return self.photo.received["size"][0]

    @property
    def height(self) -> int:
        return self.photo.received["size"][1]


@dataclass(frozen=True, slots=True)
class Row:
    """One number or place that differs, or reads alike."""

    name: str
    words: str
    strength: float
    first: Cut
    second: Cut
    differs: bool
    number: int = 0


@dataclass(frozen=True, slots=True)
class SetsPage:
    token: UUID
    sides: list[dict]
    comparison: SetComparison | None
    rows: list[Row]
    """What differs, the surest first."""
    alike: list[Row]
    unmatched: int
    """Photographs that nothing in the other set shows."""
    unread: int
    new: bool
    """Whether photographs came since."""
    at: int = 0

    @property
    def row(self) -> Row | None:
        return self.rows[self.at] if self.rows else None

    @property
    def before(self) -> int:
        return self.at

    @property
    def after(self) -> int:
        return self.at + 2 if self.at + 1 < len(self.rows) else 0


def sides_of(organisation: Organisation, token: UUID) -> list[dict]:
    """Both sides with their photographs. Two queries."""
    titles = ("The pair you trust", "The pair in question")
    return [
        {"key": side, "title": title, "photos": photos_of(organisation, token, side)}
        for side, title in zip(SIDES, titles, strict=True)
    ]


def comparison_of(organisation: Organisation, token: UUID) -> SetComparison | None:
    """The one of this page. One query."""
    return SetComparison.objects.filter(organisation=organisation, token=token).first()


def sets_page(organisation: Organisation, token: UUID, at: int = 1) -> SetsPage:
    """All of it, the row ``at`` large, counted from 1. Three queries."""
    sides, comparison = sides_of(organisation, token), comparison_of(organisation, token)
    photos = {photo.pk: photo for side in sides for photo in side["photos"]}
    found = comparison.found if comparison else []
    rows = [row for match in found for row in _rows(match, photos)]
    differing = sorted((row for row in rows if row.differs), key=lambda row: -row.strength)
    numbered = [replace(row, number=n) for n, row in enumerate(differing, start=1)]
    matched = {key for match in found for key in (match["first"], match["second"])}
    latest = max((photo.added_at for photo in photos.values()), default=None)
    return SetsPage(
        token=token,
        sides=sides,
        comparison=comparison,
        rows=numbered,
        alike=[row for row in rows if not row.differs],
        unmatched=len(photos) - len(matched & set(photos)),
        unread=sum(match["unread"] for match in found),
        new=bool(comparison and latest and latest > comparison.asked_at),
        at=min(max(at, 1), max(len(numbered), 1)) - 1,
    )


def _rows(match: dict, photos: dict[int, DroppedPhoto]) -> list[Row]:
    """Of one couple of photographs; none where one of them is gone."""
    first, second = photos.get(match["first"]), photos.get(match["second"])
    if first is None or second is None:
        return []
    rows = []
    for reading in match["readings"]:
        closed = MEASURES[reading["measure"]].marks is MarkKind.REGION
        cuts = _cut(first, reading["marks"], closed=closed), _cut(second, reading["marks_second"], closed=closed)
        name, words = wording.number_words(reading)
        rows.append(Row(name, words, _times(reading), *cuts, reading["differs"]))
    for region in match["regions"]:
        cuts = _cut(first, _corners(region["reference"])), _cut(second, _corners(region["here"]))
        words = wording.region_words(region, match["mm_per_px"])
        rows.append(Row(words, "", math.log10(1 + region["strength"]), *cuts, differs=True))
    return rows


def _times(reading: dict) -> float:
    """How many joint standard uncertainties apart; what has none comes first."""
    joint = math.hypot(reading["first_uncertainty"], reading["second_uncertainty"])
    return abs(reading["second"] - reading["first"]) / joint if joint else math.inf


def _corners(box: list[float]) -> list[list[float]]:
    x, y, width, height = box
    return [[x, y], [x + width, y], [x + width, y + height], [x, y + height]]


def _cut(photo: DroppedPhoto, points: list, *, closed: bool = True) -> Cut:
    at = np.asarray(points, float)
    view = view_round((*at.min(0), *np.ptp(at, axis=0)), photo.received["size"])
    return Cut(photo, view, " ".join(f"{x:.1f},{y:.1f}" for x, y in at), closed)


def document(page: SetsPage) -> dict:
    """Everything as plain data; see docs/formats.md."""
    comparison = page.comparison
    return {
        "format": wording.FORMAT,
        "verdict": wording.VERDICT,
        "why": wording.WHY,
        "photographs": {
            side["key"]: [
                {"key": photo.pk, "name": photo.name_given, "sha256": photo.received["sha256"]}
                for photo in side["photos"]
            ]
            for side in page.sides
        },
        "matched": comparison.found if comparison else [],
    }
