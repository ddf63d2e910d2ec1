"""What was read off the print of a pair's labels and tags, offered to be confirmed."""

from dataclasses import dataclass

from assay.paperwork.print_fields import BOX, TAG_LEFT, TAG_RIGHT, PrintField, fields_of
from assay.paperwork.print_reader import PrintLine
from library.models import Foot
from pairs.known import known_of
from pairs.models import Pair, Photo
from pairs.pipeline import print_things
from pairs.queries import inscriptions_of, photos_in_use

ROOM = 0.6
"""What is shown round a line, of its height."""


@dataclass(frozen=True, slots=True)
class OfferedPrint:
    """What stands at one place by a photograph; nobody has confirmed it."""

    field: PrintField
    photo: Photo

    @property
    def box(self) -> list[float]:
        """x, y, width and height of its crop on the photograph, px."""
        corners = [corner for line in self.field.lines for corner in line.corners]
        xs, ys = [x for x, _ in corners], [y for _, y in corners]
        room = ROOM * max(line.corners[3][1] - line.corners[0][1] for line in self.field.lines)
        left, top = max(0.0, min(xs) - room), max(0.0, min(ys) - room)
        width, height = min(self.photo.width, max(xs) + room) - left, min(self.photo.height, max(ys) + room) - top
        return [round(one, 1) for one in (left, top, width, height)]


def offered_print(pair: Pair) -> dict[str, OfferedPrint]:
    """By place what was surely read off the photographs in use and that nobody has said yet. Six queries."""
    said, known, found = inscriptions_of(pair), known_of(pair), {}
    for view, is_tag in print_things().items():
        for (shown, foot), photo in photos_in_use(pair).items():
            if shown != view or not photo.print_lines:
                continue
            thing = (TAG_LEFT if foot == Foot.LEFT else TAG_RIGHT) if is_tag else BOX
            lines = [
                PrintLine(one["text"], one["confidence"], tuple(map(tuple, one["corners"])))
                for one in photo.print_lines
            ]
            for field in fields_of(lines, thing, known):
                if field.place not in said:
                    # The left tag's word comes first where both say it.
                    found.setdefault(field.place, OfferedPrint(field, photo))
    return found
