"""Simulated benches to test with: a card on an empty table, and whatever ails it."""

from functools import cache

import numpy as np

from assay.imaging.opening import decode
from assay.imaging.pyramid import Pyramid, pyramid_of
from assay.simulator.camera import Camera
from assay.simulator.relief import Relief
from assay.simulator.scene import CardPlace, Scene, take
from assay.simulator.shading import Lamp

FRAME = (280.0, 210.0)
MIDDLE = (140.0, 105.0)


@cache
def card_bench(camera: Camera, cards: tuple = (CardPlace(MIDDLE),), lamp: Lamp | None = None, swatches: tuple = ()):
    """A picture of a card lying on a table, and its truth."""
    rng = np.random.default_rng(5)
    relief = Relief((10.0, 10.0), camera.mm_per_px, rng)
    shot = take(relief, {}, Scene(FRAME, cards=cards, swatches=swatches), camera, lamp or Lamp(), rng)
    return pyramid_of(decode(shot.jpeg)), shot.truth


def flat_pyramid(level: int = 120, size: tuple[int, int] = (900, 1200)) -> Pyramid:
    """Nothing but ground."""
    return pyramid_of(np.full((*size, 3), level, np.uint8))
