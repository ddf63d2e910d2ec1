"""Lines of print on a photograph of a label or tag, behind an interface of our own.

Reads with RapidOCR (Apache-2.0, its wheel ships its models) on ONNX Runtime where both are installed; without them
nothing is read and people type. The lines are sought on a small copy and read off the photograph itself, turned level,
twice with other room round them: a line is sure where both agree. The engine takes about 0.3 GB of memory, so it is
loaded when first wanted and only in workers.
"""

from dataclasses import dataclass
from functools import cache
from importlib.util import find_spec
from typing import Any, Protocol

import cv2
import numpy as np
from scipy.sparse.csgraph import connected_components

from assay.contracts import Point
from assay.errors import AssayError

SMALL_PX = 736
"""Longest side of the copy on which lines are sought."""
FINE_ENOUGH = 3.0
"""Shrunk by more, small print comes in pieces, and lines are sought again where most were found:"""
TOGETHER = 9.0
"""lines whose middles lie within so many line heights stand together."""
ROOMS = ((0.35, 0.12), (0.8, 0.3))
"""Each line is read twice: with so much room at its ends, and above and below it, of its height."""
AROUND = (1.5, 0.2)
"""Room in which glare is looked for, in the same way."""
GLARE, GLARING = 250, (0.02, 0.9)
"""So bright, paper glares, if no more than the second share of the line's length is as bright; from the first share on
letters may be gone."""
LINE_PX = 48
"""Height of a line as it is read."""
DISAGREED = 0.6
"""The most that a line is sure which two readings have differently."""
LEAST_CONFIDENCE = 0.5
"""A line that is read less surely is taken for texture."""
THREADS = 1


@dataclass(frozen=True, slots=True)
class PrintLine:
    """One line of print."""

    text: str
    confidence: float
    """0 to 1, the engine's own: how sure it is of its worst letters on average."""
    corners: tuple[Point, ...]
    """Four, from the upper left clockwise as the line reads, px of the photograph."""


class Engine(Protocol):
    """What reads. Pictures are (H, W, 3) uint8 RGB."""

    def find(self, rgb: np.ndarray) -> np.ndarray:
        """(N, 4, 2) corners of lines, px: from the upper left clockwise as they read."""

    def read(self, line: np.ndarray) -> tuple[str, float]:
        """The words of one level line and how sure they are, 0 to 1."""


def is_installed() -> bool:
    """Whether print can be read here."""
    return find_spec("rapidocr") is not None and find_spec("onnxruntime") is not None


def read_print(rgb: np.ndarray, engine: Engine | None = None) -> tuple[PrintLine, ...]:
    """Every line of print, from top to bottom. ``rgb``: (H, W, 3) uint8. Raises AssayError ``no_print_reader``."""
    engine = engine or _engine()
    small, shrink = _at_most(rgb, SMALL_PX)
    found = shrink * engine.find(small)
    if shrink > FINE_ENOUGH and len(found):
        found = _found_closer(rgb, found, engine)
    lines = [_read_twice(rgb, corners, engine) for corners in found]
    kept = [line for line in lines if line.confidence >= LEAST_CONFIDENCE and line.text.strip()]
    return tuple(sorted(kept, key=lambda one: (one.corners[0][1], one.corners[0][0])))


def _found_closer(rgb: np.ndarray, found: np.ndarray, engine: Engine) -> np.ndarray:
    """(N, 4, 2) lines sought again in the crop where most of them stand together: small ones came in pieces."""
    middles, tall = found.mean(1), float(np.median(np.hypot(*(found[:, 3] - found[:, 0]).T)))
    apart = np.hypot(*(middles[:, None] - middles[None]).transpose(2, 0, 1))
    near, labels = connected_components(apart < TOGETHER * tall)
    most = np.bincount(labels, minlength=near).argmax()
    corners = found[labels == most].reshape(-1, 2)
    left, top = np.maximum(0, np.floor(corners.min(0) - TOGETHER / 2 * tall)).astype(int)
    right, bottom = np.ceil(corners.max(0) + TOGETHER / 2 * tall).astype(int) + 1
    crop, shrink = _at_most(rgb[top:bottom, left:right], SMALL_PX)
    return shrink * engine.find(crop) + [left, top]


def _read_twice(rgb: np.ndarray, corners: np.ndarray, engine: Engine) -> PrintLine:
    """The line, sure only where both readings have the same signs and nothing glares beside it: an engine is sure of a
    line that is cut off."""
    (text, sure), (again, sure_too) = (engine.read(_level(rgb, corners, *room)) for room in ROOMS)
    same = _signs(text) == _signs(again) and not _glares(_level(rgb, corners, *AROUND))
    sure = min(sure, sure_too) if same else min(sure, sure_too, DISAGREED)
    longer = max(text, again, key=len)
    return PrintLine(longer, sure, tuple((float(x), float(y)) for x, y in corners))


def _level(rgb: np.ndarray, corners: np.ndarray, ends: float, above: float) -> np.ndarray:
    """(LINE_PX, W, 3) the line turned level, with room round it in shares of its height."""
    along, down = corners[1] - corners[0], corners[3] - corners[0]
    long, tall = float(np.hypot(*along)), max(float(np.hypot(*down)), 1.0)
    side, up = along / max(long, 1.0) * ends * tall, down * above
    wanted = corners + np.array([-side - up, side - up, side + up, -side + up])
    height = LINE_PX
    width = max(height, round(height * (long + 2 * ends * tall) / (tall * (1 + 2 * above))))
    target = np.array([[0, 0], [width, 0], [width, height], [0, height]], np.float32)
    matrix = cv2.getPerspectiveTransform(wanted.astype(np.float32), target)
    return cv2.warpPerspective(rgb, matrix, (width, height), flags=cv2.INTER_AREA, borderMode=cv2.BORDER_REPLICATE)


def _glares(line: np.ndarray) -> bool:
    """Whether a part of a level line (H, W, 3) is burnt out: print there is gone without a trace."""
    burnt = (np.median(line.min(2), axis=0) >= GLARE).mean()
    return bool(GLARING[0] < burnt < GLARING[1])


def _signs(text: str) -> str:
    """What counts when two readings are compared."""
    return "".join(sign for sign in text.upper() if sign.isalnum() or sign in "./")


def _at_most(rgb: np.ndarray, longest: int) -> tuple[np.ndarray, float]:
    """The picture with its longer side no longer than that, and by what it was shrunk."""
    shrink = max(1.0, max(rgb.shape[:2]) / longest)
    if shrink == 1.0:
        return rgb, 1.0
    size = tuple(round(side / shrink) for side in rgb.shape[1::-1])
    return cv2.resize(rgb, size, interpolation=cv2.INTER_AREA), shrink


@cache
def _engine() -> Engine:
    if not is_installed():
        raise AssayError("no_print_reader")
    import logging  # noqa: PLC0415  only where the engine is wanted

    from rapidocr import RapidOCR  # noqa: PLC0415  loads for a second and 0.4 GB

    logging.getLogger("RapidOCR").setLevel(logging.WARNING)
    threads = {"intra_op_num_threads": THREADS, "inter_op_num_threads": THREADS}
    params: dict[str, Any] = {f"EngineConfig.onnxruntime.{name}": count for name, count in threads.items()}
    # Pictures come at the right size: the detector does not enlarge them.
    params |= {"Global.log_level": "error", "Det.limit_type": "max", "Det.limit_side_len": SMALL_PX}
    return _RapidOcr(RapidOCR(params=params))


class _RapidOcr:
    def __init__(self, engine: Any) -> None:  # noqa: ANN401 - a class of a package that need not be installed
        self._engine = engine

    def find(self, rgb: np.ndarray) -> np.ndarray:
        found = self._engine(cv2.cvtColor(rgb, cv2.COLOR_RGB2BGR), use_det=True, use_cls=False, use_rec=False)
        return np.zeros((0, 4, 2)) if found is None or found.boxes is None else np.asarray(found.boxes, float)

    def read(self, line: np.ndarray) -> tuple[str, float]:
        found = self._engine(cv2.cvtColor(line, cv2.COLOR_RGB2BGR), use_det=False, use_cls=False, use_rec=True)
        if found is None or not found.txts:
            return "", 0.0
        return str(found.txts[0]), float(found.scores[0])
