"""Reads for the verdict page, in a known number of queries."""

from django.urls import reverse

from assay.judge.common_causes import scale_errors
from assay.judge.copy_model import UNKNOWN, batches_missing
from assay.judge.evidence import retail_spread
from assay.judge.grade import RED_FLAGS, Grade
from assay.judge.judgement import Kind
from assay.judge.levels import Level
from assay.judge.rules import Verdict, coverage
from assay.judge.too_alike import too_alike
from assay.judge.verbal import in_words, propositions
from assay.judge.weigh import telling
from casework import paper_wording, wording
from casework.actions.keep_pair import two_say_legit
from casework.actions.sign_opinion import SURE_OF_BATCH, missing_for
from casework.bench.panel import answer_names, refusal_words, retail_words, shown_number, unit_words
from casework.bench.plan import decibans_words, settling_words
from casework.bench.stage import crops
from casework.figures import signed
from casework.findings import mark_of, state_of
from casework.grading import VOID, policy_in_force
from casework.models import Case
from casework.photos.queries import place_name
from casework.second_rule import second_rule
from casework.verdict.client_words import client_words
from casework.verdict.second_opinion import both
from library.models import Batch
from pairs.models import Standing
from pairs.queries import photos_in_use

# Of the drawn balance: width, and how far a group's bar may reach.
WIDE, REACH = 300, 110
# Red flags that the page shows with their photographs.
MOST_FLAGS = 6
# Checks left undone that known copies get wrong.
MOST_MISSES = 4
# A scale error that is worth a word, and over how many of its standard deviations it is surely there.
LEAST_SCALE_OFF, SURELY_OFF = 0.01, 3.0
# Nothing is certain: from here on it is only said to be above.
MOST_SAID = 0.999


def _weighed(stand, findings: list) -> dict:
    """What the total would lose without each group, as bars from a middle line; known copies by probability; prior."""
    balance, names = stand.balance, {finding.checkpoint.key: finding.checkpoint.name for finding in findings}
    groups = balance.groups
    most = max((abs(value) for value in groups.values()), default=1.0) or 1.0
    rows = [
        {
            "name": name.replace("-", " "),
            "decibans": value,
            "x": round(WIDE / 2 + min(0.0, value) / most * REACH, 1),
            "width": round(max(abs(value) / most * REACH, 0.5), 1),
        }
        for name, value in sorted(groups.items(), key=lambda group: group[1])
    ]
    batches = [(name, share) for name, share in balance.batches.items() if name != UNKNOWN and share >= SURE_OF_BATCH]
    return {
        "rows": rows,
        "total": balance.total,
        "told": decibans_words(balance.total),
        "confirmed": decibans_words(stand.if_confirmed.total) if stand.if_confirmed is not balance else "",
        "words": in_words(balance.total),
        "propositions": propositions(balance.total),
        "cases": stand.prior.cases,
        "prior": stand.prior.decibans,
        "share": round(100 * stand.prior.share),
        "named": stand.prior.named,
        "after": _share_words(stand.prior.after(balance.total)),
        "batch_from": round(100 * SURE_OF_BATCH),
        "batches": [
            {
                "name": name,
                "percent": "over 99.9" if share > MOST_SAID else f"{100 * share:.3g}",
                "telling": [names[key].lower() for key in telling(balance, name)],
            }
            for name, share in sorted(batches, key=lambda batch: -batch[1])
        ],
    }


def _spread(stand) -> dict | None:
    """The total's range and what it is under each other assumption; None where the verdict does not rest on it."""
    if stand.spread is None:
        return None
    rows = [
        (wording.OTHERWISE[alternative.key], alternative.total, alternative.verdict.value)
        for alternative in stand.spread.alternatives
    ]
    return {"low": stand.spread.low, "high": stand.spread.high, "rows": rows}


def _share_words(retail: float) -> str:
    """A probability of retail as a share of such pairs."""
    if retail >= 0.999:
        return "more than 999 in 1000"
    if retail <= 0.001:
        return "fewer than 1 in 1000"
    return f"about {round(1000 * retail)} in 1000"


def _known_misses(findings: list, stand) -> list[dict]:
    """Checks that nobody has done here and known copies get wrong, those of most batches first."""
    by_key = {finding.checkpoint.key: finding.checkpoint for finding in findings if finding.reason != VOID}
    missed = [(batches_missing(sign), by_key[sign.key]) for sign in stand.unread if sign.key in by_key]
    missed.sort(key=lambda miss: -len(miss[0]))
    return [{"checkpoint": checkpoint, "batches": names} for names, checkpoint in missed[:MOST_MISSES] if names]


def _scales_off(findings: list, stand) -> list[dict]:
    """Photographs whose lengths all say that the scale is off, if the pair is retail."""
    photos = {
        str(finding.reading.photo_id): finding.reading.photo
        for finding in findings
        if finding.reading and finding.reading.photo
    }
    return [
        {
            "photo": photos[key],
            "name": place_name(photos[key].view, photos[key].foot),
            "percent": f"{abs(100 * mean):.1f}",
            "way": "long" if mean > 0 else "short",
        }
        for key, (mean, unsure) in scale_errors(stand.signs).items()
        if abs(mean) >= LEAST_SCALE_OFF and abs(mean) >= SURELY_OFF * unsure
    ]


def _too_alike(findings: list, stand) -> str:
    """The verified pair whose lengths these are, nearly; empty: none."""
    signs = {sign.key: sign for sign in stand.signs if sign.kind is Kind.CONTINUOUS and not sign.prior.compares}
    retail: dict[str, dict[str, float]] = {}
    for finding in findings:
        for label, value in finding.retail if finding.checkpoint.key in signs else ():
            retail.setdefault(label, {})[finding.checkpoint.key] = value
    lengths = {key: sign.value for key, sign in signs.items()}
    return too_alike(lengths, retail, {key: retail_spread(sign).scale for key, sign in signs.items()})


def _before_fake(rows: list, opinions: list, *, wanted: bool) -> list[dict]:
    """What a shop checks before anybody is told that a pair is fake, and whether it is done."""
    flagged = [row for row in rows if Grade(row["finding"].grade) in RED_FLAGS]
    eye = sum(row["by_eye"] for row in flagged)
    sections = {row["checkpoint"].section for row in rows}
    looked = {row["checkpoint"].section for row in rows if row["finding"].grade != Grade.NOT_COMPARED}
    missed = ", ".join(sorted(sections - looked))
    return [
        {"done": bool(flagged) and eye == len(flagged), "what": f"{eye} of {len(flagged)} red flags were seen by eye"},
        {"done": not missed, "what": f"Nothing was compared of: {missed}" if missed else "Every part was looked at"},
        {
            "done": not wanted,
            "what": "A second person looks first" if wanted else "The shop asks for no second opinion",
        },
    ][: 3 if not opinions else 2]


def _may_join(case: Case, opinions: list) -> str:
    """As what a closed case's pair may join the library: retail once two people signed it legit, copy if fake."""
    if not opinions or case.pair.standing != Standing.SUSPECT:
        return ""
    if opinions[-1].verdict == Verdict.FAKE:
        return "copy"
    return "retail" if two_say_legit(opinions) else ""


def rows_of(findings: list) -> list[dict]:
    """Every finding as the verdict page and the certificate show it."""
    rows = []
    for finding in findings:
        names = answer_names(finding.checkpoint)
        rows.append(
            {
                "finding": finding,
                "checkpoint": finding.checkpoint,
                "mark": mark_of(finding),
                "value": shown_number(finding, names),
                "unit": unit_words(finding.checkpoint),
                "retail": retail_words(finding, names),
                "words": wording.GRADE_WORDS[finding.grade],
                "why": paper_wording.why_not_compared(finding),
                "slips": paper_wording.slip_words(finding.reading),
                "refusal": refusal_words(finding.reading),
                "by_eye": bool(finding.confirmed_by_id),
            }
        )
    return rows


def _flags(case: Case, rows: list, pieces: dict) -> dict:
    """Red flags with their places on both photographs: those that wait for an eye first, of these the one whose
    confirmation would change most. A query a flag."""
    flagged = [row for row in rows if Grade(row["finding"].grade) in RED_FLAGS]
    flagged.sort(
        key=lambda row: (
            row["by_eye"],
            not row["checkpoint"].decisive,
            -abs(getattr(pieces.get(row["checkpoint"].key), "piece", 0.0)),
        )
    )
    used = {pair.pk: photos_in_use(pair) for pair in (case.pair, case.reference)} if flagged else {}
    shown = [{"row": row, "sides": crops(case, row["finding"], used)} for row in flagged[:MOST_FLAGS]]
    counts = {"flag_count": len(flagged), "more_flags": len(flagged) - len(shown), "no_flags": not flagged}
    return {"flags": shown, "unconfirmed": [row for row in flagged if not row["by_eye"]], **counts}


def _for_legit(case: Case, findings: list, stand) -> list[dict]:
    """What a legit verdict still needs, each with where to do it; empty where nothing is missing."""
    names = {finding.checkpoint.key: finding.checkpoint.name for finding in findings}
    found = []
    if case.level == Level.TRIAGE:
        found.append(
            {"words": "Raise the level: triage never ends in legit", "url": reverse("intake", args=[case.number])}
        )
    found += [
        {"words": f"Required: {names[key]}", "url": reverse("bench-at", args=[case.number, key])}
        for key in stand.answer.missing
    ]
    of_shoe = round(100 * coverage([item for item in stand.sheet if item.of_shoe]))
    for what, compared in (("", stand.coverage), (" of the shoe itself", of_shoe)):
        if compared < stand.needed:
            found.append({"words": f"Compare {stand.needed} %{what}, now {compared} %", "url": ""})
    if stand.flags:
        found.append({"words": f"{len(stand.flags)} red flag{'s' * (len(stand.flags) != 1)} against it", "url": ""})
    if stand.balance.total < stand.policy.legit_from:
        needs = f"Evidence {signed(stand.policy.legit_from)} deciban, now {signed(stand.balance.total)}"
        found.append({"words": needs, "url": ""})
    return found


def verdict(case: Case) -> dict:
    """The verdict page. About eight queries, and one for each flag that is shown."""
    state = state_of(case)
    findings, stand = state.findings, state.assessment
    rows = rows_of(findings)
    opinions = list(case.opinions.select_related("checker", "policy"))
    looks, policy = both(case), policy_in_force(case.organisation)
    wants_second = bool(opinions) and not looks and second_rule(case.organisation).wants(case, opinions[-1])
    return {
        "case": case,
        "rows": [row for row in rows if row["finding"].grade != Grade.NOT_COMPARED],
        "missing": [row for row in rows if row["finding"].grade == Grade.NOT_COMPARED],
        "standing": stand,
        "weighed": _weighed(stand, findings),
        "spread": _spread(stand),
        "plan": settling_words(case, state),
        "known_misses": [] if case.signed_at else _known_misses(findings, stand),
        "scales_off": [] if case.signed_at else _scales_off(findings, stand),
        "too_alike": "" if case.signed_at else _too_alike(findings, stand),
        "client_words": "" if opinions else client_words(case, rows, stand),
        "needs_reason": [
            {"verdict": verdict.value, "what": wording.against_words(missing)}
            for verdict in Verdict
            if (missing := missing_for(verdict.value, findings, stand))
        ],
        "last_against": wording.against_words(opinions[-1].against) if opinions else "",
        "seen": list(case.sightings.filter(taken_back=False).select_related("made_by")),
        "opinions": opinions,
        "may_join": _may_join(case, opinions),
        "both": looks,
        "before_fake": _before_fake(rows, opinions, wanted=not looks and bool(policy) and policy.second != "never"),
        "wants_second": wants_second,
        "may_ask_second": bool(opinions) and not looks and not wants_second and not case.second_of_id,
        "known_batches": Batch.objects.filter(release__in=case.pair.release.siblings).order_by("name"),
        "last": opinions[-1] if opinions else None,
        "verdicts": [v.value for v in Verdict],
        "policy": policy,
        **_flags(case, rows, stand.pieces),
        "for_legit": [] if case.signed_at else _for_legit(case, findings, stand),
        "ledger": [
            {"entry": entry, "action": wording.ACTIONS.get(entry.action, entry.action)}
            for entry in case.ledger.select_related("actor")
        ],
    }
