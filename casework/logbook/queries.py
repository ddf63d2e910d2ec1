"""Reads for the logbook: closed cases, what was learned later, and what the shop's verdicts are worth."""

from collections import Counter, defaultdict
from collections.abc import Iterable
from dataclasses import dataclass
from statistics import median

from django.core.cache import cache
from django.db.models import Count, F, OuterRef, Q, Subquery

from assay.judge.agreement import Kappa, kappa
from assay.judge.detection import jeffreys, wilson
from assay.judge.metrics import cllr, cllr_min
from assay.judge.recalibrate import Recalibration, recalibrated
from casework.corrections import looked_at, reading_errors
from casework.guides.wording import WORDS
from casework.logbook import seasons
from casework.logbook.seasons import RED
from casework.models import Case, Finding, LedgerEntry, Opinion, Outcome
from casework.outcomes import LAST_OPINION, LAST_OUTCOME
from casework.search import search_cases
from pairs.models import Organisation

PAGE = 50
COLUMNS = ("number", "signed_at", "style_code", "verdict", "decibans", "checker", "outcome")
FEW = 10
"""Known outcomes below which everything is said to rest on few."""
BINS = ((-200, -20), (-20, -10), (-10, 0), (0, 10), (10, 20), (20, 200))
COST_DRAWN = 0.5
"""Cllr that fills the drawing; what is more is cut off there and stands in the table."""
TELLS_NOTHING, TELLS_MOSTLY, ALARMS_SELDOM = 0.25, 0.5, 0.2
FALSE_ALARMS = 0.1
"""A check that surely flags more genuine pairs than this raises more doubts than it settles. Assumed."""
LAST = 1500
"""Cases that checks are told by, the latest ones: what tells copies apart ages within a season."""
KEPT_S = 3600
"""How long it is kept where nothing is done meanwhile, s."""
LEAST_CASES = 5
"""Cases from which a check's worth is told."""


def closed(organisation: Organisation, wanted: dict, hidden: frozenset[int] = frozenset()):
    """Closed cases with their last verdict and what was learned last, the newest first. One query.

    ``wanted``: verdict, outcome, checker, q. ``hidden``: keys of those that its person must not see yet.
    """
    cases = Case.objects.filter(organisation=organisation, signed_at__isnull=False, discarded_at=None).exclude(
        pk__in=hidden
    )
    cases = cases.annotate(
        verdict=Subquery(LAST_OPINION.values("verdict")[:1]),
        decibans=Subquery(LAST_OPINION.values("decibans")[:1]),
        checker=Subquery(LAST_OPINION.values("checker__username")[:1]),
        so=Subquery(LAST_OUTCOME.values("so")[:1]),
    ).select_related("pair__release__shoe_model__maker")
    if wanted.get("verdict"):
        cases = cases.filter(verdict=wanted["verdict"])
    if wanted.get("outcome") == "none":
        cases = cases.filter(so=None)
    elif wanted.get("outcome") == "against":
        cases = cases.filter(so__isnull=False).exclude(so=F("verdict")).exclude(verdict="undecided")
    elif wanted.get("outcome"):
        cases = cases.filter(so=wanted["outcome"])
    if wanted.get("checker"):
        cases = cases.filter(checker=wanted["checker"])
    if q := wanted.get("q", "").strip():
        cases = search_cases(cases, q)
    return cases.order_by("-signed_at", "-pk")


@dataclass(frozen=True, slots=True)
class Rate:
    """A share with its intervals."""

    name: str
    times: int
    of: int

    @property
    def words(self) -> str:
        if not self.of:
            return "no case yet"
        low, high = (round(100 * one, 1) for one in wilson(self.times, self.of))
        return f"{100 * self.times / self.of:.1f} % ({low:g} to {high:g})"

    @property
    def jeffreys(self) -> str:
        return " to ".join(f"{100 * share:.1f}" for share in jeffreys(self.times, self.of)) if self.of else "–"

    @property
    def bar(self) -> dict:
        """For the drawing: middle and ends, in hundredths."""
        low, high = wilson(self.times, self.of)
        share = self.times / self.of if self.of else 0.5
        return {"x": round(100 * share, 1), "low": round(100 * low, 1), "wide": round(100 * (high - low), 1)}


def learned(organisation: Organisation) -> dict:
    """Everything that the closed cases teach, worked out anew once the ledger has grown. Two queries, else
    seventeen."""
    last = LedgerEntry.objects.filter(organisation=organisation).order_by("-pk").values_list("pk", flat=True).first()
    many = Case.objects.filter(organisation=organisation, signed_at__isnull=False).count()
    return cache.get_or_set(f"learned-{organisation.pk}-{last}-{many}", lambda: _learned(organisation), KEPT_S)


def _learned(organisation: Organisation) -> dict:
    rows = list(
        closed(organisation, {}).values(
            "pk", "verdict", "decibans", "so", "checker", "signed_at", "opened_at",
            maker=F("pair__release__shoe_model__maker__name"),
        )
    )  # fmt: skip
    known = [row for row in rows if row["so"]]
    decided = [row for row in known if row["verdict"] != "undecided"]
    minutes = [(row["signed_at"] - row["opened_at"]).total_seconds() / 60 for row in rows]
    return {
        "cases": len(rows),
        "known": len(known),
        "few": len(known) < FEW,
        "rates": _rates(rows, known, decided),
        "by_checker": _by(decided, "checker"),
        "by_maker": _by(decided, "maker"),
        "reliability": _reliability(known),
        "costs": _costs(known),
        "minutes": round(median(minutes)) if minutes else None,
        "checks": checks(organisation),
        "recalibration": recalibration(organisation),
        "agreement": agreement(organisation),
        "settled": _signed_again(organisation),
        "seasons": seasons.batches(organisation),
        "got_right": seasons.got_right(organisation, LAST),
        "would_settle": seasons.would_settle(organisation),
        "misread": _misread(organisation),
    }


def _rates(rows: list, known: list, decided: list) -> list[Rate]:
    fakes, legits = ([row for row in decided if row["so"] == so] for so in ("fake", "legit"))
    return [
        Rate("Copies that were passed as legit", sum(row["verdict"] == "legit" for row in fakes), len(fakes)),
        Rate("Genuine pairs that were called fake", sum(row["verdict"] == "fake" for row in legits), len(legits)),
        Rate("Verdicts that turned out wrong", sum(row["verdict"] != row["so"] for row in decided), len(decided)),
        Rate("Cases left undecided", sum(row["verdict"] == "undecided" for row in rows), len(rows)),
        Rate("Cases whose outcome is known", len(known), len(rows)),
    ]


def _misread(organisation: Organisation) -> list[dict]:
    """Sure readings that people looked at, by measure, and how often such a one is taken for wrong."""
    errors = reading_errors(organisation)
    return [
        {"rate": Rate(WORDS[name].heading, seen.wrong, seen.of), "taken": f"{100 * errors[name]:.1f} %"}
        for name, seen in sorted(looked_at(organisation).items(), key=lambda item: -item[1].of)
        if name in WORDS
    ]


def _by(decided: list, name: str) -> list[Rate]:
    groups: dict[str, list] = defaultdict(list)
    for row in decided:
        groups[row[name] or "–"].append(row["verdict"] != row["so"])
    return [Rate(key, sum(given), len(given)) for key, given in sorted(groups.items())]


def _reliability(known: list) -> list[dict]:
    """Of pairs that weighed so much, how many were retail: what was predicted at even odds beside what came."""
    found = []
    for low, high in BINS:
        some = [row for row in known if row["decibans"] is not None and low <= row["decibans"] < high]
        if some:
            said = sum(1 / (1 + 10 ** (-row["decibans"] / 10)) for row in some) / len(some)
            rate = Rate(f"{low:+d} to {high:+d} deciban", sum(row["so"] == "legit" for row in some), len(some))
            found.append({"rate": rate, "said": f"{100 * said:.0f} %", "x": round(10 + 100 * said, 1)})
    return found


def _costs(known: list) -> list[dict]:
    """Cllr and the least that recalibration could make of it, quarter by quarter and of all."""
    quarters: dict[str, list] = defaultdict(list)
    for row in known:
        if row["decibans"] is not None:
            quarters[seasons.quarter_of(row["signed_at"])].append(row)
    quarters = dict(sorted(quarters.items())) | {"all": [one for some in quarters.values() for one in some]}
    found = []
    for name, some in quarters.items():
        ours, theirs = ([row["decibans"] / 10 for row in some if row["so"] == so] for so in ("legit", "fake"))
        if ours and theirs:
            both = cllr(ours, theirs), cllr_min(ours, theirs)
            heights = [round(min(COST_DRAWN, one) / COST_DRAWN * 100, 1) for one in both]
            found.append({"name": name, "many": len(some), "cllr": both[0], "least": both[1], "heights": heights})
    return found


def _unique_catches(cases) -> Counter:
    """By check, how many copies it alone raised a flag on. One query."""
    known = Outcome.objects.filter(case=OuterRef("case")).order_by("-pk")
    flags = Finding.objects.filter(case__in=cases, grade__in=RED).annotate(so=Subquery(known.values("so")[:1]))
    of_case: dict[int, list[int]] = defaultdict(list)
    for case, checkpoint in flags.filter(so="fake").values_list("case", "checkpoint"):
        of_case[case].append(checkpoint)
    return Counter(some[0] for some in of_case.values() if len(some) == 1)


def checks(organisation: Organisation) -> list[dict]:
    """Which checks earned their minutes in the last cases: how often each told, and on which side. Two queries."""
    last = (
        Case.objects.filter(organisation=organisation, signed_at__isnull=False)
        .order_by("-signed_at")
        .values("pk")[:LAST]
    )
    said = Finding.objects.filter(case__in=last).exclude(grade="not_compared")
    known = Outcome.objects.filter(case=OuterRef("case")).order_by("-pk")
    rows = (
        said.annotate(so=Subquery(known.values("so")[:1]))
        .values("checkpoint__name", "checkpoint__minutes", "checkpoint__cap_against", "checkpoint")
        .annotate(
            cases=Count("pk"),
            red_on_fakes=Count("pk", filter=Q(grade__in=RED, so="fake")),
            fakes=Count("pk", filter=Q(so="fake")),
            red_on_legits=Count("pk", filter=Q(grade__in=RED, so="legit")),
            legits=Count("pk", filter=Q(so="legit")),
        )
    )
    alone = _unique_catches(last)
    found = [_check(row | {"alone": alone[row["checkpoint"]]}) for row in rows if row["cases"] >= LEAST_CASES]
    return sorted(found, key=lambda one: -one["a_minute"])


def _check(row: dict) -> dict:
    # Half a case is added to each: nothing is certain from few.
    on_fakes = (row["red_on_fakes"] + 0.5) / (row["fakes"] + 1)
    on_legits = (row["red_on_legits"] + 0.5) / (row["legits"] + 1)
    gap = on_fakes - on_legits if row["fakes"] and row["legits"] else 0.0
    return {
        "pk": row["checkpoint"], "name": row["checkpoint__name"], "cases": row["cases"],
        "minutes": row["checkpoint__minutes"],
        "fakes": Rate("", row["red_on_fakes"], row["fakes"]), "legits": Rate("", row["red_on_legits"], row["legits"]),
        "a_minute": gap / max(row["checkpoint__minutes"], 0.05),
        "alone": row["alone"],
        "suggests": _suggests(row),
    }  # fmt: skip


def _suggests(row: dict) -> str:
    """What its figures suggest: retire one that tells nothing or accuses genuine pairs as often as copies, and caught
    no copy alone; raise the cap of one that nearly always tells."""
    if row["fakes"] >= FEW and not row["alone"]:
        tells_nothing = wilson(row["red_on_fakes"], row["fakes"])[1] < TELLS_NOTHING
        alarms = row["legits"] >= FEW and wilson(row["red_on_legits"], row["legits"])[0] > FALSE_ALARMS
        if tells_nothing or alarms:
            return "retire"
    capped = row["checkpoint__cap_against"] is not None and row["legits"] >= FEW and row["fakes"] >= FEW
    tells = capped and wilson(row["red_on_fakes"], row["fakes"])[0] > TELLS_MOSTLY
    return "raise" if tells and wilson(row["red_on_legits"], row["legits"])[1] < ALARMS_SELDOM else ""


def recalibration(organisation: Organisation) -> Recalibration | None:
    """What the weights are worth by the known outcomes, each batch of copies left out in turn. One query."""
    known = closed(organisation, {}).filter(so__isnull=False, decibans__isnull=False)
    rows = list(known.values_list("decibans", "so", "pair__batch__name", "signed_at"))
    # Without a batch, what was signed in one quarter comes in together.
    groups = [batch or seasons.quarter_of(at) for _, _, batch, at in rows]
    return recalibrated([row[0] for row in rows], [row[1] == "legit" for row in rows], groups)


def agreement(organisation: Organisation) -> Kappa | None:
    """How far two people's verdicts on one pair agree beyond chance: second looks. A query."""
    last = Opinion.objects.filter(case=OuterRef("pk")).order_by("pk")
    first = Opinion.objects.filter(case=OuterRef("second_of")).order_by("pk")
    seconds = Case.objects.filter(
        organisation=organisation, second_of__isnull=False, round=False, signed_at__isnull=False
    )
    pairs = seconds.annotate(one=Subquery(first.values("verdict")[:1]), other=Subquery(last.values("verdict")[:1]))
    return kappa([row for row in pairs.values_list("one", "other") if all(row)])


def _signed_again(organisation: Organisation) -> int:
    """How many cases were signed more than once. A query."""
    again = (
        LedgerEntry.objects.filter(organisation=organisation, action="signed")
        .values("case")
        .annotate(times=Count("pk"))
    )
    return sum(row["times"] > 1 for row in again)


def outcome_rows(cases: Iterable) -> list[dict]:
    """What an export holds of closed cases."""
    return [
        {
            "number": case.number, "signed_at": case.signed_at.isoformat(), "style_code": case.pair.release.style_code,
            "verdict": case.verdict, "decibans": case.decibans, "checker": case.checker, "outcome": case.so or "",
        }
        for case in cases
    ]  # fmt: skip
