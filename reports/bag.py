"""A case as a bag (BagIt, RFC 8493) in a ZIP, signed with the shop's key; and telling what was changed in one."""

import io
import json
import tempfile
import zipfile
from pathlib import Path

import bagit

from casework.case_document import case_document, findings_csv
from casework.ledger import content
from casework.models import Case
from casework.organisation_key import is_signed, key_of, public_key
from casework.seal import digest
from casework.signed_document import last_signed, signed_bytes
from pairs.models import Organisation

MOST_BYTES, MOST_FILES = 600_000_000, 1000
CHAINED = ("previous", "house", "case", "actor", "deed", "details", "at")
SIGNATURE, KEY = "signature-ed25519.txt", "house-key-ed25519.txt"
SIGNED = "tagmanifest-sha256.txt"
README = """This folder holds one examined pair of sneakers: what was photographed, read, found and signed.

data/previews      the same, small
data/photographs   the photographs as the shop keeps them, without anything personal
data/case.json     the whole case; its schema and meaning are published with the application (wahrheit-case)
data/findings.csv  one line a finding
data/ledger.json   who did what when; each line carries the digest of the shop's line before

To check that nothing was changed, with common tools:
  sha256sum -c manifest-sha256.txt        every file under data
  sha256sum -c tagmanifest-sha256.txt     the lists themselves
signature-ed25519.txt is the shop's Ed25519 signature (RFC 8032, hexadecimal) of tagmanifest-sha256.txt;
shop-key-ed25519.txt is its public key. Ask the shop whether the key is theirs. Or:
  python manage.py verify_bag FILE.zip
"""


def make_bag(case: Case, certificate: bytes | None = None) -> bytes:
    """The bag, zipped. A read a photograph."""
    with tempfile.TemporaryDirectory() as folder:
        root = Path(folder) / f"case-{case}"
        for part in ("photographs", "previews"):
            (root / part).mkdir(parents=True)
        for photo in case.pair.photos.order_by("pk"):
            name = f"{photo.pk}-{photo.view or 'unsorted'}-{photo.foot or 'pair'}.jpg"
            # A file that is gone is missing in the bag as well: the ledger's check names it.
            if photo.full and Path(photo.full.path).exists():
                (root / "photographs" / name).write_bytes(Path(photo.full.path).read_bytes())
            if photo.preview and Path(photo.preview.path).exists():
                (root / "previews" / name).write_bytes(Path(photo.preview.path).read_bytes())
        kept = last_signed(case)
        document = (
            signed_bytes(kept) if kept else json.dumps(case_document(case), indent=1, ensure_ascii=False).encode()
        )
        (root / "case.json").write_bytes(document)
        (root / "findings.csv").write_text(findings_csv(case))
        (root / "ledger.json").write_text(json.dumps(_ledger(case), indent=1, ensure_ascii=False))
        (root / "README.txt").write_text(README)
        if certificate:
            (root / "certificate.pdf").write_bytes(certificate)
        info = {"Source-Organization": case.organisation.name, "External-Identifier": f"case-{case}"}
        bagit.make_bag(str(root), info, checksums=["sha256"])
        (root / KEY).write_text(public_key(case.organisation))
        (root / SIGNATURE).write_text(key_of(case.organisation).sign((root / SIGNED).read_bytes()).hex())
        return _zipped(root)


def _ledger(case: Case) -> list[dict]:
    """The case's lines: what each digest is taken of, the digest, and who it was."""
    lines = case.ledger.select_related("actor").order_by("pk")
    return [{**content(line), "digest": line.digest, "who": line.actor.username} for line in lines]


def _zipped(root: Path) -> bytes:
    target = io.BytesIO()
    with zipfile.ZipFile(target, "w", zipfile.ZIP_DEFLATED) as bag:
        for path in sorted(root.rglob("*")):
            if path.is_file():
                bag.write(path, path.relative_to(root.parent))
    return target.getvalue()


def faults_of(data: bytes, organisation: Organisation | None = None) -> list[str]:
    """What is wrong with a bag, each fault naming its file; empty where it is as it was signed. ``shop``: whose key it
    should carry."""
    with tempfile.TemporaryDirectory() as folder:
        try:
            root = _unpacked(data, Path(folder))
            bag = bagit.Bag(str(root))
            bag.validate()
        except bagit.BagValidationError as error:
            lost, extra = bag.compare_manifests_with_fs()
            odd = [f"{name}: it is missing" for name in lost] + [f"{name}: it is in no list" for name in extra]
            return odd + [str(detail) for detail in error.details] or [str(error)]
        except (bagit.BagError, zipfile.BadZipFile, OSError, ValueError, KeyError, RuntimeError) as error:
            return [f"It is no bag, or did not arrive whole: {error}"]
        return _unlisted(root) + _line_faults(root) + _signature_faults(root, organisation)


def _unlisted(root: Path) -> list[str]:
    """Files outside ``data`` that the signed list does not name, a list of files to fetch above all: a bag that is
    valid without what it was signed with."""
    listed = {line.split(maxsplit=1)[1].strip() for line in (root / SIGNED).read_text().splitlines() if " " in line}
    listed |= {SIGNED, SIGNATURE, KEY}
    found = (path.relative_to(root) for path in root.rglob("*") if path.is_file())
    return [f"{name}: it is in no signed list" for name in found if name.parts[0] != "data" and str(name) not in listed]


def _unpacked(data: bytes, folder: Path) -> Path:
    """The bag's folder. Raises ValueError on what has no place in a bag."""
    with zipfile.ZipFile(io.BytesIO(data)) as archive:
        entries = archive.infolist()
        if len(entries) > MOST_FILES or sum(entry.file_size for entry in entries) > MOST_BYTES:
            raise ValueError("it is larger than any case")
        tops = {entry.filename.split("/")[0] for entry in entries}
        if len(tops) != 1 or any(_leads_away(entry.filename) for entry in entries):
            raise ValueError("its files lie outside of one folder")
        archive.extractall(folder)
    return folder / tops.pop()


def _leads_away(name: str) -> bool:
    return name.startswith(("/", "\\")) or ".." in name.split("/") or "\\" in name or ":" in name


def _line_faults(root: Path) -> list[str]:
    """Lines of the ledger whose digest is not that of what they say."""
    try:
        lines = json.loads((root / "data" / "ledger.json").read_text())
        return [
            f"data/ledger.json: line {n}, {line['deed']} at {line['at']}, was changed"
            for n, line in enumerate(lines, start=1)
            if line["digest"] != digest({name: line[name] for name in CHAINED})
        ]
    except (OSError, ValueError, KeyError, TypeError):
        return ["data/ledger.json: it cannot be read"]


def _signature_faults(root: Path, organisation: Organisation | None) -> list[str]:
    try:
        known, signature = ((root / name).read_text().strip() for name in (KEY, SIGNATURE))
        signed = (root / SIGNED).read_bytes()
    except (OSError, ValueError):
        return [f"{SIGNATURE}: the bag is not signed"]
    if not is_signed(signed, signature, known):
        return [f"{SIGNATURE}: it is not the signature of {SIGNED} by {KEY}"]
    if organisation is not None and known != public_key(organisation):
        return [f"{KEY}: it is not the key of {organisation}"]
    return []
