"""Reads for the counter, in a known number of queries."""

from collections import Counter
from dataclasses import replace

from django.db.models import Prefetch, prefetch_related_objects

from assay.judge.grade import RED_FLAGS, Grade
from casework.actions.start_from_photos import release_codes
from casework.counter.rows import CaseProgress, CaseRow
from casework.findings import mark_of
from casework.grading import VOID
from casework.models import Case, Finding
from casework.revisions import Kept, revisions_of
from casework.search import search_cases
from casework.second_rule import SecondRule, second_rule
from casework.visibility import hidden_cases
from library.models import Foot, Release
from library.photo_kinds import kinds_by_key
from pairs.models import Photo

MOST = 200
RELEASE = "pair__release__"
NOT_SHOWN = (
    *(f"{RELEASE}{name}" for name in ("sizes_us", "barcodes", "factory_codes", "packing")),
    *(f"{RELEASE}shoe_model__maker__{name}" for name in ("label_layouts", "box_classes")),
    "tools",
)
SIGNED_SHOWN = 12


def arrivals(organisation, token) -> dict:
    """What was read on a drop so far: how many, how many are read, and the releases found, the likeliest first. Two
    queries."""
    rows = list(organisation.dropped.filter(token=token))
    codes = release_codes(rows)
    names = {
        one.style_code: str(one)
        for one in Release.objects.filter(style_code__in=codes).select_related("shoe_model__maker")
    }
    found = [{"code": code, "name": names[code]} for code in codes if code in names]
    return {"arrived": len(rows), "read": sum(row.is_read for row in rows), "releases": found}


def client_drops(organisation) -> list[dict]:
    """Photographs that clients sent and no case has yet: how many, since when, and their release. Three queries."""
    links = {link.drop: link for link in organisation.links.exclude(drop=None)}
    drops: dict = {}
    for row in organisation.dropped.filter(token__in=links):
        drops.setdefault(row.token, []).append(row)
    codes = {token: next(iter(release_codes(rows)), "") for token, rows in drops.items()}
    known = Release.objects.filter(style_code__in=codes.values()).select_related("shoe_model__maker")
    names = {one.style_code: one for one in known}
    return [
        {
            "token": token, "count": len(rows), "since": rows[0].added_at, "code": codes[token],
            "release": names.get(codes[token]),
        }
        for token, rows in drops.items()
    ]  # fmt: skip


ROWS = Kept(most=MOST + SIGNED_SHOWN)


def counter(organisation, asked: str = "", user=None) -> dict:
    """Cases of a shop, newest first, with what each waits for; those in which all that is ``asked`` stands.
    Thirteen queries."""
    cases = Case.objects.filter(organisation=organisation, discarded_at=None)
    if asked:
        cases = search_cases(cases, asked, hidden_cases(user, organisation) if user else frozenset())
    cases = cases.select_related("pair__release__shoe_model__maker", "opened_by", "desk").defer(*NOT_SHOWN)
    cases, rule = cases.prefetch_related("opinions__checker"), second_rule(organisation)
    signed = cases.exclude(signed_at=None)
    shown = list(signed[: MOST if asked else SIGNED_SHOWN])
    begun = Case.objects.filter(organisation=organisation, round=False, discarded_at=None).exclude(second_of=None)
    older = signed.filter(rule.query).exclude(pk__in=begun.values("second_of"))
    older = older.exclude(pk__in=[one.pk for one in shown]).distinct()
    older = [] if asked else older
    cases = [*cases.filter(signed_at=None)[:MOST], *shown, *older[:MOST]]
    looked = {case.second_of_id: case for case in cases if case.second_of_id and not case.round}
    rows = [_row(case, looked.get(case.pk), rule, user) for case in cases if not _blind(case, user)]
    # What is due comes first, the earliest at the top.
    waiting = sorted((row for row in rows if not row.is_signed), key=lambda row: str(row.due or "9999"))
    # The logbook has them all.
    signed = [row for row in rows if row.is_signed][: None if asked else SIGNED_SHOWN]
    progress = _progress_of([row.case for row in (*waiting, *signed)])
    return {
        "drops": [] if asked else client_drops(organisation),
        "waiting": [replace(row, progress=progress[row.case.pk]) for row in waiting],
        "signed": [replace(row, progress=progress[row.case.pk]) for row in signed],
        "seconds": [row for row in rows if row.may_second],
    }


def _row(case: Case, second: Case | None, rule: SecondRule, user) -> CaseRow:
    """A case without its progress: whether it is signed, wants another look, and who may have it."""
    opinions = list(case.opinions.all())
    last = opinions[-1] if opinions else None
    mine = user is not None and user.pk in {case.opened_by_id, *(opinion.checker_id for opinion in opinions)}
    may = second is None and rule.wants(case, last) and not mine
    hidden = (second is not None and not second.signed_at and user is not None) or may
    return CaseRow(case, last, getattr(case, "desk", None), hidden=hidden, may_second=may)


def _progress_of(cases: list[Case]) -> dict[int, CaseProgress]:
    """How far each case is, by its key. Four queries."""
    words = revisions_of(cases)
    kept = {case.pk: ROWS.get(case.pk, words[case.pk]) for case in cases}
    anew = [case for case in cases if kept[case.pk] is None]
    needed = ("case", "grade", "reason", "confirmed_by", "checkpoint__name", "checkpoint__position")
    findings = Finding.objects.select_related("checkpoint").only(*needed).order_by("pk")
    photos = Photo.objects.only("pair", "preview", "view", "foot", "state", "set_aside")
    prefetch_related_objects(anew, Prefetch("findings", findings), Prefetch("pair__photos", photos))
    for case in anew:
        kept[case.pk] = ROWS.put(case.pk, words[case.pk], _progress(case))
    for case in cases:
        if case.to_analyse:
            kept[case.pk] = replace(kept[case.pk], waits=f"measuring {case.analysed} of {case.to_analyse}")
    return kept


def _blind(case: Case, user) -> bool:
    """The other side of a blind look that is not signed yet."""
    open_look = bool(case.second_of_id) and not case.round and not case.signed_at
    return open_look and user is not None and case.opened_by_id != user.pk


def _progress(case: Case) -> CaseProgress:
    findings = list(case.findings.all())
    applying = [f for f in findings if f.reason != VOID]
    photos = list(case.pair.photos.all())
    order = {key: n for n, key in enumerate(kinds_by_key())}
    shown = (photo for photo in photos if photo.preview)
    return CaseProgress(
        done=sum(f.grade != Grade.NOT_COMPARED for f in applying),
        of=len(applying),
        waits=_waits(case, applying, photos),
        photo=min(shown, key=lambda photo: (order.get(photo.view, len(order)), photo.foot), default=None),
        grades=_grades(findings),
    )


def _grades(findings: list) -> tuple[tuple[str, int], ...]:
    """How many findings have each grade, the gravest first."""
    counted = Counter(mark_of(finding) for finding in findings)
    order = [grade.value for grade in (Grade.RULES_OUT, Grade.DEPARTS, Grade.DRIFTS, Grade.AGREES)]
    return tuple((mark, counted[mark]) for mark in order if counted[mark])


def _waits(case: Case, applying: list, photos: list) -> str:
    return _waits_for_facts(case, photos) or _waits_for_eyes(applying)


def _waits_for_facts(case: Case, photos: list) -> str:
    if not case.pair.condition or not case.pair.size_us:
        return "the facts: size and condition"
    if any(photo.state == "read" and not photo.view and not photo.set_aside for photo in photos):
        return "a word on what a photograph shows"
    if not set(Foot.values) <= {photo.foot for photo in photos if not photo.set_aside}:
        return "photographs of both shoes"
    return ""


def _waits_for_eyes(applying: list) -> str:
    unseen = [f for f in applying if Grade(f.grade) in RED_FLAGS and not f.confirmed_by_id]
    if unseen:
        return f"an eye on {unseen[0].checkpoint.name.lower()}"
    asked = [f for f in applying if f.reason == "not_looked_at"]
    if asked:
        return asked[0].checkpoint.name.lower()
    return "a verdict"
