"""``python -m tests.bench.practice.rendered FOLDER``: a rendered shoe set up as a small shop would, in twelve ways.

One or two verified pairs; the bench card flat on the table, on a block beside the measured side, or on lilac paper;
close-ups with or without a scale. Everything goes through the actions that the pages call: a guide writer clicks the
marks of the first verified pair, the program carries them. The genuine pair must never be called fake, and never get a
red flag that a person who looks would confirm; the table says what the copy was told by.
"""

import os
import sys
import tempfile
import traceback
from itertools import product
from multiprocessing import get_context
from pathlib import Path

os.environ.setdefault("OMP_NUM_THREADS", "1")

VARIANTS = ("flat", "block", "lilac")


def set_up(job: tuple) -> dict:
    """One way, in a process and a database of its own."""
    folder, pairs, variant, scaled = job
    with tempfile.TemporaryDirectory() as kept:
        os.environ |= {"WAHRHEIT_DATA": kept, "DJANGO_SETTINGS_MODULE": "wahrheit.settings"}
        import django
        from django.core.management import call_command

        django.setup()
        call_command("migrate", verbosity=0)
        from tests.bench.practice.rendered_shop import Shop

        try:
            shop = Shop(Path(folder), pairs, variant, scaled=scaled)
            found = {name: shop.examine(name) for name in ("S0", "C1")}
        except Exception as error:  # noqa: BLE001 - the table says so
            return {"job": job[1:], "error": f"{error!r} {traceback.format_exc()[-900:]}"}
        return {
            "job": job[1:],
            "refused": shop.refused,
            "true": {name: shop.true_counts(name) for name in found},
            **found,
        }


def would_confirm(flag: dict, true: dict) -> bool:
    """Whether a person who looks at what was read finds it read right: a miscount they correct."""
    return not flag["counts"] or flag["value"] == true.get(flag["name"])


def main(folder: Path, *, details: bool) -> None:
    jobs = [(str(folder), n, variant, scaled) for n, variant, scaled in product((1, 2), VARIANTS, (True, False))]
    print("verified  card    close-ups |  genuine: rules now, once confirmed; flags, confirmed ones; compared, decibans"
          "  |  copy: the same, told by")  # fmt: skip
    with get_context("spawn").Pool(2, maxtasksperchild=1) as pool:
        for row in pool.imap(set_up, jobs):
            print(_line(row), flush=True)
            if details and "error" not in row:
                _more(row)


def _line(row: dict) -> str:
    pairs, variant, scaled = row["job"]
    told = f"{pairs:8}  {variant:7} {'scaled' if scaled else 'no scale':9} |"
    if "error" in row:
        return f"{told} {row['error']}"
    for pair in ("S0", "C1"):
        found = row[pair]
        confirmed = [one["name"] for one in found["flags"] if would_confirm(one, row["true"][pair])]
        now, then = ("/".join(verdict[0] for verdict in found[key].values()) for key in ("rules", "confirmed"))
        told += f"  {now} {then}; {len(found['flags'])}, {len(confirmed)}; {found['compared']} of {found['of']}, "
        told += f"{found['decibans']:+.0f}  {', '.join(confirmed)} |"
    return told


def _more(row: dict) -> None:
    print("   refused on drawing:", row["refused"])
    for pair in ("S0", "C1"):
        print("  ", pair, "not compared:", row[pair]["why"])
        for name, told in row[pair]["graded"].items():
            truth = f", true {row['true'][pair][name]}" if name in row["true"][pair] else ""
            value = f"{told['value']:.4g}" if isinstance(told["value"], int | float) else told["value"]
            print(f"      {name}: {value} ± {told['u']:.2g}{truth}; retail {told['retail']}: {told['grade']}")


if __name__ == "__main__":
    main(Path(next(one for one in sys.argv[1:] if not one.startswith("-"))), details="--details" in sys.argv)
