"""The size tag inside the shoe. All lengths in mm."""

from dataclasses import dataclass

import numpy as np

from assay.simulator.camera import Camera
from assay.simulator.materials import LEATHER, TEXTILE, Material
from assay.simulator.printing import Type, bars, write
from assay.simulator.relief import Relief, Thread
from assay.simulator.scene import Scene, Shot, take
from assay.simulator.shading import Lamp

TAG_FRAME = (84.0, 63.0)


@dataclass(frozen=True, slots=True)
class Tag:
    """What stands on a size tag."""

    style_code: str = "VQ-44127-B"
    sizes: str = "US 9.5  EU 43"
    made: str = "02/24 TO 04/24"
    serial: str = "204417"
    factory: str = "QL-7"
    gtin: str = "2004412709505"
    letter_mm: float = 2.9
    weight: int = 560
    down_mm: float = 0.0
    """Sewn on so much further from the collar."""
    seed: int = 1


def size_tag(tag: Tag, camera: Camera, lamp: Lamp | None = None, scene: Scene | None = None) -> Shot:
    """The tag inside the tongue. Truth: the tag, and the style code's line."""
    rng = np.random.default_rng([tag.seed, 5])
    relief = Relief(TAG_FRAME, camera.mm_per_px, rng)
    relief.skin(np.ones(relief.shape, np.float32), TEXTILE.coloured((188, 184, 174)))
    band = LEATHER.coloured((214, 210, 197))
    relief.panel(np.array([[0, -2], [84, -2], [84, 7], [0, 8]]), band, 1.6)
    cloth = Material("weave", (236, 236, 232), grain_mm=0.28, depth_mm=0.012, gloss=0.07, shininess=16)
    box = np.array([[16, 12], [68, 12], [68, 52], [16, 52]]) + rng.normal(0, 0.4, 2) + [0, tag.down_mm]
    relief.panel(box, cloth, 0.5, edge_mm=0.4)
    x, y = box[0]

    def line(at: float, words: str, size: float) -> np.ndarray:
        return write(relief, (x + 4, y + at), words, Type(tag.letter_mm * size, tag.weight))

    line(4, tag.sizes, 1)
    code = line(10.5, tag.style_code, 1.25)
    line(19.5, f"MADE {tag.made}", 0.62)
    line(25.5, f"{tag.factory} {tag.serial}", 1)
    bars(relief, (x + 6, y + 32), tag.gtin, 0.3, 5.0)
    for stitched in (box[[0, 1]] + [0, 1.2], box[[3, 2]] - [0, 1.2]):
        row = np.linspace(stitched[0] + [1, 0], stitched[1] - [1, 0], 60)
        relief.sew(row, 22, Thread((212, 210, 204), width_mm=0.5))
    return take(relief, {"tag": box, "code": code}, scene or Scene(TAG_FRAME), camera, lamp or Lamp(), rng)
