"""The box: the end with its label, and the inside of the lid. All lengths in mm."""

from dataclasses import dataclass, field
from typing import Any

import numpy as np

from assay.simulator.camera import Camera
from assay.simulator.materials import Material, Rgb
from assay.simulator.printing import Type, bars, write
from assay.simulator.relief import Relief
from assay.simulator.scene import Scene, Shot, take
from assay.simulator.shading import Lamp
from assay.simulator.ultraviolet import UnderUv, fluoresce

BOX_FRAME = (300.0, 150.0)
LID_FRAME = (300.0, 190.0)
BOARD = Material("rubber", (168, 150, 122), grain_mm=0.5, depth_mm=0.01, gloss=0.04, shininess=9, mottle=0.04)
PAPER = Material("rubber", (240, 239, 233), grain_mm=0.3, depth_mm=0.003, gloss=0.05, shininess=12, mottle=0.01)
FACE = np.array([[22, 44], [278, 44], [278, 142], [22, 142]], float)
PENNANT = ((40, 92), (104, 108), (94, 94), (108, 82), (74, 78), (37, 73))
STAIR = ((42, 108), (42, 96), (60, 96), (60, 86), (78, 86), (78, 76), (96, 76), (96, 108))


@dataclass(frozen=True, slots=True)
class Label:
    """What stands on the box label, and how it is made."""

    model: str = "QUAYSIDE LOW"
    colour: str = "BRACKISH/BUOY-CHALK"
    style_code: str = "VQ-44127-B"
    sizes: str = "US 9.5 UK 8.5 EU 43 CM 27.5"
    gtin: str = "2004412709505"
    price: str = ""
    """On the tab, where the region has one."""
    letters: Type = field(default_factory=lambda: Type(6.2))
    """Of the style code; the other lines follow it."""
    width_mm: float = 104.0
    """To the perforation."""
    height_mm: float = 60.0
    tab_mm: float = 0.0
    """Price tab beyond the perforation; 0: none."""
    border_mm: float = 0.0
    """A printed frame that retail labels do not have."""
    left_mm: float = 118.0
    """From the box's left edge to the label's."""
    inlay: bool = False
    """A faint shape of a radio inlay shows through."""


@dataclass(frozen=True, slots=True)
class Box:
    """Board, print and stamp."""

    label: Label = field(default_factory=Label)
    board: Rgb = (96, 112, 116)
    lid: Rgb = (96, 112, 116)
    gloss: float = 0.04
    emblem: tuple[Any, ...] = PENNANT
    emblem_shift_mm: tuple[float, float] = (0.0, 0.0)
    stamp: str = "L4 0217"
    """Inked inside the lid; empty: none."""
    stamp_mm: tuple[float, float] = (196.0, 128.0)
    sheet: bool = True
    """Anti-mould sticker inside the lid."""
    under_uv: UnderUv = field(default_factory=UnderUv)
    seed: int = 1


def box_end(box: Box, camera: Camera, lamp: Lamp | None = None, scene: Scene | None = None) -> Shot:
    """The short side with its label. Truth: label, perforation, code line, bars, face."""
    rng = np.random.default_rng([box.seed, 6])
    relief = Relief(BOX_FRAME, camera.mm_per_px, rng)
    _faces(relief, box)
    features = {"face": FACE, **_label(relief, box.label, rng)}
    flag = np.array(box.emblem, float) + np.asarray(box.emblem_shift_mm)
    relief.panel(flag, BOARD.coloured((226, 222, 210)), 0.1, edge_mm=0.3)
    return take(relief, features, scene or Scene(BOX_FRAME), camera, lamp or Lamp(), rng)


def box_lid(box: Box, camera: Camera, lamp: Lamp | None = None, scene: Scene | None = None) -> Shot:
    """The inside of the lid, with stamp and anti-mould sticker. Truth: the stamp's line."""
    rng = np.random.default_rng([box.seed, 7])
    relief = Relief(LID_FRAME, camera.mm_per_px, rng)
    relief.panel(np.array([[14, 12], [286, 12], [286, 178], [14, 178]]), BOARD.coloured((178, 164, 140)), 3.0)
    relief.panel(np.array([[22, 20], [278, 20], [278, 170], [22, 170]]), BOARD.coloured((190, 177, 153)), -2.0)
    features = {}
    if box.sheet:
        middle = np.array([70.0, 66.0]) + rng.normal(0, 1.2, 2)
        sticker = middle + np.array([[-15, -15], [15, -15], [15, 15], [-15, 15]])
        relief.panel(sticker, PAPER.coloured((214, 226, 214)), 0.1, edge_mm=0.2)
        write(relief, tuple(middle - [11, 6]), "KEEP DRY", Type(2.6))
        features["sheet"] = sticker
    if box.stamp:
        features["stamp"] = write(relief, box.stamp_mm, box.stamp, Type(4.6, 480), 0.55)
    if lamp and lamp.excites:
        fluoresce(relief, box.under_uv, np.random.default_rng([box.seed, 92]), stamp_at=(236.0, 48.0))
    return take(relief, features, scene or Scene(LID_FRAME), camera, lamp or Lamp(), rng)


def _faces(relief: Relief, box: Box) -> None:
    board = Material("rubber", box.board, 0.5, 0.01, box.gloss, 9, 0.04)
    relief.panel(FACE, board, 4.0, edge_mm=0.8)
    lid = board.coloured(box.lid)
    relief.panel(np.array([[18, 8], [282, 8], [282, 48], [18, 48]]), lid, 6.5, edge_mm=0.8)


def _label(relief: Relief, label: Label, rng: np.random.Generator) -> dict[str, np.ndarray]:
    left, top = FACE[0, 0] + label.left_mm + rng.normal(0, 0.25), 62.0 + rng.normal(0, 0.4)
    bottom, tear = top + label.height_mm, left + label.width_mm
    right = tear + label.tab_mm
    sheet = np.array([[left, top], [right, top], [right, bottom], [left, bottom]])
    # A filled polygon comes out half a pixel larger on every side.
    inset = np.array([[1, 1], [-1, 1], [-1, -1], [1, -1]]) * relief.mm_per_px / 2
    relief.panel(sheet + inset, PAPER, 0.15, edge_mm=0.2)
    if label.inlay:
        coil = np.array([[left + 58, top + 36], [left + 98, top + 36], [left + 98, top + 56], [left + 58, top + 56]])
        relief.albedo *= 1 - 0.035 * relief.mask(coil)[..., None]
    if label.border_mm:
        inner = sheet + np.array([[1, 1], [-1, 1], [-1, -1], [1, -1]]) * label.border_mm
        relief.albedo *= 1 - 0.8 * np.clip(relief.mask(sheet) - relief.mask(inner), 0, 1)[..., None]
    big = label.letters
    small = Type(big.letter_mm * 0.66, big.weight, big.tracking_mm * 0.66)
    tiny = Type(big.letter_mm * 0.56, big.weight, big.tracking_mm * 0.56)
    x = left + 5
    write(relief, (x, top + 3.5), label.model, small)
    write(relief, (x, top + 10), label.colour, tiny)
    code = write(relief, (x, top + 15), label.style_code, big)
    write(relief, (x, top + 26), label.sizes, tiny)
    symbol = bars(relief, (x + 4, top + 34), label.gtin, 0.45, 17.0)
    write(relief, (x + 4, top + 52), _spaced(label.gtin), Type(2.9, 480))
    features = {"label": sheet, "code": code, "bars": symbol}
    if label.tab_mm:
        for y in np.arange(top + 0.7, bottom, 1.4):
            relief.punch(np.array([tear, y]), 0.75, depth_mm=0.3, inside=(120, 116, 108))
        if label.price:
            write(relief, (tear + 1.4, top + 25), label.price, Type(2.2))
        features["perforation"] = np.array([[tear, top], [tear, bottom]])
    return features


def _spaced(digits: str) -> str:
    return f"{digits[0]} {digits[1:7]} {digits[7:]}"
