"""Examples in docstrings are true."""

import doctest
import importlib
from pathlib import Path

ROOT = Path(__file__).resolve().parents[2]


def load_tests(_loader, tests, _pattern):
    for path in sorted((ROOT / "assay").rglob("*.py")):
        if ">>>" in path.read_text():
            module = importlib.import_module(".".join(path.relative_to(ROOT).with_suffix("").parts))
            tests.addTests(doctest.DocTestSuite(module))
    return tests
