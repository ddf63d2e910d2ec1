"""Print on the photographs of a pair: read, and offered to be confirmed."""

from dataclasses import asdict, dataclass

from assay.paperwork import sizes
from assay.paperwork.print_fields import BOX, TAG_LEFT, TAG_RIGHT, PrintField, fields_of, words_field
from assay.paperwork.print_reader import is_installed, read_print
from assay.paperwork.receipt import Receipt, receipt_of
from library import print_views
from library.models import Foot
from pairs.known import known_of, lines_on
from pairs.models import Pair, Photo
from pairs.pictures import pixels
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


def unread_print(pair: Pair) -> list[Photo]:
    """Photographs of labels and tags whose print was not read yet; none where no reader is installed. Two queries."""
    if not is_installed():
        return []
    wanted = {
        "view__in": print_views.print_views(pair.release),
        "state": Photo.State.READ,
        "set_aside": False,
        "print_lines__isnull": True,
    }
    return list(pair.photos.filter(**wanted).order_by("pk"))


def read_print_on(photo: Photo) -> None:
    """Keep the lines of print on a photograph. Raises AssayError ``no_print_reader``."""
    photo.print_lines = [asdict(line) for line in read_print(pixels(photo.full.path))]
    photo.save(update_fields=["print_lines"])


def offered_print(pair: Pair) -> dict[str, OfferedPrint]:
    """By place what was surely read off the photographs in use and that nobody has said yet. Two queries where no print
    was read, else about seven."""
    shown = _read_photos(pair)
    if not shown:
        return {}
    said, known, found = inscriptions_of(pair), known_of(pair), {}
    # The left tag's word comes first where both say it.
    for thing, foot, photo in shown:
        for field in _fields(thing, foot, lines_on(photo), known):
            if field.place not in said:
                found.setdefault(field.place, OfferedPrint(field, photo))
    return found


def size_read(pair: Pair) -> str:
    """The US size as tag or label surely have it; empty where they do not. As many queries as ``offered_print``."""
    read = offered_print(pair)
    rows = [sizes.parse_row(read[place].field.text) for place in ("tag.sizes", "box.sizes") if place in read]
    return next((sizes.written(row[sizes.System.US]) for row in rows if sizes.System.US in row), "")


def receipt_read(pair: Pair) -> Receipt:
    """What the photographed receipt says; nothing where there is none. Two queries."""
    photo = next((photo for thing, _, photo in _read_photos(pair) if thing == print_views.RECEIPT), None)
    return receipt_of(lines_on(photo)) if photo else Receipt()


def _read_photos(pair: Pair) -> list[tuple[str, str, Photo]]:
    """What carries print, foot and photograph, left before right."""
    things = print_views.print_views(pair.release)
    shown = [(view, foot, photo) for (view, foot), photo in photos_in_use(pair).items() if view in things]
    return [
        (things[view], foot, photo) for view, foot, photo in sorted(shown, key=lambda one: one[:2]) if photo.print_lines
    ]


def _fields(thing: str, foot: str, lines, known) -> tuple[PrintField, ...]:
    if thing == print_views.RECEIPT:
        return ()
    if thing == print_views.TAG:
        return fields_of(lines, TAG_LEFT if foot == Foot.LEFT else TAG_RIGHT, known)
    return fields_of(lines, BOX, known) if thing == print_views.BOX else words_field(lines, thing, known)
