"""The distance between two lines along their whole run: a seam and a panel's edge, or two edges.

A path is traced in the gap between them. The surroundings are straightened; on either side of the path the line whose
step in light is strongest along its whole run is followed by dynamic programming (as ``contour.trace`` does round a
shoe), to a fraction of a pixel. Lines that wander are measured where they wander. Refuses what shows no line.
"""

from types import MappingProxyType

import numpy as np
from scipy.ndimage import gaussian_filter, gaussian_filter1d, maximum_filter1d

from assay.contour.boundary import on_top
from assay.contracts import MarkKind, Marks, Measurement, Picture, Stroke, StrokeKind
from assay.errors import CannotMeasure
from assay.measure.entry import Measure
from assay.measure.sample import Sample, bar, canvas, exposed
from assay.numeric.viterbi import best_path, refined
from assay.stitches.strip import Straight, straighten

# Softening across and along the lines, px; what a sideways step costs; how far a line must rise over the scatter.
ACROSS_PX = 1.0
ALONG_PX = 16.0
STIFF = 0.25
CLEAR = 3.0
# A step this strong against the typical one is as good as any; and what one nearer to the gap takes from one behind it.
FIRM = 0.6
NEARER_WINS = 0.5
FLANK_PX = 4
# Nothing is looked for nearer to the traced path than this, px: the gap itself.
GAP_PX = 1.5
# Standard uncertainty of where a line lies, px: by drawn lines of known distance.
LINE_PX = 0.25
# Lines nearer than this touch, mm.
TOUCH_MM = 0.35


def measure(picture: Picture, marks: Marks) -> Measurement:
    """Measure between the two lines that run along a traced gap. Value: mean distance, mm (px without a scale).

    Parts: ``drift_mm``, how much it changes from end to end by a straight line; ``least_mm``, ``most_mm``, and the
    ``scatter_mm`` about that line. Raises CannotMeasure ``no_line_beside`` (side) or what the marks raise.
    """
    strip = straighten(picture, marks.checked(picture.size))
    light = np.sqrt(np.clip(strip.grey, 0, 255))
    steps = np.abs(gaussian_filter1d(gaussian_filter1d(light, ALONG_PX, axis=1), ACROSS_PX, axis=0, order=1))
    steps = steps[:, strip.start : strip.stop]
    middle = steps.shape[0] // 2
    gap = round(GAP_PX)
    upper = _line(steps[: middle - gap + 1][::-1], "one") + gap
    lower = _line(steps[middle + gap :], "other") + gap
    apart = upper + lower
    run = np.arange(len(apart)) - (len(apart) - 1) / 2
    slope, mean = np.polyfit(run, apart, 1)
    unit = picture.mm_per_px or 1.0
    name = "mm" if picture.mm_per_px else "px"
    numbers = {
        "mean": mean,
        "drift": slope * (len(apart) - 1),
        "least": float(np.percentile(apart, 2)),
        "most": float(np.percentile(apart, 98)),
        "scatter": float(np.std(apart - mean - slope * run)),
    }
    u = LINE_PX * np.sqrt(2) * unit
    parts = {f"{key}_{name}": float(value) * unit for key, value in numbers.items()}
    parts |= {f"{key}_{name}_uncertainty": float(u) for key in numbers}
    doubts = [*picture.doubts]
    if picture.mm_per_px and numbers["least"] * unit < TOUCH_MM:
        doubts.append("lines_touch")
    return Measurement(
        value=float(mean) * unit,
        unit=name,
        uncertainty=float(u),
        parts=MappingProxyType(parts),
        overlay=_drawn(strip, upper, lower),
        doubts=tuple(dict.fromkeys(doubts)),
    )


def _line(steps: np.ndarray, side: str) -> np.ndarray:
    """Distance of the strongest line from the gap, px, at every place along; row 0 lies nearest."""
    typical = float(np.median(steps.max(0))) + 1e-6
    firm = np.minimum(steps / (FIRM * typical), 1.0) + 0.1 * steps / typical
    # Of a thread's two flanks the nearer one is the line.
    peaks = np.where(firm >= maximum_filter1d(firm, 5, axis=0), firm, 0)
    nearer = np.pad(np.maximum.accumulate(peaks, axis=0)[:-FLANK_PX], ((FLANK_PX, 0), (0, 0)))
    rough = best_path((firm - NEARER_WINS * nearer).T, STIFF, closed=False)
    path = refined(steps.T, on_top(steps.T, rough, 2))
    rows = np.clip(np.round(path).astype(int), 0, steps.shape[0] - 1)
    on_line = float(np.median(steps[rows, np.arange(steps.shape[1])]))
    if on_line < CLEAR * float(np.median(gaussian_filter(steps, 1.0))) + 0.02:
        raise CannotMeasure("no_line_beside", side=side)
    return gaussian_filter1d(path, ALONG_PX / 2)


def _drawn(strip: Straight, upper: np.ndarray, lower: np.ndarray) -> tuple[Stroke, ...]:
    """Both lines, and the gap at its worst place."""
    path, normal = strip.path[strip.start : strip.stop], strip.normal[strip.start : strip.stop]
    one, other = path - normal * upper[:, None], path + normal * lower[:, None]
    apart = upper + lower
    worst = int(np.abs(apart - np.median(apart)).argmax())

    def line(points: np.ndarray) -> Stroke:
        return Stroke(StrokeKind.LINE, tuple((float(x), float(y)) for x, y in points))

    return line(one[::3]), line(other[::3]), line(np.array([one[worst], other[worst]]))


def _sample() -> Sample:
    """Two dark lines 24 px apart on light leather, 0.12 mm a pixel."""
    drawing = canvas(700, 160, (204, 198, 188))
    for y in (68, 92):
        bar(drawing, (0, y - 2, 700, y + 2), (60, 56, 54))
    return exposed(drawing, 0.12, [[30, 80], [350, 81], [670, 80]])


MEASURE = Measure(
    name="parallel",
    version=3,
    marks=MarkKind.PATH,
    measure=measure,
    same_on_each_photo=True,
    unit="mm",
    parts={"mean_mm": "mm", "drift_mm": "mm", "least_mm": "mm", "most_mm": "mm", "scatter_mm": "mm"},
    follows_marks=True,
    coarsest_mm_per_px=0.22,
    misread=(1, 832),
    refuses=frozenset({"no_line_beside"}),
    sample=_sample,
)
