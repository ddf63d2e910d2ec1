"""Pieces of photographs for cards: cut out at one scale, nothing marked; afterwards with the marks."""

import io

from PIL import Image, ImageDraw

from assay.errors import AssayError
from drills.cards import Card, Picture
from drills.simulated import close_up
from pairs.models import Organisation, Photo

WIDE, HIGH = 620, 496
MARK = (255, 196, 0)


def piece(card: Card, n: int, organisation: Organisation, *, marked: bool) -> bytes:
    """JPEG of a card's n-th picture. Raises AssayError ``no_such_view`` where there is none."""
    if not 0 <= n < len(card.pictures):
        raise AssayError("no_such_view")
    picture = card.pictures[n]
    if picture.simulated:
        return close_up(*picture.simulated)
    photo = Photo.objects.filter(pk=picture.photo, pair__organisation=organisation).first()
    if photo is None or not photo.full.storage.exists(photo.full.name):
        raise AssayError("no_such_view")
    box = _one_scale(card, n) if picture.box else (0, 0, photo.width, photo.height)
    with Image.open(photo.full.path) as whole:
        cut = whole.convert("RGB").crop(tuple(round(one) for one in box))
    if marked:
        _draw(cut, picture, (round(box[0]), round(box[1])))
    cut.thumbnail((WIDE, HIGH))
    target = io.BytesIO()
    cut.save(target, "JPEG", quality=88)
    return target.getvalue()


def _draw(cut: Image.Image, picture: Picture, corner: tuple[int, int]) -> None:
    """What was measured, as it was read."""
    pen, wide = ImageDraw.Draw(cut), max(2, cut.width // 250)
    for points, radius in picture.strokes:
        spots = [(x - corner[0], y - corner[1]) for x, y in points]
        if len(spots) == 1:
            (x, y), reach = spots[0], radius or 2.0 * wide
            pen.ellipse((x - reach, y - reach, x + reach, y + reach), outline=MARK, width=wide)
        else:
            pen.line(spots, fill=MARK, width=wide)


def _one_scale(card: Card, n: int) -> tuple[float, ...]:
    """The box of a picture, as wide in mm as the wider of the two where both have a scale."""
    sides: list[Picture] = [picture for picture in card.pictures if picture.box]
    mine = card.pictures[n]
    left, top, right, bottom = mine.box
    if len(sides) != 2 or not all(side.mm_per_px for side in sides):
        return mine.box
    wide = max((side.box[2] - side.box[0]) * side.mm_per_px for side in sides) / mine.mm_per_px
    x, y, high = (left + right) / 2, (top + bottom) / 2, wide * (bottom - top) / (right - left)
    return (x - wide / 2, y - high / 2, x + wide / 2, y + high / 2)
