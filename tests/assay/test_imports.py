"""The core stands alone, and imports run one way through the house."""

import ast
import subprocess
import sys
from pathlib import Path
from unittest import TestCase

ROOT = Path(__file__).resolve().parents[2]
# Each may import itself and what stands after it.
ORDER = ["wahrheit", "reports", "casework", "pairs", "library", "assay"]


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
