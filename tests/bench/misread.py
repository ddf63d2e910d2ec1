"""How often print is misread: labels drawn in ten faces, five sizes and six conditions, read as the application reads.

Tesseract, where it is installed (Debian's package), reads the same pictures in the same run; its words become fields by
the same formats. A field is wrong and sure where it is offered and not what stands there.
"""

import csv
import io
import shutil
import subprocess
import time
from collections import Counter
from collections.abc import Sequence
from concurrent.futures import Executor
from dataclasses import dataclass, field

import cv2
import numpy as np
from PIL import Image, ImageDraw, ImageFont

from assay.paperwork.found import Known
from assay.paperwork.print_fields import TAG_LEFT, fields_of
from assay.paperwork.print_reader import PrintLine, is_installed, read_print
from assay.paperwork.sizes import chart_from_csv

FACES = (
    *("DejaVuSans", "DejaVuSans-Bold", "DejaVuSansMono", "DejaVuSansCondensed", "DejaVuSerif"),
    *("LiberationSans-Regular", "LiberationSansNarrow-Bold", "LiberationMono-Regular", "LiberationSerif-Regular"),
    "LiberationSerif-Bold",
)
CAPITALS_PX = (15, 20, 30, 45, 60)
CONDITIONS = ("clean", "blurred", "tilted", "glossy", "light on dark", "worn")
FACTORIES = ("QL-7", "VH-2")
CHART = chart_from_csv(
    "group,US,EU,CM\n" + "\n".join(f"men,{n / 2:g},{n / 2 + 33.5:g},{n / 2 + 18:g}" for n in range(14, 25))
)
KNOWN = Known(style_code_mask="AA-99999-A", date_order="MDY", factory_codes=FACTORIES, charts=(CHART,))
# Capitals are about so much of a face's size.
CAPITAL = 0.72


@dataclass
class Tally:
    """What came of one condition's labels, by one reader."""

    signs: int = 0
    signs_off: int = 0
    outcomes: Counter = field(default_factory=Counter)
    seconds: list[float] = field(default_factory=list)


def truth_of(seed: int) -> dict[str, str]:
    """What stands on a tag, by place."""
    rng = np.random.default_rng([seed, 41])
    digits = lambda count: "".join(str(n) for n in rng.integers(0, 10, count))  # noqa: E731
    us = int(rng.integers(14, 25)) / 2
    return {
        "tag.style_code": f"{''.join(rng.choice(list('ABDGIOQSVZ'), 2))}-{digits(5)}-{rng.choice(list('ABDGIOSZ'))}",
        "tag.sizes": f"US {us:g}  EU {us + 33.5:g}  CM {us + 18:g}",
        "tag.made": f"0{rng.integers(1, 5)}/24 TO 0{rng.integers(5, 10)}/24",
        "tag.factory": str(rng.choice(FACTORIES)),
        "tag.serial_left": digits(6),
    }


def lines_of(truth: dict[str, str]) -> list[str]:
    """The lines of the tag."""
    last = f"{truth['tag.factory']} {truth['tag.serial_left']}"
    return [truth["tag.sizes"].replace("  ", " "), truth["tag.style_code"], truth["tag.made"], last]


def drawn(lines: Sequence[str], face: str, capital_px: int, condition: str, seed: int) -> np.ndarray:
    """(H, W, 3) uint8: a tag under one condition, as a camera sees it."""
    rng = np.random.default_rng([seed, capital_px, CONDITIONS.index(condition)])
    font = ImageFont.truetype(f"{face}.ttf", round(capital_px / CAPITAL))
    wide = max(font.getlength(line) for line in lines)
    size = (round(wide + 6 * capital_px), round(capital_px * (1.9 * len(lines) + 4)))
    paper, ink = ((34, 36, 40), (222, 220, 214)) if condition == "light on dark" else ((226, 224, 216), (42, 40, 44))
    page = Image.new("RGB", size, paper)
    pen = ImageDraw.Draw(page)
    for n, line in enumerate(lines):
        pen.text((3 * capital_px, capital_px * (2 + 1.9 * n)), line, font=font, fill=ink)
    seen = np.asarray(page).astype(np.float32)
    if condition == "worn":
        specks = cv2.GaussianBlur(rng.normal(size=seen.shape[:2]).astype(np.float32), (0, 0), capital_px / 12)
        gone = (specks > np.quantile(specks, 0.86))[..., None]
        seen = np.where(gone, 0.35 * seen + 0.65 * np.float32(paper), seen)
    if condition == "glossy":
        x = np.linspace(0, 1, size[0], dtype=np.float32)[None, :, None]
        seen += 200 * np.exp(-(((x - rng.uniform(0.25, 0.75)) / 0.08) ** 2))
    if condition == "tilted":
        seen = _tilted(seen, rng, paper)
    seen = cv2.GaussianBlur(seen, (0, 0), capital_px * 0.07 if condition == "blurred" else 0.7)
    seen = np.clip(seen + rng.normal(0, 3, seen.shape), 0, 255).astype(np.uint8)
    target = io.BytesIO()
    Image.fromarray(seen).save(target, "JPEG", quality=88)
    return np.array(Image.open(target).convert("RGB"))


def _tilted(seen: np.ndarray, rng: np.random.Generator, paper: tuple[int, int, int]) -> np.ndarray:
    height, width = seen.shape[:2]
    square = np.float32([[0, 0], [width, 0], [width, height], [0, height]])
    turned = cv2.transform(square[None], cv2.getRotationMatrix2D((width / 2, height / 2), rng.uniform(-8, 8), 0.86))[0]
    moved = (turned + rng.uniform(-0.03, 0.03, (4, 2)) * width).astype(np.float32)
    onto = cv2.getPerspectiveTransform(square, moved)
    return cv2.warpPerspective(seen, onto, (width, height), borderValue=paper)


def by_tesseract(rgb: np.ndarray) -> tuple[PrintLine, ...]:
    """Tesseract's lines; a line is as sure as its least sure word."""
    picture = cv2.imencode(".png", rgb[..., ::-1])[1].tobytes()
    command = ["tesseract", "stdin", "stdout", "--psm", "6", "tsv"]
    told = subprocess.run(command, input=picture, capture_output=True, check=True).stdout.decode()
    rows: dict[tuple, list] = {}
    for word in csv.DictReader(io.StringIO(told), delimiter="\t", quoting=csv.QUOTE_NONE):
        if word["text"].strip() and float(word["conf"]) >= 0:
            rows.setdefault(tuple(word[key] for key in ("block_num", "par_num", "line_num")), []).append(word)
    lines = []
    for words in rows.values():
        x, y = min(int(word["left"]) for word in words), min(int(word["top"]) for word in words)
        tall, sure = max(int(word["height"]) for word in words), min(float(word["conf"]) for word in words) / 100
        corners = ((x, y), (x + 9, y), (x + 9, y + tall), (x, y + tall))
        lines.append(PrintLine(" ".join(word["text"] for word in words), sure, corners))
    return tuple(lines)


READERS = {"read": read_print, "tesseract": by_tesseract}


def one(job: tuple[str, int, str, int]) -> dict[str, tuple]:
    """One label by every reader: signs, signs off, what came of each field, CPU or clock seconds."""
    cv2.setNumThreads(1)
    face, capital_px, condition, seed = job
    truth = truth_of(seed)
    rgb = drawn(lines_of(truth), face, capital_px, condition, seed)
    known = Known(
        truth["tag.style_code"],
        style_code_mask="AA-99999-A",
        date_order="MDY",
        factory_codes=FACTORIES,
        charts=(CHART,),
    )
    results = {}
    for name, reader in READERS.items():
        if name == "tesseract" and not shutil.which("tesseract"):
            continue
        began = time.perf_counter()
        lines = reader(rgb)
        seconds = time.perf_counter() - began
        offered = {one.place: one.text for one in fields_of(lines, TAG_LEFT, known)}
        wanted, got = "".join(_plain(text) for text in lines_of(truth)), "".join(_plain(line.text) for line in lines)
        outcomes = [
            "left to type" if place not in offered else "right" if offered[place] == text else "wrong"
            for place, text in truth.items()
        ]
        wrong = [
            (place, truth[place], offered[place]) for place in truth if offered.get(place, truth[place]) != truth[place]
        ]
        results[name] = (len(wanted), _distance(wanted, got), outcomes, seconds, wrong)
    return results


def _plain(text: str) -> str:
    return "".join(text.split()).upper()


def _distance(wanted: str, got: str) -> int:
    """Levenshtein's (1966): signs to put in, take out or change."""
    row = list(range(len(got) + 1))
    for n, sign in enumerate(wanted, start=1):
        before, row[0] = row[0], n
        for m, other in enumerate(got, start=1):
            before, row[m] = row[m], min(row[m] + 1, row[m - 1] + 1, before + (sign != other))
    return row[-1]


def main(pool: Executor) -> None:
    """Print the table."""
    if not is_installed():
        print("\nprint: no reader installed (requirements-print.lock)")
        return
    jobs = [
        (face, CAPITALS_PX[(n + m) % len(CAPITALS_PX)], condition, 1000 * n + m)
        for n, face in enumerate(FACES)
        for m, condition in enumerate(CONDITIONS)
    ]
    jobs += [(FACES[n % len(FACES)], px, "clean", 7000 + n) for n, px in enumerate(CAPITALS_PX * 2)]
    tallies: dict[tuple[str, str], Tally] = {}
    wrongs = []
    for job, results in zip(jobs, pool.map(one, jobs), strict=True):
        for reader, (signs, off, outcomes, seconds, wrong) in results.items():
            for key in ((reader, job[2]), (reader, f"{job[1]} px"), (reader, "all")):
                tally = tallies.setdefault(key, Tally())
                tally.signs, tally.signs_off = tally.signs + signs, tally.signs_off + off
                tally.outcomes.update(outcomes)
                tally.seconds.append(seconds)
            wrongs += [(reader, *job[:3], *one) for one in wrong]
    print(f"\n{len(jobs)} size tags in {len(FACES)} faces: print misread")
    print("                          signs off   fields right   left to type   wrong and sure   seconds")
    for (reader, what), tally in sorted(tallies.items()):
        total = sum(tally.outcomes.values())
        shares = [tally.outcomes[name] / total for name in ("right", "left to type", "wrong")]
        print(
            f"{reader:10} {what:14} {tally.signs_off / tally.signs:8.1%} {shares[0]:14.1%} {shares[1]:14.1%}"
            f" {shares[2]:16.1%} {np.mean(tally.seconds):9.2f}"
        )
    for wrong in wrongs:
        if wrong[0] == "read":
            print("  wrong:", *wrong[1:])
