"""What a case is about, put right: another release, another pair beside it, or no case at all."""

from django.db import transaction
from django.utils import timezone

from assay.errors import AssayError
from casework.access import CaseSignedError
from casework.actions.analyse_case import request_analysis
from casework.actions.start_case import release_of
from casework.grading import regrade
from casework.ledger import note
from casework.models import Case, Finding
from pairs.models import Marking
from pairs.queries import retail_pairs


def change_release(*, case: Case, user, typed_code: str) -> None:
    """It is another shoe than was typed. What was read stays with the pair; checks of the old guide leave the rail.

    Raises NoSuchRelease, AssayError ``no_reference`` or what the code says.
    """
    release, _, _ = release_of(typed_code, case.organisation)
    if release == case.pair.release:
        return
    with transaction.atomic():
        case = _open(case)
        case.pair.release = release
        case.pair.save(update_fields=["release"])
        known = retail_pairs(case.pair)
        if not known:
            raise AssayError("no_reference", code=release.style_code)
        case.reference = known[0]
        case.save(update_fields=["reference"])
        Finding.objects.filter(case=case).exclude(checkpoint__in=release.checkpoints).delete()
        note(case, user, "release_of_case_changed", style_code=release.style_code)
        regrade(case)
    request_analysis(case=case, user=user)


def choose_reference(*, case: Case, user, label: str) -> None:
    """Another verified pair beside it; marks that were carried over are laid anew. Raises AssayError
    ``no_such_pair``."""
    with transaction.atomic():
        case = _open(case)
        chosen = next((retail_pair for retail_pair in retail_pairs(case.pair) if retail_pair.label == label), None)
        if chosen is None:
            raise AssayError("no_such_pair", label=label[:20])
        if chosen.pk == case.reference_id:
            return
        case.reference = chosen
        case.save(update_fields=["reference"])
        Marking.objects.filter(photo__pair=case.pair_id, origin=Marking.Origin.CARRIED).delete()
        note(case, user, "reference_chosen", label=chosen.label)
        regrade(case)
    request_analysis(case=case, user=user)


def discard_case(*, case: Case, user, why: str) -> None:
    """Opened by mistake, or given up: it leaves the counter, and the ledger keeps why. Raises AssayError
    ``no_reason``."""
    if not why.strip():
        raise AssayError("no_reason")
    with transaction.atomic():
        case = _open(case)
        case.discarded_at = timezone.now()
        case.save(update_fields=["discarded_at"])
        case.links.filter(expires_at__gt=timezone.now()).update(expires_at=timezone.now())
        note(case, user, "discarded", why=why.strip()[:200])


def _open(case: Case) -> Case:
    """The case as it is now. Raises CaseSignedError."""
    now = Case.objects.select_related("pair__release", "organisation").get(pk=case.pk)
    if now.signed_at or now.discarded_at:
        raise CaseSignedError
    return now
