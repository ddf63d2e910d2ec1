"""The demo as it is shipped: its photographs, everything that was measured on them, and what made both.

``make demo-pack`` writes it, ``make demo`` and the browser tests unpack it. It holds no key and no session: those are
made at the first start.
"""

import ast
import json
import lzma
import shutil
import sqlite3
import zipfile
from collections.abc import Callable, Iterable
from contextlib import closing
from hashlib import sha256
from pathlib import Path
from tempfile import TemporaryDirectory

from django.conf import settings
from django.db.migrations.loader import MigrationLoader
from django.utils import timezone

from assay.imaging.opening import receive
from assay.measure.registry import MEASURES
from casework.ledger import sign_head
from casework.models import Case, Finding, SignedHead
from pairs.instruments import THINGS
from pairs.models import Organisation, Reading

FORMAT = "wahrheit-demo-pack/1"
PACK = Path(__file__).parent / "pack"
PHOTOGRAPHS = PACK / "photographs"
RECORDS, MEDIA, MANIFEST = "records.sqlite3.xz", "media.zip", "manifest.json"
DRAWN_BY = (
    "assay/simulator/*.py",
    *(f"demo/{name}.py" for name in ("boxes", "close_ups", "insides", "recipes", "shots")),
)
"""The code that says how a photograph comes out."""
LOADED_BY = ("demo/load.py", "demo/year.py", "demo/data/*.json")
"""The code and the data that say what is made of them."""
UNSHIPPED = ("axes_", "casework_signedhead", "django_session", "django_tasks_", "otp_")
"""Tables that say who signed in and what was queued."""


def digest_of(patterns: Iterable[str]) -> str:
    """Of code, however it is laid out or commented."""
    found = sha256()
    for path in sorted(path for pattern in patterns for path in settings.BASE_DIR.glob(pattern)):
        found.update((_code_of(path) if path.suffix == ".py" else path.read_text()).encode())
    return found.hexdigest()


def _code_of(path: Path) -> str:
    tree = ast.parse(path.read_text())
    for node in ast.walk(tree):
        body = getattr(node, "body", None)
        if isinstance(body, list):
            node.body = [one for one in body if not _is_docstring(one)]
    return ast.dump(tree)


def _is_docstring(node: ast.AST) -> bool:
    return isinstance(node, ast.Expr) and isinstance(node.value, ast.Constant) and isinstance(node.value.value, str)


def made_by() -> dict:
    """What a pack that is written now would be made by; a pack that was made by something else is out of date."""
    return {
        "recipe": digest_of(DRAWN_BY),
        "loader": digest_of(LOADED_BY),
        "measures": {name: entry.version for name, entry in sorted(MEASURES.items())},
        "migrations": sorted(map(".".join, MigrationLoader(None).disk_migrations)),
    }


def manifest() -> dict:
    """Of the pack that is there; empty where none is."""
    path = PACK / MANIFEST
    return json.loads(path.read_text()) if path.exists() else {}


def write(shots: Path, tell: Callable[[str], None]) -> None:
    """The data folder in use as the pack; ``shots``: the photographs as they were taken."""
    PACK.mkdir(exist_ok=True)
    known = {sha256(_as_stored(path)).hexdigest(): path for path in sorted(shots.glob("*.jpg"))}
    tell(f"packing {len(known)} photographs")
    shutil.rmtree(PHOTOGRAPHS, ignore_errors=True)
    PHOTOGRAPHS.mkdir()
    for path in known.values():
        shutil.copyfile(path, PHOTOGRAPHS / path.name)
    stored, root = {}, Path(settings.MEDIA_ROOT)
    with zipfile.ZipFile(PACK / MEDIA, "w", zipfile.ZIP_DEFLATED) as media:
        for path in sorted(path for path in root.rglob("*") if path.is_file()):
            name, original = str(path.relative_to(root)), known.get(sha256(path.read_bytes()).hexdigest())
            if original is None:
                media.write(path, name)
            else:
                stored[name] = original.name
    tell("packing records")
    with TemporaryDirectory() as folder:
        (PACK / RECORDS).write_bytes(lzma.compress(_records(Path(folder) / "records.sqlite3")))
    told = {
        "format": FORMAT,
        "made_on": timezone.now().date().isoformat(),
        **made_by(),
        "counts": {
            "photographs": len(known),
            "cases": Case.objects.count(),
            "readings": Reading.objects.count(),
            "findings": Finding.objects.count(),
        },
        "stored": stored,
        "things": json.loads((Path(settings.DATA_DIR) / THINGS).read_text()),
    }
    (PACK / MANIFEST).write_text(json.dumps(told, indent=1) + "\n")


def _as_stored(photograph: Path) -> bytes:
    """A photograph as it is kept once it was taken in."""
    return receive(photograph.read_bytes()).stored


def _records(copy: Path) -> bytes:
    with closing(sqlite3.connect(settings.DATABASES["default"]["NAME"])) as own:
        own.execute("VACUUM INTO ?", [str(copy)])
    with closing(sqlite3.connect(copy)) as kept:
        names = [name for (name,) in kept.execute("SELECT name FROM sqlite_master WHERE type = 'table'")]
        for name in names:
            if name.startswith(UNSHIPPED):
                _emptied(kept, name)
        kept.commit()
        kept.execute("VACUUM")
    return copy.read_bytes()


def _emptied(connection: sqlite3.Connection, name: str) -> None:
    """A table without its rows, whatever keeps them from being deleted."""
    guards = connection.execute(
        "SELECT name, sql FROM sqlite_master WHERE type = 'trigger' AND tbl_name = ?", [name]
    ).fetchall()
    for guard, _ in guards:
        connection.execute(f'DROP TRIGGER "{guard}"')
    connection.execute(f'DELETE FROM "{name}"')  # noqa: S608 - a name of our own
    for _, sql in guards:
        connection.execute(sql)


def sign_heads() -> None:
    """The ledgers as they were shipped, under keys that are made here and now."""
    for organisation in Organisation.objects.all():
        last = organisation.ledger.order_by("-pk").first()
        if last and not SignedHead.objects.filter(line__organisation=organisation).exists():
            sign_head(last)


def records() -> bytes:
    """The pack's database."""
    return lzma.decompress((PACK / RECORDS).read_bytes())


def unpack_files() -> None:
    """Photographs, previews and what the simulated instruments find, into the data folder."""
    root, told = Path(settings.MEDIA_ROOT), manifest()
    with zipfile.ZipFile(PACK / MEDIA) as media:
        media.extractall(root)
    for name, original in told["stored"].items():
        (root / name).parent.mkdir(parents=True, exist_ok=True)
        (root / name).write_bytes(_as_stored(PHOTOGRAPHS / original))
    (Path(settings.DATA_DIR) / THINGS).write_text(json.dumps(told["things"]))


def unpack() -> bool:
    """The whole demo into an empty data folder; False where there is a database already, which stays."""
    target = Path(settings.DATABASES["default"]["NAME"])
    if target.exists():
        return False
    unpack_files()
    half = target.with_suffix(".part")
    half.write_bytes(records())
    half.replace(target)
    return True


def unpack_into(connection) -> None:
    """The records in place of whatever a database holds, its tables included; files as well. For tests."""
    unpack_files()
    with TemporaryDirectory() as folder:
        path = Path(folder) / "records.sqlite3"
        path.write_bytes(records())
        connection.ensure_connection()
        with closing(sqlite3.connect(path)) as packed:
            packed.backup(connection.connection)
    sign_heads()
