"""What pages cost; and what the whole automatic pass over a case of 16 photographs of 12 megapixels costs, against
merely decoding them.

The demo's scenario in a database of its own; the photographs are the demo's, enlarged and given a sensor's noise, so
that their files are as large as a camera's. CPU time of the process; loading the demo is not counted. A machine is not
equally fast all the time: each pass is held against decoding just before and after it; of several the median counts.
"""

import os
import subprocess
import sys
import tempfile
import time
from multiprocessing import get_context
from pathlib import Path
from uuid import uuid4

import cv2
import numpy as np
import simplejpeg

from tests.bench import pages

PIXELS, NOISE = 12_000_000, 8.0
# A pair from eight sides, its box lid, second tries at three of them, and four photographs that belong elsewhere.
FILES = (
    *("spare-*.jpg", "sloppy-box-lid.jpg", "crude-rear-left.jpg", "crude-box-lid.jpg", "posh-box-lid.jpg"),
    *("O1-side-out-left.jpg", "O1-side-out-right.jpg", "O1-box-label.jpg", "H1-box-label.jpg"),
)
FLOOR, ROUNDS = 2.1, 5


def main() -> None:
    """Run it on a database of its own and print one line."""
    with tempfile.TemporaryDirectory() as kept:
        environment = os.environ | {"WAHRHEIT_DATA": kept, "DJANGO_SETTINGS_MODULE": "wahrheit.settings"}
        subprocess.run([sys.executable, "-m", "tests.bench.whole_pass"], env=environment, check=True)


def _run() -> None:
    import django

    django.setup()
    from django.core.management import call_command

    from demo import pack

    pack.unpack()
    call_command("migrate", verbosity=0)
    pages.main()
    _measure(pack.PHOTOGRAPHS)


def _measure(shots: Path) -> None:
    from django.contrib.auth import get_user_model

    from casework.actions.analyse_case import analyse_case
    from casework.actions.start_case import start_case
    from pairs.actions.receive_photo import receive_photo
    from pairs.models import Reading
    from pairs.pictures import pixels

    cv2.setNumThreads(1)
    user = get_user_model().objects.get(username="mara")
    taken = sorted(path for kind in FILES for path in shots.glob(kind))
    files = [_enlarged(path, seed) for seed, path in enumerate(taken)]

    def of_all():
        case = start_case(user=user, typed_code="VQ-44127-B", token=uuid4())
        for data in files:
            receive_photo(pair=case.pair, data=data, by=user)
        pixels.cache_clear()
        return case

    cases = [of_all() for _ in range(ROUNDS)]
    alone = [_held_against(files, lambda case: _seconds(lambda: analyse_case(case=case, user=user)), c) for c in cases]
    read = Reading.objects.filter(pair=cases[0].pair).exclude(photo=None).count()
    cases = [of_all() for _ in range(ROUNDS)]
    shared = [_held_against(files, lambda case: _shared_out(case, user), c) for c in cases]
    print(
        f"\nwhole pass: {len(files)} photographs of 12 MP ({sum(map(len, files)) / len(files) / 1e6:.1f} MB a file), "
        f"{read} readings, medians of {ROUNDS}: CPU {_middle(alone)} × decoding them, floor {FLOOR} ×; "
        f"in two processes, by the clock {_middle(shared)} ×"
    )


def _held_against(files: list[bytes], act, case) -> tuple[float, float]:
    """What an act on a case takes, as it tells, against decoding the files just before and after it; and in seconds."""
    before, spent = _decoding(files), act(case)
    return 2 * spent / (before + _decoding(files)), spent


def _middle(rounds: list[tuple[float, float]]) -> str:
    ratios, seconds = zip(*rounds, strict=True)
    return f"{np.median(seconds):.1f} s = {np.median(ratios):.2f} ({min(ratios):.2f} to {max(ratios):.2f})"


def _shared_out(case, user) -> float:
    """Seconds by the clock that two workers take for a case."""
    from django.db import connection

    from casework.actions.analyse_case import analyse_case
    from casework.models import Case

    Case.objects.filter(pk=case.pk).update(runs=2)
    # Each worker opens the database for itself.
    connection.close()
    alike = get_context("fork")
    workers = [alike.Process(target=analyse_case, kwargs={"case": case, "user": user}) for _ in range(2)]
    began = time.perf_counter()
    for worker in workers:
        worker.start()
    for worker in workers:
        worker.join()
    waited = time.perf_counter() - began
    if any(worker.exitcode for worker in workers):
        raise SystemExit("a worker failed")
    return waited


def _enlarged(path: Path, seed: int) -> bytes:
    picture = cv2.imread(str(path))
    grow = np.sqrt(PIXELS / (picture.shape[0] * picture.shape[1]))
    large = cv2.resize(picture, None, fx=grow, fy=grow, interpolation=cv2.INTER_CUBIC)
    grain = np.random.default_rng(seed).normal(0, NOISE, large.shape)
    return cv2.imencode(".jpg", (large + grain).clip(0, 255).astype(np.uint8), [cv2.IMWRITE_JPEG_QUALITY, 90])[
        1
    ].tobytes()


def _decoding(files: list[bytes]) -> float:
    # One after the other: sixteen kept at once would take new memory.
    return sum(_seconds(lambda data=data: simplejpeg.decode_jpeg(data)) for data in files)


def _seconds(act) -> float:
    start = time.process_time()
    act()
    return time.process_time() - start


if __name__ == "__main__":
    _run()
