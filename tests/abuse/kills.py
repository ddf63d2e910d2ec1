"""Workers, and what keeps them up, are killed at random while photographs arrive; afterwards nothing may be missing.

``python -m tests.abuse.kills [KILLS] [SEED]``: own processes on a data folder of its own.
"""

import os
import random
import signal
import subprocess
import sys
import tempfile
import time
from pathlib import Path

ROOT = Path(__file__).parents[2]
MANAGE = [sys.executable, str(ROOT / "manage.py")]
READ_WITHIN_S = 60
# One of so many kills hits what keeps the workers up.
KEEPER_EVERY = 10
SENT = """
import numpy as np
from django.core.files.uploadedfile import SimpleUploadedFile
from tests.support.scenes import small_organisation, small_case
from tests.support.pictures import jpeg
from casework.actions.add_case_photo import add_case_photo
scene = small_organisation()
case, rng = small_case(scene), np.random.default_rng({seed})
import time
for n in range({photos}):
    picture = np.kron(rng.integers(0, 255, (30, 40, 3), np.uint8), np.ones((60, 60, 1), np.uint8))
    add_case_photo(case=case, user=scene.mara, upload=SimpleUploadedFile("a.jpg", jpeg(picture)))
    print("acknowledged", flush=True)
    time.sleep(0.5)
"""
LEFT = """
from pairs.models import Photo
from casework.models import Case
print(Photo.objects.count(), Photo.objects.exclude(state="read").count(), Case.objects.get().to_analyse)
"""


def shell(script: str, env: dict, **more) -> subprocess.Popen:
    return subprocess.Popen([*MANAGE, "shell", "-v", "0", "-c", script], env=env, stdout=subprocess.PIPE, text=True)


def children(pid: int) -> list[int]:
    try:
        return [int(one) for one in Path(f"/proc/{pid}/task/{pid}/children").read_text().split()]
    except FileNotFoundError:
        return []


def main(kills: int, seed: int) -> int:
    rng, photos = random.Random(seed), max(5, kills // 4)
    with tempfile.TemporaryDirectory() as folder:
        env = os.environ | {"WAHRHEIT_DATA": folder, "WAHRHEIT_WORKERS": "2", "DEBUG": "1", "PYTHONPATH": str(ROOT)}
        subprocess.run([*MANAGE, "migrate", "--verbosity", "0"], env=env, check=True)

        def keep() -> subprocess.Popen:
            return subprocess.Popen([*MANAGE, "work"], env=env, stderr=subprocess.DEVNULL)

        keeper, sending, done = keep(), shell(SENT.format(seed=seed, photos=photos), env), 0
        while done < kills:
            time.sleep(rng.uniform(0.1, 1.5))
            if rng.randrange(KEEPER_EVERY) == 0:
                keeper.kill()
                keeper.wait()
                keeper, done = keep(), done + 1
            for one in rng.sample(found := children(keeper.pid), min(1, len(found))):
                os.kill(one, signal.SIGKILL)
                done += 1
        acknowledged = sending.communicate()[0].count("acknowledged")
        began, left = time.monotonic(), None
        while time.monotonic() - began < READ_WITHIN_S and left != [acknowledged, 0, 0]:
            left = [int(one) for one in shell(LEFT, env).communicate()[0].split()]
            time.sleep(1)
        keeper.terminate()
        keeper.wait()
    print(
        f"{done} kills; {acknowledged} photographs acknowledged, {left[0]} there, {left[1]} unread, "
        f"{left[2]} to analyse, {time.monotonic() - began:.0f} s after the last restart"
    )
    return int(left != [acknowledged, 0, 0])


if __name__ == "__main__":
    sys.exit(main(*(int(one) for one in [*sys.argv[1:], "200", "1"][:2])))
