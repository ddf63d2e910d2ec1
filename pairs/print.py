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
    """By place what was surely read off the photographs in use and that nobody has said yet. One query where no print
    was read, else five."""
    things = print_things()
    shown = [(view, foot, photo) for (view, foot), photo in photos_in_use(pair).items() if view in things]
    shown = [one for one in shown if one[2].print_lines]
    if not shown:
        return {}
    said, known, found = inscriptions_of(pair), known_of(pair), {}
    # The left tag's word comes first where both say it.
    for view, foot, photo in sorted(shown, key=lambda one: one[:2]):
        thing = (TAG_LEFT if foot == Foot.LEFT else TAG_RIGHT) if things[view] else BOX
        lines = [PrintLine(**{**one, "corners": tuple(map(tuple, one["corners"]))}) for one in photo.print_lines]
        for field in fields_of(lines, thing, known):
            if field.place not in said:
                found.setdefault(field.place, OfferedPrint(field, photo))
    return found
