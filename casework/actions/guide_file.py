"""A guide as one file: out of one shop, looked at, and into another. A ZIP: guide.json, photographs, checksums."""

import hashlib
import io
import json
import math
import re
import zipfile
import zlib
from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import cache
from pathlib import Path

from django.conf import settings
from django.core.exceptions import ValidationError
from django.db import DatabaseError, transaction

from assay.errors import AssayError
from assay.imaging.opening import Received, receive
from assay.measure.registry import MEASURES
from assay.paperwork.papers import PAPERS
from casework.actions.analyse_pair import request_reading
from casework.actions.keep_pair import LETTER, free_label
from casework.actions.know_copy import know_copy
from casework.grading import regrade
from casework.ledger import note_of_organisation
from casework.models import Case
from casework.retail import prior_of
from library.models import Batch, Checkpoint, Maker, Relation, Release, ShoeModel, SizeChart, View
from library.writers import MAY_CHECK, MAY_MAKER, must, must_write, visible_to
from pairs.actions.receive_photo import receive_photo
from pairs.actions.take_paper import inscribe
from pairs.actions.take_reading import SAID, say
from pairs.models import Marking, Organisation, Pair, Photo, Standing
from pairs.queries import inscriptions_of, latest_readings, photos_in_use

FORMAT = "wahrheit-guide/1"
MOST_BYTES, MOST_FILES, MOST_JSON = 400_000_000, 600, 20_000_000
MOST_CHECKS = 2000
PLAIN = ("guide.json", "manifest-sha256.txt")
PHOTO_NAME = re.compile(r"^photos/[A-Za-z0-9_-]{1,80}\.jpg$")
MAKER = ("name", "style_code_mask", "date_order", "label_layouts", "box_classes", "inlay_from_year")
RELEASE = (
    *("colourway", "style_code", "year", "generation", "sizes_us", "group", "colour_wording", "barcodes"),
    *("factory_codes", "stamp_mask", "serials_differ", "packing"),
)
CHECK = (
    *("key", "name", "instruction", "section", "group", "position", "kind", "measure", "paper", "quantity", "unit"),
    *("view", "foot", "decisive", "mandatory", "of_shoe", "applies_when", "size_rule", "minutes", "prior", "answers"),
    *("caution", "cap_for", "cap_against", "shared"),
)
"""Fields of a check that the file holds."""
SAME_THING = ("kind", "measure", "paper", "quantity", "view", "foot")
"""Checks that part in one of these are no two wordings of one check."""
VIEW = (
    *("key", "name", "feet", "one_sided", "ultraviolet", "printed", "codes", "codes_at", "close_up"),
    *("card_gap_mm", "how", "sketch", "caution"),
)
PAIR = ("size_us", "region", "condition", "verified_how")


def export_guide(*, release: Release, organisation: Organisation) -> bytes:
    """The file. About ten queries and a read a photograph."""
    pairs = organisation.pairs.filter(release=release, standing__in=(Standing.RETAIL, Standing.COPY)).select_related(
        "batch"
    )
    checks = list(release.checkpoints.select_related("left", "right"))
    files: dict[str, bytes] = {}
    kept_pairs = [_pair_out(pair, checks, files) for pair in pairs.order_by("label")]
    used = {check.view for check in checks if check.view} | {
        p["view"] for kept_pair in kept_pairs for p in kept_pair["photos"]
    }
    maker = release.shoe_model.maker
    document = {
        "format": FORMAT,
        "house": organisation.name,
        "maker": {name: getattr(maker, name) for name in MAKER},
        "size_charts": [{"group": size_chart.group, "csv": size_chart.csv} for size_chart in maker.size_charts.all()],
        "model": release.shoe_model.name,
        "release": {name: getattr(release, name) for name in RELEASE},
        "views": [{name: getattr(one, name) for name in VIEW} for one in View.objects.filter(key__in=used)],
        "checks": [_check_out(check) for check in checks],
        "batches": [
            {"name": one.name, "habits": one.habits} for one in Batch.objects.filter(release=release).order_by("name")
        ],
        "pairs": kept_pairs,
    }
    files = {"guide.json": json.dumps(document, indent=1, ensure_ascii=False).encode(), **files}
    sums = "".join(f"{hashlib.sha256(data).hexdigest()}  {name}\n" for name, data in files.items())
    target = io.BytesIO()
    with zipfile.ZipFile(target, "w", zipfile.ZIP_DEFLATED) as bag:
        for name, data in {**files, "manifest-sha256.txt": sums.encode()}.items():
            bag.writestr(name, data)
    return target.getvalue()


def _check_out(check: Checkpoint) -> dict:
    kept = {name: getattr(check, name) for name in CHECK} | {"relation": check.relation, "level": check.level}
    return kept | {"left": check.left and check.left.key, "right": check.right and check.right.key}


def _pair_out(pair: Pair, checks: list, files: dict[str, bytes]) -> dict:
    photos, marks = [], []
    on_guide = {check.pk: check.key for check in checks}
    for (view, foot), photo in photos_in_use(pair).items():
        name = f"photos/{pair.label}-{view}-{foot or 'pair'}.jpg".replace(" ", "_")
        if not photo.full or not Path(photo.full.path).exists():
            continue
        files[name] = Path(photo.full.path).read_bytes()
        stand = photo.mm_per_px if photo.scale.source == "stand" else None
        photos.append(
            {"file": name, "view": view, "foot": foot, "mm_per_px": stand, "sha256": photo.sha256}
            | {"lamp": photo.lamp, "lamp_mm": photo.lamp_mm}
        )
        found = Marking.objects.filter(photo=photo, checkpoint__in=on_guide).order_by("checkpoint")
        marks += [
            {"check": on_guide[one.checkpoint_id], "file": name, "points": one.points, "origin": one.origin}
            for one in found
        ]
    said = latest_readings([pair])
    answers = [
        {"check": on_guide[key], "value": reading.value}
        for (_, key), reading in said.items()
        if key in on_guide and reading.checkpoint.kind == "answer" and reading.value is not None
    ]
    return {
        "standing": pair.standing,
        "batch": pair.batch.name if pair.batch else "",
        **{name: getattr(pair, name) for name in PAIR},
        "photos": photos,
        "marks": marks,
        "answers": answers,
        "inscriptions": {place: one.text for place, one in inscriptions_of(pair).items()},
    }


@dataclass
class Preview:
    """What a file would bring."""

    document: dict
    files: dict[str, bytes]
    maker_known: bool
    release: Release | None
    new: list[str] = field(default_factory=list)
    changed: list[dict] = field(default_factory=list)
    clashing: list[str] = field(default_factory=list)
    same: int = 0
    pairs: list[dict] = field(default_factory=list)


def read_guide(data: bytes) -> tuple[dict, dict[str, bytes]]:
    """The document and the photographs of a file, checked. Raises AssayError ``bad_guide_file``,
    ``newer_guide_file``."""
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as bag:
            entries = bag.infolist()
            if len(entries) > MOST_FILES or sum(entry.file_size for entry in entries) > MOST_BYTES:
                raise AssayError("bad_guide_file", what="it is larger than any guide")
            names = [entry.filename for entry in entries]
            if odd := [name for name in names if name not in PLAIN and not PHOTO_NAME.match(name)]:
                raise AssayError("bad_guide_file", what=f"“{odd[0][:60]}” has no place in it")
            files = {entry.filename: _read(bag, entry) for entry in entries}
    except AssayError:
        raise
    except (zipfile.BadZipFile, zlib.error, EOFError, OSError, RuntimeError, NotImplementedError, ValueError) as error:
        raise AssayError("bad_guide_file", what="it is no ZIP file, or did not arrive whole") from error
    _must_match(files)
    try:
        document = json.loads(files.pop("guide.json"), parse_constant=_no_number)
    except (ValueError, KeyError, RecursionError) as error:
        raise AssayError("bad_guide_file", what="its guide.json cannot be read") from error
    said = document.get("format") if isinstance(document, dict) else None
    if isinstance(said, str) and re.fullmatch(r"wahrheit-guide/\d+", said) and said != FORMAT:
        raise AssayError("newer_guide_file", got=said)
    if said != FORMAT:
        raise AssayError("bad_guide_file", what="it is no guide")
    _must_follow_schema(document)
    return document, files


@cache
def _schema():
    from jsonschema import Draft202012Validator  # noqa: PLC0415 - few starts of a server ever read a guide file

    path = Path(settings.BASE_DIR, "reports", "schema", "guide-1.schema.json")
    return Draft202012Validator(json.loads(path.read_text()))


def _must_follow_schema(document: dict) -> None:
    """What was published is what is taken: whatever else is kept breaks pages later."""
    if len(document.get("checks") or ()) > MOST_CHECKS:
        raise AssayError("bad_guide_file", what=f"it has more than {MOST_CHECKS} checks")
    if wrong := next(_schema().iter_errors(document), None):
        where = " › ".join(str(one if isinstance(one, str) else one + 1) for one in wrong.absolute_path)
        raise AssayError("bad_guide_file", what=f"{where or 'its top'}: {wrong.message[:120]}")


def _read(bag: zipfile.ZipFile, entry: zipfile.ZipInfo) -> bytes:
    with bag.open(entry) as source:
        # What unpacks to more than it said is cut off, and then does not match its sum.
        return source.read(entry.file_size + 1)


def _no_number(word: str) -> None:
    raise ValueError(word)


def _must_match(files: dict[str, bytes]) -> None:
    listed = {}
    for line in files.pop("manifest-sha256.txt", b"").decode("utf-8", "replace").splitlines():
        digest, _, name = line.partition("  ")
        listed[name] = digest
    if set(listed) != set(files) or len(files.get("guide.json", b"")) > MOST_JSON:
        raise AssayError("bad_guide_file", what="its list of files and its files differ")
    for name, data in files.items():
        if hashlib.sha256(data).hexdigest() != listed[name]:
            raise AssayError("bad_guide_file", what=f"{name} was changed since")


def preview_guide(*, organisation: Organisation, user, data: bytes) -> Preview:
    """What it would bring: new, changed, clashing. Raises AssayError ``not_allowed`` or what reading raises."""
    must(user, MAY_CHECK)
    must(user, MAY_MAKER)
    document, files = read_guide(data)
    try:
        return _preview(organisation, document, files)
    except (KeyError, TypeError, AttributeError, ValueError) as error:
        raise AssayError("bad_guide_file", what="something in it is missing or of the wrong kind") from error


def _preview(organisation: Organisation, document: dict, files: dict[str, bytes]) -> Preview:
    release = visible_to(organisation).filter(style_code=str(document["release"]["style_code"])).first()
    maker = Maker.objects.filter(name__iexact=str(document["maker"]["name"])).exists()
    found = Preview(document, files, maker, release)
    there = {checkpoint.key: checkpoint for checkpoint in release.checkpoints.all()} if release else {}
    for said in document["checks"]:
        mine = there.get(said["key"])
        if mine is None:
            found.new.append(said["name"])
        elif any(getattr(mine, name) != said[name] for name in SAME_THING):
            found.clashing.append(said["name"])
        elif differing := [name for name in CHECK if name != "position" and getattr(mine, name) != said[name]]:
            found.changed.append({"key": said["key"], "name": said["name"], "fields": ", ".join(differing)})
        else:
            found.same += 1
    digests = set(Photo.objects.filter(pair__organisation=organisation).values_list("sha256", flat=True))
    for n, said in enumerate(document["pairs"]):
        theirs = [{hashlib.sha256(files[one["file"]]).hexdigest(), one["sha256"]} for one in said["photos"]]
        told = {"n": n, "batch": said["batch"], "photos": len(theirs), "size": said["size_us"]}
        told["known"] = bool(theirs) and all(their & digests for their in theirs)
        found.pairs.append(told | {"copy": said["standing"] == Standing.COPY})
    return found


def import_guide(*, organisation: Organisation, user, data: bytes, overwrite: set[str]) -> Release:
    """Take in what is new, and of the changed checks those named in ``overwrite``; nothing else is touched. Pairs come
    as candidates: the shop says itself what it takes for retail.

    Raises AssayError as ``preview_guide`` does; then nothing was kept.
    """
    found = preview_guide(organisation=organisation, user=user, data=data)
    if found.release and (overwrite or found.new):
        # What is new stands on a guide as well as what is changed: only its own people put it there.
        must_write(user, found.release)
    received = _received(found)
    try:
        with transaction.atomic():
            release, pairs = _take_in(organisation, user, found, received, overwrite)
    except (KeyError, TypeError, AttributeError, ValueError, ValidationError, DatabaseError) as error:
        if isinstance(error, AssayError):
            raise
        raise AssayError("bad_guide_file", what="something in it is missing or of the wrong kind") from error
    for pair in pairs:
        request_reading(pair=pair, user=user)
        if pair.standing == Standing.COPY:
            know_copy(pair=pair)
    return release


def _received(preview: Preview) -> dict[str, Received]:
    """The photographs that are new, decoded and cleaned before anything is locked. Raises CannotOpen."""
    new = [preview.document["pairs"][pair["n"]] for pair in preview.pairs if not pair["known"]]
    return {one["file"]: receive(preview.files[one["file"]]) for said in new for one in said["photos"]}


def _take_in(
    organisation: Organisation, user, preview: Preview, received: dict, overwrite: set[str]
) -> tuple[Release, list[Pair]]:
    document = preview.document
    release = preview.release or _release_in(document, organisation)
    for said in document["views"]:
        View.objects.get_or_create(key=said["key"], defaults=_kept(said, VIEW) | {"position": 500})
    there = {one.key: one for one in Checkpoint.every.filter(release__in=release.siblings)}
    _checks_in(release, document, there, overwrite & {one["key"] for one in preview.changed})
    for said in document["batches"]:
        Batch.objects.get_or_create(release=release, name=said["name"], defaults={"habits": said["habits"]})
    new = [document["pairs"][pair["n"]] for pair in preview.pairs if not pair["known"]]
    on_guide = {checkpoint.key: checkpoint for checkpoint in release.checkpoints.all()}
    pairs = [_pair_in(organisation, user, release, said, received, on_guide) for said in new]
    for case in Case.objects.filter(organisation=organisation, pair__release__in=release.siblings, signed_at=None):
        regrade(case)
    note_of_organisation(organisation, user, "guide_imported", code=release.style_code, of=str(document["house"])[:80])
    return release, pairs


def _kept(said: Mapping, names: tuple[str, ...]) -> dict:
    return {name: said[name] for name in names}


def _release_in(document: Mapping, organisation: Organisation) -> Release:
    maker, new = Maker.objects.get_or_create(
        name=document["maker"]["name"], defaults=_kept(document["maker"], MAKER[1:])
    )
    for said in document["size_charts"] if new else ():
        SizeChart.objects.create(maker=maker, group=said["group"], csv=said["csv"])
    model, _ = ShoeModel.objects.get_or_create(maker=maker, name=document["model"])
    made = Release(shoe_model=model, organisation=organisation, **_kept(document["release"], RELEASE))
    made.full_clean(exclude=["shoe_model", "organisation", "sizes_us"])
    if not all(isinstance(size, str) for size in [*made.sizes_us, *made.factory_codes, *made.barcodes.values()]):
        raise ValueError(made.style_code)
    made.save()
    return made


def _checks_in(release: Release, document: Mapping, there: dict[str, Checkpoint], overwrite: set[str]) -> None:
    free = max([0, *Checkpoint.every.filter(release=release).values_list("position", flat=True)]) + 1
    for said in document["checks"]:
        mine = there.get(said["key"])
        if mine is None:
            feet = {foot: there.get(said[foot]) for foot in ("left", "right")}
            kept = {**_kept(said, CHECK), "position": free, "relation": Relation(said.get("relation", ""))}
            kept["level"] = str(said.get("level", ""))
            mine = Checkpoint(release=release, **kept, **feet)
            free += 1
        elif said["key"] in overwrite and mine.release_id == release.pk:
            for name in CHECK:
                if name not in (*SAME_THING, "key", "position"):
                    setattr(mine, name, said[name])
            mine.level = str(said.get("level", mine.level))
        else:
            continue
        _must_be_a_check(mine)
        mine.save()
        there[mine.key] = mine


def _must_be_a_check(check: Checkpoint) -> None:
    """One that the core understands. Raises ValidationError, ValueError, TypeError."""
    check.full_clean(exclude=["release", "left", "right", "prior", "answers"])
    known = not check.measure or check.measure in MEASURES
    known &= not check.paper or check.paper in PAPERS
    answers = all(
        isinstance(answer, list) and len(answer) > 1 and all(isinstance(w, str) for w in answer)
        for answer in check.answers
    )
    if not known or not answers or not math.isfinite(check.minutes):
        raise ValueError(check.key)
    belief = prior_of(check)
    numbers = (belief.pairs, belief.scatter, belief.off_by_one, *belief.rare.values())
    if not all(isinstance(number, int | float) and math.isfinite(number) and number >= 0 for number in numbers):
        raise ValueError(check.key)


def _pair_in(organisation, user, release, said, received, on_guide) -> Pair:
    copy = said["standing"] == Standing.COPY
    standing = Standing.COPY if copy else Standing.CANDIDATE
    pair = Pair(
        organisation=organisation, release=release, standing=standing, label=free_label(organisation, LETTER[standing]),
        batch=Batch.objects.get(release=release, name=said["batch"]) if copy else None, **_kept(said, PAIR),
    )  # fmt: skip
    pair.full_clean(exclude=["organisation", "release", "batch"])
    pair.save()
    photos = {}
    for one in said["photos"]:
        photo = receive_photo(
            pair=pair, data=received[one["file"]], by=user, name=one["file"][7:], view=one["view"], foot=one["foot"],
            mm_per_px=one["mm_per_px"],
        )  # fmt: skip
        photo.lamp, photo.lamp_mm = one["lamp"], one["lamp_mm"]
        photo.save(update_fields=["lamp", "lamp_mm"])
        photos[one["file"]] = photo
    for one in said["marks"]:
        points = [[float(x), float(y)] for x, y in one["points"]]
        Marking.objects.create(
            checkpoint=on_guide[one["check"]], photo=photos[one["file"]], points=points,
            origin=Marking.Origin(one["origin"]),
        )  # fmt: skip
    for one in said["answers"]:
        check = on_guide[one["check"]]
        if one["value"] in {key for key, *_ in check.answers}:
            say(checkpoint=check, pair=pair, value=one["value"], method=SAID, by=user)
    if said["inscriptions"]:
        inscribe(pair=pair, places=said["inscriptions"], by=user)
    return pair
