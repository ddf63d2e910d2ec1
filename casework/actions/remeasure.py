"""Read photographs anew with newer methods: measured by many processes or machines, written by one, beside the old.

What a person put right stands; a signed case stays as it was signed. Every photograph's readings are kept as soon as
they are there: cut off, it goes on where it was.
"""

import re
from collections import defaultdict
from collections.abc import Callable, Iterator
from concurrent.futures import FIRST_COMPLETED, Executor, wait
from itertools import islice

from django.db import transaction
from django.db.models import Max

from assay.contracts import Measurement
from assay.errors import AssayError
from assay.measure.registry import MEASURES
from assay.pipeline.measure import PhotoToMeasure, Refusal, measure_photo
from casework.actions.second_photo import BESIDE
from casework.grading import regrade
from casework.models import Case
from pairs.actions.refresh_retail import TELLING, is_outdated
from pairs.models import Pair, Photo, Reading
from pairs.pictures import facts
from pairs.pipeline import reading_of, task_of
from pairs.queries import markings_on

AHEAD = 3
"""Photographs on their way for every process: few enough that they fit into memory."""


def outdated(since: str = "") -> dict[int, list[Reading]]:
    """Latest readings that a newer method would read anew, by photograph. ``since``: only of this measure and only from
    this version on back, such as ``seam/11``. What is held beside another photograph is left to a run over its case,
    which reads both. Raises AssayError ``no_such_method``."""
    name, last = _method(since)
    rows = Reading.objects.exclude(photo=None).exclude(checkpoint__measure="").filter(pair__case__signed_at=None)
    rows = rows.order_by("pk").values("pk", "pair", "checkpoint", "photo", "details", *TELLING)
    latest = {(row["pair"], row["checkpoint"]): row for row in rows.iterator()}
    found = defaultdict(list)
    for row in latest.values():
        asked = not name or (row["checkpoint__measure"] == name and _version(row["method"]) <= last)
        if asked and is_outdated(row) and BESIDE not in row["details"]:
            found[row["photo"]].append(row["pk"])
    rows = Reading.objects.select_related("checkpoint", "photo__pair", "pair").in_bulk(
        [pk for some in found.values() for pk in some]
    )
    return {photo: [rows[pk] for pk in some] for photo, some in sorted(found.items())}


def _method(since: str) -> tuple[str, int]:
    if not since:
        return "", 0
    name, _, version = since.partition("/")
    if name not in MEASURES or not version.isdecimal():
        raise AssayError("no_such_method", method=since)
    return name, int(version)


def _version(method: str) -> int:
    found = re.search(r"/(\d+)$", method)
    return int(found.group(1)) if found else 0


def remeasure(waiting: dict[int, list[Reading]], farm: Executor, processes: int, told: Callable[[int], None]) -> int:
    """Measure what ``outdated`` told in ``farm`` and keep it. ``told``: photographs done. How many readings are new.

    Jobs are sent a few at a time; a process that dies is the executor's to bring back or to report.
    """
    jobs, going, kept, done, pairs = _jobs(waiting), {}, 0, 0, set()
    while True:
        for photo, marked, job in islice(jobs, AHEAD * processes - len(going)):
            going[farm.submit(measure_photo, job)] = photo, marked
        if not going:
            break
        for future in wait(list(going), return_when=FIRST_COMPLETED).done:
            photo, marked = going.pop(future)
            kept += _keep(waiting[photo], marked, dict(future.result()))
            pairs |= {row.pair_id for row in waiting[photo]}
            done += 1
            told(done)
    _grade_anew(pairs)
    return kept


def _jobs(waiting: dict[int, list[Reading]]) -> Iterator[tuple]:
    """(photograph, marks by checkpoint, job) of those whose file and marks are there."""
    for key, rows in waiting.items():
        photo: Photo = rows[0].photo
        on_photo = markings_on([photo])
        marked = {}
        for row in rows:
            if marking := on_photo.get((key, row.checkpoint_id)):
                marking.checkpoint, marking.photo = row.checkpoint, photo
                marked[row.checkpoint_id] = marking
        if marked and photo.full.storage.exists(photo.full.name):
            data = photo.full.storage.open(photo.full.name).read()
            yield key, marked, PhotoToMeasure(data, facts(photo), tuple(map(task_of, marked.values())))


@transaction.atomic
def _keep(rows: list[Reading], marked: dict, found: dict[int, Measurement | Refusal]) -> int:
    """Readings of one photograph, unless somebody read it anew meanwhile, or signed."""
    kept = 0
    for row in rows:
        if row.checkpoint_id not in found or Case.objects.filter(pair=row.pair_id, signed_at__isnull=False).exists():
            continue
        same = Reading.objects.filter(pair=row.pair_id, checkpoint=row.checkpoint_id)
        if same.aggregate(newest=Max("pk"))["newest"] != row.pk:
            continue
        marking, told = marked[row.checkpoint_id], found[row.checkpoint_id]
        told = told.error() if isinstance(told, Refusal) else told
        reading_of(told, marking=marking, by=row.taken_by).save()
        kept += 1
    return kept


def _grade_anew(pairs: set[int]) -> None:
    """Open cases of the pairs' shops: what they are compared with has changed."""
    organisations = Pair.objects.filter(pk__in=pairs).values("organisation")
    waiting = Case.objects.filter(organisation__in=organisations, signed_at=None, discarded_at=None)
    for case in waiting.select_related("pair__release", "pair__organisation", "reference"):
        with transaction.atomic():
            regrade(case)
