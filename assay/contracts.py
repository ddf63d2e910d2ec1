"""What passes between the parts of the core. All frozen, all in the picture's pixels unless a name says otherwise."""

from collections.abc import Mapping
from dataclasses import KW_ONLY, dataclass, field
from enum import StrEnum
from types import MappingProxyType

import numpy as np

from assay.errors import CannotMeasure
from assay.memory import Memory

Point = tuple[float, float]
OTHER_FOOT = {"left": "right", "right": "left"}
# Places nearer than this are one, px: a click takes a pixel.
SAME_PX = 1.0


class Light(StrEnum):
    """How the colour of a picture was corrected."""

    NONE = "none"
    SAME_FRAME = "same-frame"
    TILE = "tile"
    """A grey tile of known reflectance lay in the picture."""
    CARD = "card"


@dataclass(frozen=True, slots=True)
class Picture:
    """What every photo measure gets."""

    rgb: np.ndarray
    """(H, W, 3) uint8, upright, sRGB."""
    mm_per_px: float | None = None
    """Size of one pixel on the object, mm; None where no scale is known."""
    light: Light = Light.NONE
    u_light_de00: float = 0.0
    """Standard uncertainty of a colour by what is not known of the light, dE00, how long was exposed included."""
    u_hue_de00: float = 0.0
    """The same where only what no exposure explains is asked for."""
    u_exposure: float = 0.0
    """Standard uncertainty of the exposure, as the natural logarithm of the light."""
    doubts: tuple[str, ...] = ()
    """Reason codes found when the picture was opened: ``blurred``, ``clipped`` …"""
    card: tuple[Point, ...] = ()
    """Corners, px, of a bench or bank card that lies in the picture: neither ground nor thing."""
    memory: Memory = field(default_factory=Memory, init=False, compare=False, repr=False)
    """What was found in it before. A changed picture starts with none."""

    @property
    def size(self) -> tuple[int, int]:
        """Width and height in pixels."""
        return self.rgb.shape[1], self.rgb.shape[0]

    def sharing(self, memory: Memory) -> "Picture":
        """The picture with what was found before in one of the same pixels."""
        object.__setattr__(self, "memory", memory)
        return self


class MarkKind(StrEnum):
    """What a person draws for a measure."""

    PATH = "path"
    REGION = "region"
    PLACES = "places"
    """Places that each mean something of their own: the line through them may cross itself."""


@dataclass(frozen=True, slots=True)
class Marks:
    """A path or a closed region drawn on a picture."""

    kind: MarkKind
    points: tuple[Point, ...]
    """(x, y) in picture pixels, origin at the centre of the top left pixel."""

    def checked(self, size: tuple[int, int]) -> np.ndarray:
        """Points as an (N, 2) float array.

        Raises CannotMeasure ``path_too_short``, ``region_too_small``, ``marks_off_picture`` or ``marks_cross``.
        """
        points = np.asarray(self.points, dtype=float).reshape(-1, 2)
        if not np.isfinite(points).all():
            raise CannotMeasure("marks_off_picture", width=size[0], height=size[1])
        if self.kind is not MarkKind.REGION:
            length = float(np.hypot(*np.diff(points, axis=0).T).sum()) if len(points) > 1 else 0.0
            if length < 1:
                raise CannotMeasure("path_too_short", points=len(points))
        elif len(points) < 3 or polygon_area(points) < 16:
            raise CannotMeasure("region_too_small", points=len(points))
        if (points < 0).any() or (points > np.asarray(size) - 1).any():
            raise CannotMeasure("marks_off_picture", width=size[0], height=size[1])
        if self.kind is not MarkKind.PLACES and crosses_itself(points, closed=self.kind is MarkKind.REGION):
            raise CannotMeasure("marks_cross", points=len(points))
        return points

    def parted(self, size: tuple[int, int]) -> np.ndarray:
        """The same where every point is a place of its own. Raises ``points_on_each_other`` as well."""
        points = self.checked(size)
        if (np.hypot(*np.diff(points, axis=0).T) < SAME_PX).any():
            raise CannotMeasure("points_on_each_other")
        return points


def crosses_itself(points: np.ndarray, *, closed: bool) -> bool:
    """Whether two pieces of a line (N, 2) that are not neighbours cross.

    >>> crosses_itself(np.array([[0, 0], [2, 2], [2, 0], [0, 2]]), closed=False)
    True
    """
    start, end = points, np.roll(points, -1, axis=0)
    if not closed:
        start, end = start[:-1], end[:-1]

    def side(a: np.ndarray, b: np.ndarray, c: np.ndarray) -> np.ndarray:
        turn: np.ndarray = (b[..., 0] - a[..., 0]) * (c[..., 1] - a[..., 1]) - (b[..., 1] - a[..., 1]) * (
            c[..., 0] - a[..., 0]
        )
        return np.asarray(np.sign(turn))

    a, b, c, d = start[:, None], end[:, None], start[None], end[None]
    across = (side(a, b, c) * side(a, b, d) < 0) & (side(c, d, a) * side(c, d, b) < 0)
    return bool(across.any())


def polygon_area(points: np.ndarray) -> float:
    """Area of a simple polygon given as (N, 2), by the shoelace formula.

    >>> polygon_area(np.array([[0, 0], [4, 0], [4, 3], [0, 3]]))
    12.0
    """
    x, y = np.asarray(points, dtype=float).T
    return float(abs(np.dot(x[:-1], y[1:]) - np.dot(y[:-1], x[1:]) + x[-1] * y[0] - y[-1] * x[0]) / 2)


class StrokeKind(StrEnum):
    """Kinds of drawing that an overlay is made of."""

    TICK = "tick"
    RING = "ring"
    LINE = "line"


@dataclass(frozen=True, slots=True)
class Stroke:
    """One thing to draw over the photograph, in picture pixels."""

    kind: StrokeKind
    points: tuple[Point, ...]
    """TICK: its two ends; RING: its centre; LINE: the polyline."""
    label: str = ""
    radius_px: float = 0.0
    """For RING only."""


@dataclass(frozen=True, slots=True, eq=False)
class Descriptor:
    """What a comparing measure keeps of a thing, so that it can be laid beside other pairs' whenever it is graded."""

    kind: str
    """``contour``, ``point_pattern``, ``layers`` …: two of one kind can be compared."""
    points: np.ndarray
    """(N, 2) places of the thing, in ``unit``."""
    marks: np.ndarray
    """(M, 2) where it was drawn: the same places on every pair, in the same order."""
    unit: str = "px"
    """``px`` of the picture it was measured on, or ``mm`` on the object's plane."""
    _: KW_ONLY
    values: np.ndarray = field(default_factory=lambda: np.zeros((0, 0)))
    """(N, K) what was seen at each place or, with one row, of the whole: a colour, texture numbers."""
    values_unit: str = ""
    """``px`` or ``mm`` where ``values`` are lengths; empty where scale plays no part in them."""
    light: Light = Light.NONE
    """Whether its colours are true."""
    image: np.ndarray | None = None
    """(h, w) uint8 of what was seen, where places are not enough: a mark's cover, a print's tones."""
    image_at: tuple[float, float] = (0.0, 0.0)
    """Where its first pixel lies in the frame that its measure names, in ``unit``."""
    image_step: float = 1.0
    """Size of its pixels, in ``unit``."""
    lamp: str = ""
    """Of photographs in ultraviolet light: under which lamp; only like is compared with like."""
    facing: int = 0
    """1: the toe lies at the left, −1: at the right, 0: no side of a shoe."""
    relative_uncertainty: float = 0.0
    """Of its lengths in mm, standard."""
    departure_share: float = 0.0
    """Of an outline, where a part may not be in it: standard uncertainty of a departure, as a share of it."""
    count_uncertainty: float = 0.0
    """Standard, of how many things there are."""


@dataclass(frozen=True, slots=True)
class Comparison:
    """What comes of comparing two descriptors, theirs and ours."""

    parts: Mapping[str, float]
    """Numbers, units in their names, each with its ``…_uncertainty`` where it has one."""
    overlay: tuple[Stroke, ...] = ()
    """What to draw on our photograph, in our descriptor's unit; ``radius_px`` as well."""


@dataclass(frozen=True, slots=True)
class Measurement:
    """A measured value with everything needed to doubt, draw, correct and repeat it."""

    value: float | int | str
    unit: str
    """One of ``assay.units.Unit``."""
    uncertainty: float
    """Standard uncertainty, same unit; 0 only where exact."""
    parts: Mapping[str, float] = field(default_factory=lambda: MappingProxyType({}))
    """Whatever else the measure saw, units in the names (``pitch_mm``)."""
    overlay: tuple[Stroke, ...] = ()
    doubts: tuple[str, ...] = ()
    descriptor: Descriptor | None = None
    """What comparing measures keep."""
    method: str = ""
    """Name and version of the measure, such as ``seam/1``; the registry's entry signs it."""


BASELINE = "baseline"
"""The label of the line that letters stand on: two pictures of print are shown with these at one height."""
CORRECTED_BY_HAND = "corrected_by_hand"
"""The doubt that a reading carries once a person has changed its points."""
CONFIRMED_BY_EYE = "confirmed_by_eye"
"""The note that a library pair's reading carries once a person has looked at it and stands by it."""
