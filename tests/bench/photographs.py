"""How true scale, colour and alignment are, and what a photograph costs, on simulated photographs with known truth.

CPU time, one thread. The yardstick of cost is merely decoding the same file with the fastest decoder.
"""

import time
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, field, replace

import cv2
import numpy as np
import simplejpeg
from skimage.color import deltaE_ciede2000

from assay.compare import colours
from assay.errors import AssayError
from assay.imaging import colour
from assay.imaging import white_balance as light
from assay.imaging.card import find_card
from assay.imaging.fitness import judge_fitness
from assay.imaging.foreground import find_foreground
from assay.imaging.opening import decode, preview, receive
from assay.imaging.plane import camera_model_of
from assay.imaging.pyramid import pyramid_of
from assay.register.affine import align
from assay.register.features import features_of
from assay.simulator.camera import Camera
from assay.simulator.court_shoe import CourtShoe, photograph
from assay.simulator.relief import Relief
from assay.simulator.runner import Runner, runner_from_side
from assay.simulator.scene import CardPlace, Scene, take
from assay.simulator.shading import Lamp, lamp_colour

CARDS, LIGHTS, PAIRS = 24, 24, 12
EMPTY = Scene((280.0, 210.0))
SHOE_AT, FRAME = (130.0, 138.0), (460.0, 345.0)
# Paints that are not on the card: leather whites, tans, suedes, rubbers.
PAINTS = ((226, 221, 209), (186, 146, 108), (150, 84, 58), (92, 112, 112), (96, 104, 60), (52, 60, 92), (48, 47, 46))


@dataclass
class Costs:
    """CPU seconds of each step of one photograph."""

    decode: float = 0.0
    steps: dict[str, float] = field(default_factory=dict)

    def timed(self, name, act, *given, **more):
        start = time.process_time()
        found = act(*given, **more)
        self.steps[name] = self.steps.get(name, 0.0) + time.process_time() - start
        return found


def scale_errors(job: tuple[int, tuple[float, float]]) -> float | None:
    """Largest error of the card's sides, as a share, for one tilt."""
    seed, (low, high) = job
    rng = np.random.default_rng([seed, 21])
    tilt, way = rng.uniform(low, high), rng.uniform(0, 2 * np.pi)
    camera = Camera(
        mm_per_px=0.12,
        tilt_deg=(tilt * np.cos(way), tilt * np.sin(way)),
        turn_deg=rng.uniform(-12, 12),
        noise=rng.uniform(0.006, 0.022),
        blur_px=rng.uniform(0.6, 1.8),
        uneven=rng.uniform(0, 0.3),
        lens=rng.uniform(-0.004, 0.004),
        exposure=rng.uniform(0.5, 1.2),
    )
    place = CardPlace((230.0, 172.0), rng.uniform(-8, 8), shadow=rng.choice([0.0, 0.0, 0.4]))
    relief = Relief((8.0, 8.0), camera.mm_per_px, rng)
    shot = take(relief, {}, Scene(FRAME, cards=(place,)), camera, Lamp(tint=lamp_colour(rng.uniform(2700, 7500))), rng)
    try:
        found = find_card(pyramid_of(decode(shot.jpeg)))
    except AssayError:
        return None
    corners = found.plane.to_mm(np.array(shot.truth["card"]["corners"]))
    sides = np.hypot(*(corners - np.roll(corners, 1, axis=0)).T)
    return float(np.abs(sides / np.array([148, 210, 148, 210]) - 1).max())


def colour_errors(seed: int) -> list[float]:
    """CIEDE2000 of paints beside the card, after correction; truth is what was painted."""
    rng = np.random.default_rng([seed, 22])
    camera = Camera(
        mm_per_px=0.22,
        exposure=0.62 * 2 ** rng.uniform(-1, 1),
        uneven=rng.uniform(0, 0.2),
        noise=rng.uniform(0.006, 0.014),
    )
    swatches = tuple((256.0, 22.0 + 26 * n, paint) for n, paint in enumerate(PAINTS))
    relief = Relief((8.0, 8.0), camera.mm_per_px, rng)
    scene = Scene((280.0, 210.0), cards=(CardPlace((122.0, 105.0)),), swatches=swatches)
    shot = take(relief, {}, scene, camera, Lamp(tint=lamp_colour(rng.uniform(2700, 7500))), rng)
    pyramid = pyramid_of(decode(shot.jpeg))
    plane = find_card(pyramid).plane
    found = light.correction_from_card(pyramid.rgb, plane)
    places = np.array([(x, y) for x, y, _ in swatches]) / camera.mm_per_px
    seen = [colours.spot_median(pyramid.rgb, (x / camera.mm_per_px, y / camera.mm_per_px), 12) for x, y, _ in swatches]
    plain = light.Correction(np.tile(colour.srgb_to_linear(np.arange(256)), (3, 1)), np.eye(3), 0.0, 0.0)
    return deltaE_ciede2000(found.lab(np.array(seen), places), plain.lab(np.array(PAINTS))).tolist()


def pair_of_photographs(job: tuple[str, int]):
    """A reference and another pair's photograph: other size, pose, faults, lamp. Errors in mm, and costs."""
    kind, seed = job
    cv2.setNumThreads(1)
    rng = np.random.default_rng([seed, 23])
    foot, size = ("left", "right")[seed % 2], rng.uniform(0.96, 1.04)
    scene = Scene(FRAME, SHOE_AT, ground_mm=310, cards=(CardPlace((138.0, 96.0), rng.uniform(-4, 4)),))
    camera = Camera(
        mm_per_px=0.13,
        tilt_deg=tuple(rng.uniform(-6, 6, 2)),
        turn_deg=rng.uniform(-3, 3),
        exposure=rng.uniform(0.8, 1.1),
        noise=rng.uniform(0.008, 0.016),
        lens=rng.uniform(-0.003, 0.003),
    )
    lamp = Lamp(azimuth_deg=rng.uniform(-150, -40), tint=lamp_colour(rng.uniform(2900, 7500)))
    plain = Camera(mm_per_px=0.13)
    if kind == "dense":
        camera = replace(plain, mm_per_px=0.115, noise=0.03, jpeg_quality=93)
    if kind in ("court", "dense"):
        faults = {"looseness": 1.6, "emblem_tilt_deg": rng.uniform(-3, 3)}
        take_it, first = photograph, CourtShoe(foot=foot, seed=1)
    else:
        faults = {"emblem_shift": tuple(rng.uniform(-1.5, 1.5, 2))}
        take_it, first = runner_from_side, Runner(foot=foot, seed=1)
    other = replace(first, seed=seed + 50, size=size, **faults)
    shots = take_it(first, plain, None, scene), take_it(other, camera, lamp, scene)
    ours, _ = _read(shots[0].jpeg)
    theirs, costs = _read(shots[1].jpeg)
    try:
        laid = costs.timed("align", align, ours, theirs)
    except AssayError:
        return kind, None, costs
    off = []
    for name, found in shots[1].truth.items():
        known = shots[0].truth[name]
        if "centres" in found and found["count"] == known["count"]:
            miss = laid.place(np.array(known["centres"])) - np.array(found["centres"])
            off.extend(np.hypot(*miss.T) * 0.13)
    return kind, off, costs


def _read(jpeg: bytes):
    costs = Costs()
    stored = costs.timed("open", receive, jpeg).stored
    start = time.process_time()
    simplejpeg.decode_jpeg(stored, colorspace="RGB")
    costs.decode = time.process_time() - start
    rgb = costs.timed("open", decode, stored)
    pyramid = costs.timed("open", pyramid_of, rgb)
    costs.timed("open", preview, pyramid)
    card = costs.timed("card", find_card, pyramid)
    foreground = costs.timed("fitness", find_foreground, pyramid, card.corners_px)
    costs.timed(
        "fitness", judge_fitness, pyramid, foreground, tilt_deg=card.plane.tilt_deg(camera_model_of(pyramid.size))
    )
    costs.timed("light", light.correction_from_card, rgb, card.plane)
    return costs.timed("align", features_of, pyramid, foreground), costs


def main(pool: ProcessPoolExecutor) -> None:
    """Print the tables."""
    print(f"\nscale by the bench card, {CARDS} simulated photographs a line (noise, blur, lens, casts, shadow)")
    for name, tilts in (("up to 20°", (0, 20)), ("20° to 40°", (20, 40))):
        errors = list(pool.map(scale_errors, [(seed, tilts) for seed in range(CARDS)]))
        found = [100 * e for e in errors if e is not None]
        lost = len(errors) - len(found)
        print(f"  {name:10}  median {np.median(found):.2f} %   largest {max(found):.2f} %   not found {lost}")
    off = [e for errors in pool.map(colour_errors, range(LIGHTS)) for e in errors]
    print(f"colour of {len(PAINTS)} paints beside the card, {LIGHTS} lights (2700–7500 K, ±1 EV, uneven)")
    print(f"  dE00 median {np.median(off):.2f}   95th percentile {np.percentile(off, 95):.2f}   largest {max(off):.2f}")
    jobs = [(kind, seed) for kind in ("court", "runner") for seed in range(PAIRS)]
    results = list(pool.map(pair_of_photographs, jobs))
    print(f"marks carried to another pair's photograph, {PAIRS} a line (size ±4 %, tilt, faults, other light)")
    for kind in ("court", "runner"):
        off = [e for k, found, _ in results if k == kind and found for e in found]
        lost = sum(found is None for k, found, _ in results if k == kind)
        high = np.percentile(off, 95)
        print(f"  {kind:10}  median {np.median(off):.2f} mm   95th percentile {high:.2f} mm   refused {lost}")
    _print_costs([costs for _, _, costs in results])


def _print_costs(all_costs: list[Costs]) -> None:
    """A ratio depends on how dear the decoding is: also on a noisy photograph of 12 MP, as phones make them."""
    dense = pair_of_photographs(("dense", 0))[2]
    for name, costs in (("9 MP, smooth", all_costs), ("12 MP, noisy", [dense])):
        _print_cost(name, costs)


def _print_cost(name: str, all_costs: list[Costs]) -> None:
    names = ("open", "card", "light", "fitness", "align")
    shares = [f"{n} {np.median([c.steps.get(n, 0.0) / c.decode for c in all_costs]):.2f}" for n in names]
    whole = np.median([sum(c.steps.values()) / c.decode for c in all_costs])
    seconds = np.median([sum(c.steps.values()) for c in all_costs])
    print(f"cost of a photograph ({name}) against merely decoding it: {', '.join(shares)}")
    print(f"  together {whole:.2f} × ({seconds:.2f} s CPU)")
