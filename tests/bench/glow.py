"""What glows under an ultraviolet lamp, on pictures drawn without the simulator, beside a threshold and its regions."""

import numpy as np
from skimage.filters import gaussian, threshold_otsu
from skimage.measure import label, regionprops

from assay.contracts import MarkKind, Marks, Picture
from assay.errors import CannotMeasure
from assay.surface.glow import glows_of
from assay.surface.region import region_of
from tests.bench import drawn_glow as drawn

EACH = 40
FIRST = 1000
"""Of the seeds: nothing was set by these."""


def main(pool) -> None:
    print(f"\nunder ultraviolet, drawn on no simulator: {EACH} pictures a line and as many clean ones")
    print("             F1 with class (baseline)  line  stamp  smear  panel | clean stays clean (baseline)  refused")
    for level in drawn.LOOKS:
        rows = list(pool.map(_one, [(level, FIRST + seed, False) for seed in range(EACH)], chunksize=4))
        clean = list(pool.map(_one, [(level, FIRST + seed, True) for seed in range(EACH)], chunksize=4))
        told = [row for row in rows if row[0] is not None]
        ours = sum((row[0] for row in told), np.zeros((4, 3)))
        plain = sum((row[1] for row in rows), np.zeros((4, 3)))
        stays = [not row[0][:, 1].sum() for row in clean if row[0] is not None]
        simple = [not row[1][:, 1].sum() for row in clean]
        print(
            f"{level:12} {_f1(ours.sum(0)):8.2f} ({_f1(plain.sum(0)):.2f}) {' ' * 7}"
            + "".join(f"{_f1(our):7.2f}" for our in ours)
            + f" | {np.mean(stays):10.2f} ({np.mean(simple):.2f}) {len(rows) - len(told):17}"
        )


def _f1(counts: np.ndarray) -> float:
    """Of hits, false ones, missed ones."""
    hit, false, missed = counts
    return 2 * hit / max(1, 2 * hit + false + missed)


def _one(job):
    level, seed, clean = job
    shown = drawn.picture(level, seed, clean=clean)
    height, width = shown.rgb.shape[:2]
    marks = Marks(MarkKind.REGION, ((2, 2), (width - 3, 2), (width - 3, height - 3), (2, height - 3)))
    try:
        lit = glows_of(region_of(Picture(shown.rgb, shown.mm_per_px), marks), shown.mm_per_px)
    except CannotMeasure:
        ours = None
    else:
        ours = _scored([(glow.form.value, glow.path + 2) for glow in lit.glows], shown.truth)
    return ours, _scored(_plain(shown), shown.truth)


def _scored(found: list, truth: list) -> np.ndarray:
    """(4, 3) hits, false, missed by form. A hit lies mostly on a thing of its own form that nothing hit before."""
    forms = ["line", "stamp", "smear", "panel"]
    table = np.zeros((4, 3))
    open_ = list(range(len(truth)))
    for form, path in found:
        at = np.round(path).astype(int)
        shares = {}
        for n in open_:
            mask = truth[n][1]
            where = np.clip(at, 0, np.array(mask.shape[::-1]) - 1)
            shares[n] = float(mask[where[:, 1], where[:, 0]].mean())
        best = max(shares, key=shares.get, default=None)
        if best is not None and shares[best] > 0.5 and truth[best][0] == form:
            table[forms.index(form), 0] += 1
            open_.remove(best)
        else:
            table[forms.index(form), 1] += 1
    for n in open_:
        table[forms.index(truth[n][0]), 2] += 1
    return table


def _plain(shown: drawn.Drawn) -> list:
    """Otsu's threshold on softened grey, regions sorted by size and eccentricity."""
    grey = gaussian(shown.rgb.mean(-1), 1.0)
    scale = shown.mm_per_px
    found = []
    for region in regionprops(label(grey > threshold_otsu(grey))):
        area, long, wide = region.area * scale**2, region.axis_major_length * scale, region.axis_minor_length * scale
        if area < 1.5:
            continue
        form = "smear"
        if area > 400:
            form = "panel"
        elif long > 18 and long > 6 * wide:
            form = "line"
        elif long < 20:
            form = "stamp"
        found.append((form, region.coords[:, ::-1]))
    return found
