"""What is known of one photograph: its scale, its light, whether it will do, what it shows. Frozen, stored as JSON."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from typing import Any, ClassVar

import numpy as np

from assay.contracts import Light, Point
from assay.imaging.fitness import Fit, Fitness
from assay.imaging.plane import CameraModel, Corners, Plane
from assay.imaging.white_balance import Correction, Falloff
from assay.pipeline.stored import Stored

Row = tuple[float, ...]
CARDS = frozenset({"card", "id1"})
"""Sources whose rectangle is a card in the picture; any other may be the shoe itself, or lie round it."""
DISAGREES = "scale_disagrees"
"""The doubt of a scale that makes the shoe another size than retail's."""


@dataclass(frozen=True, slots=True)
class Scale(Stored):
    """Where the scale of a photograph comes from, and the plane it holds in; or why there is none."""

    json_names: ClassVar = {
        "relative_uncertainty": "relative",
        "corners_px": "corners",
        "corners_mm": "corner_mm",
        "corner_uncertainty_px": "corner_off_px",
        "height_mm": "above_mm",
        "height_uncertainty_mm": "above_unknown_mm",
    }
    source: str | None = None
    """``card``, ``id1``, ``rectangle``, ``two_points`` or ``stand``."""
    matrix: tuple[Row, ...] | None = None
    """(3, 3) from mm on the plane to px."""
    relative_uncertainty: float | None = None
    """Of its lengths, standard."""
    corners_px: tuple[tuple[float, float], ...] | None = None
    """Of the card or rectangle."""
    corners_mm: tuple[tuple[float, float], ...] | None = None
    """The same on the plane, where the scale rests on four clicks alone."""
    corner_uncertainty_px: float | None = None
    """Of one click, standard."""
    tilt_deg: float | None = None
    doubts: tuple[str, ...] | None = None
    bar_mm: float | None = None
    """What the check bar of the printed card measures."""
    height_mm: float | None = None
    """How far the measured surface lies above the plane, as a person said."""
    height_uncertainty_mm: float | None = None
    too_long_by: float | None = None
    """How many times as long as it should be the shoe is by this scale, where retail's disagrees."""
    refusal: str | None = None
    """Why no card was found."""

    @property
    def is_known(self) -> bool:
        """Whether lengths can be read."""
        return self.matrix is not None

    @property
    def card_px(self) -> tuple[tuple[float, float], ...]:
        """Corners of a card that lies in the picture, px."""
        return (self.corners_px or ()) if self.source in CARDS else ()

    def plane(self) -> Plane | None:
        """The plane that the scale was read in, mm to px; None without one."""
        if self.matrix is None:
            return None
        corners = None
        if self.corners_mm is not None:
            click_px = self.corner_uncertainty_px or 0.0
            corners = Corners(np.array(self.corners_mm, float), np.array(self.corners_px, float), click_px)
        return Plane(np.array(self.matrix), self.relative_uncertainty or 0.0, self.source or "", corners)

    def surface(self, camera: CameraModel, unknown_mm: float) -> Plane | None:
        """The surface that is measured: the plane moved by the height that a person gave; None without a scale.

        ``unknown_mm``: how unsure the height is where nobody gave one, standard.
        """
        own = self.plane()
        above = self.height_mm or 0.0
        unknown = unknown_mm if self.height_uncertainty_mm is None else self.height_uncertainty_mm
        return own.raised(above, camera, unknown_mm=unknown) if own is not None and (above or unknown) else own

    def measuring_surface(self, camera: CameraModel, unknown_mm: float) -> Plane | None:
        """The same, as unsure as it is where it disagrees with retail's: nobody knows yet which of them is right."""
        own, apart = self.surface(camera, unknown_mm), abs(float(np.log(self.too_long_by or 1.0)))
        if own is None or not apart:
            return own
        return replace(own, relative_uncertainty=float(np.hypot(own.relative_uncertainty, apart)))

    def height_that_agrees(self, camera: CameraModel) -> float | None:
        """How far above the card the measured side lies, mm, if that is why the scale disagrees, else None."""
        own = self.plane()
        if self.too_long_by is None or own is None:
            return None
        return own.height_for(self.too_long_by, camera) + (self.height_mm or 0.0)

    def disagreeing(self, too_long_by: float | None) -> "Scale":
        """The same beside retail's: ``None`` where the two agree or cannot be compared."""
        doubts = tuple(doubt for doubt in self.doubts or () if doubt != DISAGREES)
        return replace(self, too_long_by=too_long_by, doubts=doubts if too_long_by is None else (*doubts, DISAGREES))


def scale_of(plane: Plane, camera: CameraModel, corners_px: np.ndarray | Sequence[Point] = ()) -> Scale:
    """A plane that a person's points or a card gave, as it is kept."""
    corners = plane.corners
    return Scale(
        source=plane.source,
        matrix=rows_of(plane.matrix),
        relative_uncertainty=plane.relative_uncertainty,
        corners_px=rows_of(np.round(np.asarray(corners_px, float).reshape(-1, 2), 1)),
        doubts=(),
        corners_mm=None if corners is None else rows_of(corners.mm),
        corner_uncertainty_px=None if corners is None else corners.off_px,
        tilt_deg=None if plane.source == "two_points" else round(plane.tilt_deg(camera), 1),
    )


@dataclass(frozen=True, slots=True)
class PhotoLight(Stored):
    """How the colours of a photograph become true, or why they do not."""

    json_names: ClassVar = {"falloff": "fall"}
    curves: tuple[Row, ...] | None = None
    """(3, 256) linear light of each 8-bit value of each channel."""
    matrix: tuple[Row, ...] | None = None
    """(3, 3) applied to linear light."""
    residual_de00: float | None = None
    uneven: float | None = None
    """Share by which the light differs over the card."""
    doubts: tuple[str, ...] | None = None
    falloff: tuple[float, float, float] | tuple[()] | None = None
    """Terms of the light's fall over the picture; empty: even."""
    middle_px: tuple[float, float] | tuple[()] | None = None
    light: str | None = None
    """One of ``Light``."""
    neutral_px: tuple[float, float] | None = None
    """Where a person clicked on a neutral part."""
    refusal: str | None = None

    @property
    def is_true(self) -> bool:
        """Whether colours can be."""
        return self.matrix is not None

    def correction(self, size: tuple[int, int]) -> Correction | None:
        """What corrects a picture of this width and height; None where nothing does."""
        if self.matrix is None:
            return None
        return Correction(
            np.array(self.curves),
            np.array(self.matrix),
            self.residual_de00 or 0.0,
            self.uneven or 0.0,
            self.doubts or (),
            Falloff(size, self.falloff, self.middle_px) if self.falloff and self.middle_px else None,
            Light(self.light or Light.CARD),
        )

    @classmethod
    def of(cls, found: Correction, neutral_px: tuple[float, float] | None = None) -> "PhotoLight":
        """A correction as it is kept."""
        return cls(
            curves=rows_of(np.round(found.curves, 5)),
            matrix=rows_of(np.round(found.matrix, 5)),
            residual_de00=found.residual_de00,
            uneven=found.uneven,
            doubts=tuple(found.doubts),
            falloff=_rounded(found.falloff.terms, 5) if found.falloff else (),
            middle_px=_rounded(found.falloff.middle_px, 1) if found.falloff else (),
            light=found.light.value,
            neutral_px=neutral_px and _rounded(neutral_px, 1),
        )


@dataclass(frozen=True, slots=True)
class PhotoFitness(Stored):
    """Whether a photograph will do; empty before it was read."""

    verdict: str | None = None
    """One of ``Fitness``."""
    doubts: tuple[str, ...] | None = None
    retake: tuple[str, ...] | None = None
    """Why it should be taken again."""
    numbers: dict[str, float] | None = None

    @classmethod
    def of(cls, fit: Fit, known_doubts: Iterable[str] = ()) -> "PhotoFitness":
        """A judgement as it is kept, with doubts that came from elsewhere."""
        bare = cls(fit.fitness.value, (), tuple(fit.retake), dict(fit.numbers))
        return bare.doubted((*known_doubts, *fit.doubts))

    def to_retake(self, why: str) -> "PhotoFitness":
        """The same, to be taken again for one more reason."""
        return replace(self, verdict=Fitness.RETAKE.value, retake=(why, *(self.retake or ())))

    def doubted(self, doubts: Iterable[str]) -> "PhotoFitness":
        """The same with further doubts in front."""
        doubts = (*doubts, *(self.doubts or ()))
        usable = self.verdict == Fitness.USABLE and not doubts
        verdict = self.verdict if usable or self.verdict != Fitness.USABLE else Fitness.DOUBTS.value
        return replace(self, verdict=verdict, doubts=doubts)

    @property
    def reasons(self) -> tuple[str, ...]:
        """Codes of everything that speaks against it, the gravest first."""
        return (*(self.retake or ()), *(self.doubts or ()))


@dataclass(frozen=True, slots=True)
class Sorting(Stored):
    """What a photograph seems to show, and where the shoe or part lies in it; or why the file cannot be read."""

    how: str | None = None
    """As ``assay.imaging.view.Guess`` has it."""
    matches: int | None = None
    between: tuple[tuple[str, str], ...] | None = None
    """(view, foot) that explain it almost equally, best first."""
    mirrored: bool | None = None
    """A view without left and right that it shows mirrored."""
    view: str | None = None
    foot: str | None = None
    assumed: bool | None = None
    """Left and right look alike from there, and one of them alone is known."""
    box: tuple[int, int, int, int] | None = None
    """x, y, width, height in px of what stands out."""
    found: bool | None = None
    """Whether anything stands out."""
    ultraviolet: bool | None = None
    refusal: str | None = None

    @property
    def place(self) -> tuple[str, str] | None:
        """View and foot; None where it is not sure enough."""
        return None if self.view is None else (self.view, self.foot or "")


def _rounded(numbers: Iterable[float], digits: int) -> Any:  # noqa: ANN401 - a tuple as long as it was
    return tuple(round(number, digits) for number in numbers)


def rows_of(array: np.ndarray) -> tuple[Any, ...]:
    """The rows of a table as plain lists of numbers."""
    return tuple(np.asarray(array).tolist())
