"""Published schemas of what leaves the application."""

import json
from pathlib import Path

import reports

SCHEMA = json.loads((Path(reports.__file__).parent / "schema" / "case-3.schema.json").read_text())
