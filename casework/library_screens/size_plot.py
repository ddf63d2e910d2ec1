"""A length by size: verified pairs, known copies, and the rule by which it is carried from size to size."""

from fractions import Fraction
from statistics import fmean

from assay.judge.judgement import Kind
from assay.paperwork.size_rule import carried
from assay.paperwork.sizes import Group
from casework.retail import compares, quantity_of
from library.models import Checkpoint, Release, rule_of
from pairs.known import size_of

WIDE, HIGH, EDGE = 320, 96, 12
STEP = Fraction(1, 2)


def by_size(checkpoint: Checkpoint, release: Release, verified: list, copies: list, read) -> dict | None:
    """Dots of (size, length), and the rule through the verified ones' mean, drawn in pieces where sizes cannot be
    compared; None of a check that has no rule, or no verified length of a known size."""
    if checkpoint.kind != Kind.CONTINUOUS or not checkpoint.size_rule or compares(checkpoint):
        return None
    lanes = {"retail": _sized(checkpoint, verified, read), "copy": _sized(checkpoint, copies, read)}
    if not lanes["retail"]:
        return None
    rule, group = rule_of(checkpoint, release.shoe_model.maker), Group(release.group)
    sizes = [size for dots in lanes.values() for size, _ in dots]
    first, last = min(sizes) - 1, max(sizes) + 1
    every = [first + STEP * n for n in range(int((last - first) / STEP) + 1)]
    line = [(size, _ruled(lanes["retail"], rule, size, group)) for size in every]
    values = [value for _, value in line if value is not None] + [v for dots in lanes.values() for _, v in dots]
    low, high = min(values), max(values)
    room = 0.1 * (high - low) or 1.0
    low, high = low - room, high + room

    def place(size, value) -> dict:
        across = EDGE + float((size - first) / (last - first)) * (WIDE - 2 * EDGE)
        return {"x": round(across, 1), "y": round(HIGH - EDGE - (value - low) / (high - low) * (HIGH - 2 * EDGE), 1)}

    return {
        "dots": [place(size, value) | {"lane": lane} for lane, dots in lanes.items() for size, value in dots],
        "lines": [" ".join(f"{p['x']},{p['y']}" for p in (place(*one) for one in piece)) for piece in _pieces(line)],
        "first": f"US {float(first):g}",
        "last": f"US {float(last):g}",
        "low": f"{low:.4g}",
        "high": f"{high:.4g}",
    }


def _sized(checkpoint, pairs: list, read) -> list[tuple[Fraction, float]]:
    found = ((size_of(pair.size_us), quantity_of(checkpoint, read.get((pair.pk, checkpoint.pk)))) for pair in pairs)
    return [(size, float(value)) for size, value in found if size is not None and value is not None]


def _ruled(dots: list, rule: dict, size: Fraction, group: Group) -> float | None:
    """What the verified lengths make on a size, on average."""
    moved = [carried(value, rule, own, size, group) for own, value in dots]
    known = [value for value in moved if value is not None]
    return fmean(known) if known else None


def _pieces(line: list[tuple]) -> list[list[tuple]]:
    """Runs of a line that have a value: where a rule does not reach, it breaks. A jump between bands breaks it, too."""
    pieces: list[list[tuple]] = [[]]
    for size, value in line:
        if value is None:
            pieces.append([])
        else:
            pieces[-1].append((size, value))
    return [piece for piece in pieces if len(piece) > 1]
