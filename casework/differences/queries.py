"""Reads for the page of differences that no check names."""

from collections.abc import Iterator, Sequence

from casework.differences.wording import words_of
from casework.models import Case
from casework.photos.queries import place_name
from pairs.differences import undiffered
from pairs.models import Photo
from pairs.queries import photos_in_use

ROOM = 0.6
"""What is shown round a region, of its longer side."""
LEAST_SHARE = 0.12
"""And of the picture, at least."""


def differences(case: Case) -> dict:
    """Every region of every photograph in use, the strongest first, both pictures cut round it. About nine queries."""
    photos = [one for one in photos_in_use(case.pair).values() if one.differences is not None]
    retail = Photo.objects.in_bulk({key for one in photos for key in one.differences["retail"][:1]})
    rows = [row for photo in photos for row in _rows(photo, retail)]
    rows.sort(key=lambda row: -row["strength"])
    return {
        "case": case,
        "rows": [row | {"number": n} for n, row in enumerate(rows, start=1)],
        "looked": len(photos),
        "left": 0 if case.signed_at else len(undiffered(case.pair, case.reference)),
        "bare": not case.findings.exists(),
    }


def _rows(photo: Photo, retail: dict[int, Photo]) -> Iterator[dict]:
    theirs = retail.get(next(iter(photo.differences["retail"]), None))
    for region in photo.differences["regions"] if theirs else ():
        yield {
            "photo": photo,
            "retail": theirs,
            "place": place_name(photo.view, photo.foot),
            "words": words_of(region, theirs.mm_per_px),
            "strength": region["strength"],
            "here": _cut(region["here"], photo),
            "there": _cut(region["reference"], theirs),
            "points": [[round(n, 1) for n in corner] for corner in _corners(region["here"], photo)],
            "pairs": len(photo.differences["retail"]),
        }


def _corners(box: list[float], photo: Photo) -> tuple[tuple[float, float], tuple[float, float]]:
    x, y, width, height = box
    right, bottom = min(x + width, photo.width - 1), min(y + height, photo.height - 1)
    return (max(x, 0), max(y, 0)), (right, bottom)


def _cut(box: list[float], photo: Photo) -> dict:
    """The region, and what is shown round it, as SVG wants them."""
    numbers = dict(zip(("x", "y", "width", "height"), box, strict=True))
    shown = {"view": view_round(box, (photo.width, photo.height))}
    return {name: round(n, 1) for name, n in numbers.items()} | shown


def view_round(box: Sequence[float], size: tuple[int, int]) -> str:
    """The viewBox that shows a box (x, y, width, height) with room round it, on a picture of this size, px."""
    x, y, width, height = box
    room = ROOM * max(width, height, LEAST_SHARE * max(size))
    return " ".join(f"{n:.1f}" for n in (x - room, y - room, width + 2 * room, height + 2 * room))
