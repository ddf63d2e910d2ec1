"""What the counter's camera took in the demo: every simulated photograph, by pair, as plain data."""

from collections.abc import Callable
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, replace
from pathlib import Path

from assay.simulator.box import Box, box_end, box_lid
from assay.simulator.camera import Camera
from assay.simulator.court_shoe import ON_STAND, CourtShoe, photograph
from assay.simulator.court_views import SOLE_FRAME, from_above, from_behind, from_below
from assay.simulator.labels import size_tag
from assay.simulator.runner import Runner, runner_from_side
from assay.simulator.scene import CardPlace, Scene
from assay.simulator.shading import UV_LAMP, Lamp, lamp_colour
from assay.simulator.ultraviolet import UnderUv
from demo import boxes, close_ups, insides, recipes
from demo.recipes import BENCH_AT, LABEL_END_AT, LID_AT, LID_MM_PER_PX, MM_PER_PX, REAR_AT, REAR_MM_PER_PX

# The bench: shoe right of the middle, card upright at the left, in the plane of the shoe's side.
BENCH_FRAME = (460.0, 345.0)
CARD_AT = (138.0, 96.0)
JPEG_QUALITY = 80
"""As of a phone that saves space: all photographs together stay small enough to be shipped."""


@dataclass(frozen=True)
class Job:
    """One photograph to take."""

    view: str
    foot: str
    take: Callable
    thing: object
    camera: Camera
    scene: Scene | None = None
    lamp: Lamp | None = None
    name: str = ""
    """How the file is called where it is offered unsorted."""

    def jpeg(self) -> bytes:
        """Take it."""
        camera = replace(self.camera, jpeg_quality=JPEG_QUALITY)
        return self.take(self.thing, camera, self.lamp, *([self.scene] if self.scene else [])).jpeg


def bench(dx: float = 0, dy: float = 0, turn: float = 0, below: float = 0) -> Scene:
    """Shoe on the stand with the card beside it."""
    at = (BENCH_AT[0] + dx, BENCH_AT[1] + dy)
    return Scene(BENCH_FRAME, at, ground_mm=312 + dy, cards=(CardPlace(CARD_AT, turn, below),))


def table(at: tuple[float, float] = (100.0, 190.0), turn: float = 0) -> Scene:
    """Something on the table, seen from above, with the card beside it."""
    return Scene(BENCH_FRAME, at, cards=(CardPlace(CARD_AT, turn),))


def _sides(shoes: dict, camera: Camera, scene: Scene = ON_STAND, lamp: Lamp | None = None) -> list[Job]:
    return [Job("side_out", foot, photograph, shoe, camera, scene, lamp) for foot, shoe in shoes.items()]


def _box(box: Box, turn: float = 0.0, *, lid: bool = True) -> list[Job]:
    """The end with the label, and the inside of the lid."""
    camera = Camera(mm_per_px=MM_PER_PX, turn_deg=turn)
    end = Job("box_label", "", box_end, box, camera, table(LABEL_END_AT, -turn))
    coarse = replace(camera, mm_per_px=LID_MM_PER_PX)
    return [end, Job("box_lid", "", box_lid, box, coarse, table(LID_AT))] if lid else [end]


def _heel(shoes: dict, turn: float = 0.0, shift: tuple[float, float] = (0.0, 0.0)) -> Job:
    """The left heel with the card beside it."""
    x, y = REAR_AT[0] + shift[0], REAR_AT[1] + shift[1]
    scene = Scene((360.0, 270.0), (x, y), ground_mm=y + 150, cards=(CardPlace((112.0, 100.0)),))
    return Job("rear", "left", from_behind, shoes["left"], Camera(mm_per_px=REAR_MM_PER_PX, turn_deg=turn), scene)


def _reference(shoes: dict) -> list[Job]:
    """The first retail pair, from every side, with the card."""
    camera, left, right = Camera(mm_per_px=MM_PER_PX), shoes["left"], shoes["right"]
    return [
        *_sides(shoes, camera, bench()),
        Job("top", "left", from_above, left, camera, table()),
        Job("top", "right", from_above, right, camera, table()),
        _heel(shoes),
        Job("sole", "left", from_below, left, camera, table()),
        *_box(boxes.BOXES["R1"]),
    ]


def _spare(shoes: dict) -> list[Job]:
    """A pair nobody has sorted: other light, other leanings, file names that say nothing."""
    left, right = shoes["left"], shoes["right"]
    evening, window = Lamp(tint=lamp_colour(3300)), Lamp(azimuth_deg=-75, tint=lamp_colour(7000))
    camera, tag, box = Camera(mm_per_px=MM_PER_PX), boxes.TAGS["spare"][0], replace(boxes.BOXES["R1"], seed=4)
    rear = Scene((360.0, 270.0), (186.0, 76.0), ground_mm=226.0, cards=(CardPlace((112.0, 102.0), -2),))
    leaning = replace(camera, tilt_deg=(5, -6), turn_deg=2, exposure=0.92)
    other = replace(camera, tilt_deg=(-5, 4), turn_deg=-1.5, lens=-0.003)
    return [
        Job("size_tag", "left", size_tag, tag, Camera(mm_per_px=0.035, turn_deg=4), None, evening, "IMG_2041"),
        Job("side_out", "right", photograph, right, other, bench(-4, 2, 3), window, "IMG_2042"),
        Job("box_label", "", box_end, box, replace(camera, turn_deg=2), table((116.0, 184.0), -3), None, "IMG_2043"),
        Job("rear", "left", from_behind, left, Camera(mm_per_px=0.1, turn_deg=-3), rear, None, "IMG_2044"),
        Job("side_out", "left", photograph, left, leaning, bench(4, -3, -3), evening, "IMG_2045"),
        Job("sole", "left", from_below, left, replace(camera, turn_deg=-4), table((104.0, 186.0), 3), None, "IMG_2046"),
        Job("top", "left", from_above, left, replace(camera, turn_deg=5), table((90.0, 185.0), 4), evening, "IMG_2047"),
        Job("uv_side", "left", photograph, left, camera, ON_STAND, UV_LAMP, "IMG_2048"),
    ]


def _insides(key: str, shoe: CourtShoe) -> list[Job]:
    """Insides, the inner side and what glows under the lamp."""
    shown, near = insides.SHOWN[key], insides.camera_of(key)
    stand = replace(close_ups.CAMERAS[key], mm_per_px=insides.STEP[insides.INNER])
    dark = replace(stand, mm_per_px=insides.STEP[insides.UV_SIDE], exposure=insides.UV_EXPOSURE)
    lit = replace(shoe, under_uv=insides.LIT[key])
    jobs = [Job(view, "left", take, shown, near) for view, take in insides.TAKES.items()]
    if key not in insides.SOLED:
        low = replace(stand, mm_per_px=insides.SOLE_MM_PER_PX)
        jobs.append(Job("sole", "left", from_below, shoe, low, Scene(SOLE_FRAME)))
    jobs.append(Job(insides.INNER, "left", photograph, insides.inner(shoe), stand, ON_STAND))
    jobs.append(Job(insides.UV_SIDE, "left", photograph, lit, dark, ON_STAND, UV_LAMP))
    if key in insides.LID_STAMPS:
        box = replace(boxes.BOXES[key], under_uv=UnderUv(stamp=insides.LID_STAMPS[key]))
        jobs.append(Job(insides.UV_LID, "", box_lid, box, dark, None, UV_LAMP))
    return jobs


def _jobs() -> dict[str, list[Job]]:
    first = next(iter(recipes.RETAIL_PAIRS))
    jobs = {
        label: _reference(shoes) if label == first else [*_sides(shoes, camera), _heel(shoes, 0.8, (2, -1))]
        for label, (shoes, camera) in recipes.RETAIL_PAIRS.items()
    }
    jobs |= {
        key: [*_sides(shoes, camera), _heel(shoes, -1.2, (-2, 1))] for key, (shoes, camera) in recipes.CASES.items()
    }
    for label, shoes in recipes.COPIES.items():
        coarse = Camera(mm_per_px=insides.STEP[insides.INNER])
        jobs[label] = [*_sides(shoes, coarse), _heel(shoes, 0.5, (1, 1))]
    jobs["H1"] = []
    for n, (key, box) in enumerate(boxes.BOXES.items()):
        if key != first:
            jobs.setdefault(key, []).extend(_box(box, 1.2 - 0.5 * (n % 5), lid=key not in ("R2", "R3", "O1", "H1")))
    for key, shown in close_ups.SHOWN.items():
        jobs.setdefault(key, []).extend(
            Job(view, "left", take, shown, close_ups.camera_of(key, view)) for view, take in close_ups.TAKES.items()
        )
    for key, tags in boxes.TAGS.items():
        if key != "spare":
            near = Camera(mm_per_px=boxes.TAG_MM_PER_PX)
            feet = ("left", "right") if key in boxes.BOTH_TAGS else ("left",)
            both = zip(feet, tags, strict=False)
            jobs[key] += [Job("size_tag", foot, size_tag, tag, near) for foot, tag in both]
    left = {label: shoes["left"] for label, (shoes, *_) in recipes.RETAIL_PAIRS.items()}
    left |= {key: shoes["left"] for key, (shoes, _) in recipes.CASES.items()}
    for key, shoe in left.items():
        jobs[key].extend(_insides(key, shoe))
    runners = {foot: Runner(foot=foot, seed=71) for foot in ("left", "right")}
    jobs["O1"] += [
        Job("side_out", foot, runner_from_side, shoe, Camera(mm_per_px=MM_PER_PX), bench())
        for foot, shoe in runners.items()
    ]
    shoes, camera = recipes.COSTLY
    jobs["costly"] = [*_sides(shoes, camera), _heel(shoes, 0.4, (1, 0))]
    jobs["spare"] = _spare(recipes.SPARE)
    return jobs


JOBS = _jobs()


def path_of(kept: Path, key: str, job: Job) -> Path:
    """Where a photograph lies once it is taken."""
    return kept / f"{key}-{job.name or '-'.join(filter(None, (job.view.replace('_', '-'), job.foot)))}.jpg"


def _take(job: Job) -> bytes:
    return job.jpeg()


TOLD_EVERY = 10


def take_all(kept: Path, tell: Callable[[str], None], wanted: list[tuple[str, Job]]) -> None:
    """Take every photograph wanted that is not there yet, one a core."""
    kept.mkdir(parents=True, exist_ok=True)
    missing = [(path, job) for key, job in wanted if not (path := path_of(kept, key, job)).exists()]
    if not missing:
        return
    with ProcessPoolExecutor() as pool:
        for n, ((path, _), jpeg) in enumerate(
            zip(missing, pool.map(_take, [job for _, job in missing]), strict=True), 1
        ):
            # Whole or not at all: the next start takes what is missing.
            half = path.with_suffix(".part")
            half.write_bytes(jpeg)
            half.replace(path)
            if n % TOLD_EVERY == 0 or n == len(missing):
                tell(f"{n} of {len(missing)} simulated photographs taken")
