"""``python -m tests.bench.practice FOLDER... [--worst]``: every family that a folder holds, as tables."""

import json
import os
import sys
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path

os.environ.setdefault("OMP_NUM_THREADS", "1")

from tests.bench.practice import counts, glow, marks, materials, outlines

FAMILIES = ((counts, counts.count), (outlines, outlines.outline), (glow, glow.look), (materials, materials.look))


def main(folders: list[Path], *, worst: bool) -> None:
    found = []
    with ProcessPoolExecutor() as pool:
        for family, look in FAMILIES:
            found.append(list(pool.map(look, [job for folder in folders for job in family.jobs(folder)])))
            if found[-1]:
                family.table(found[-1])
    counted, drawn, lit, _ = found
    for folder in folders:
        if any(load["family"] == "marks" for load in json.loads((folder / "truth.json").read_text())["items"]):
            marks.main(folder)
    if worst:
        _worst(counted, drawn)
        for row in lit:
            if row.wrong_and_sure or row.refused:
                print(row)


def _worst(counted: list, drawn: list) -> None:
    for row in counted:
        if not row.right:
            print(row)
    for row in drawn:
        print(row["name"], row["kind"], row["level"], row["change"], row["true"], row["found"], row["said"])
        for which, read in row["read"].items():
            for room, kept in read.items():
                print("   ", which, room, kept["off"] and round(kept["off"], 2), *kept["doubts"], kept["why"])


if __name__ == "__main__":
    main([Path(one) for one in sys.argv[1:] if not one.startswith("-")], worst="--worst" in sys.argv)
