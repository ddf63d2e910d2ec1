"""The core stands alone, and imports run one way through the shop."""

import ast
import subprocess
import sys
from pathlib import Path
from unittest import TestCase

from assay.imaging.gauge import GAUGES
from assay.measure.registry import MEASURES

ROOT = Path(__file__).resolve().parents[2]
# Each may import itself and what stands after it.
ORDER = ["wahrheit", "demo", "reports", "casework", "guides", "pairs", "library", "assay"]


def imports_of(path: Path) -> set[str]:
    names = set()
    for node in ast.walk(ast.parse(path.read_text())):
        if isinstance(node, ast.Import):
            names |= {alias.name for alias in node.names}
        elif isinstance(node, ast.ImportFrom):
            names.add(node.module or "")
    return names


class ImportsRunOneWay(TestCase):
    def test_no_part_imports_what_stands_above_it(self):
        wrong = []
        for place, app in enumerate(ORDER):
            for path in (ROOT / app).rglob("*.py"):
                roots = {name.split(".")[0] for name in imports_of(path)}
                wrong += [f"{path.relative_to(ROOT)} imports {above}" for above in roots & set(ORDER[:place])]
        self.assertEqual(wrong, [])

    def test_measures_do_not_import_each_other(self):
        wrong = [
            f"{path.name} imports {name}"
            for path in (ROOT / "assay" / "measure").glob("*.py")
            if path.name != "registry.py"
            for name in imports_of(path)
            if name.startswith("assay.measure") and name not in ("assay.measure.entry", "assay.measure.sample")
        ]
        self.assertEqual(wrong, [])

    def test_nothing_but_the_registry_lists_measures(self):
        """A list elsewhere goes stale unnoticed: one named measures that no longer existed."""
        wrong, words = [], set(MEASURES) - {one.drill for one in MEASURES.values()} - set(GAUGES)
        for app in (*ORDER, "drills"):
            for path in (ROOT / app).rglob("*.py"):
                if app == "demo" or "migrations" in path.parts:
                    continue  # a guide is data; what was renamed once stays
                for node in ast.walk(ast.parse(path.read_text())):
                    listed = [*node.keys, *node.values] if isinstance(node, ast.Dict) else getattr(node, "elts", ())
                    named = {one.value for one in listed if isinstance(one, ast.Constant)} & words
                    if len(named) > 1 and not path.is_relative_to(ROOT / "drills" / "simulated.py"):
                        wrong.append(f"{path.relative_to(ROOT)} lists {sorted(named)}")
        self.assertEqual(wrong, [])

    def test_core_runs_without_any_web_framework(self):
        modules = [
            ".".join(path.relative_to(ROOT).with_suffix("").parts)
            for path in (ROOT / "assay").rglob("*.py")
            if path.name != "__init__.py"
        ]
        program = (
            f"import sys, importlib\nfor m in {modules!r}: importlib.import_module(m)\n"
            "bad = {m.split('.')[0] for m in sys.modules} & {'django', 'matplotlib', 'casework', 'pairs', 'library'}\n"
            "sys.exit(' '.join(bad) or 0)"
        )
        done = subprocess.run([sys.executable, "-c", program], cwd=ROOT, capture_output=True, text=True, check=False)
        self.assertEqual((done.returncode, done.stderr), (0, ""))
