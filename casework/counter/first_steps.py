"""What a new shop does in its first hour, shown on the counter until a case was signed."""

from dataclasses import dataclass

from django.db.models import Exists, OuterRef
from django.urls import reverse

from casework.models import Case
from library.models import Checkpoint
from pairs.models import Organisation, Pair, Photo, Standing

PAIRS = 2


@dataclass(frozen=True)
class Step:
    name: str
    why: str
    url: str
    done: bool


def first_steps(organisation: Organisation) -> list[Step]:
    """None once a case was signed. Four queries, one of a shop that has signed."""
    cases = Case.objects.filter(organisation=organisation).order_by("signed_at").values_list("signed_at", flat=True)
    begun = list(cases.reverse()[:1])
    if any(begun):
        return []
    scaled = Exists(Photo.objects.filter(pair=OuterRef("pk"), mm_per_px__isnull=False))
    pairs = Pair.objects.filter(organisation=organisation, standing__in=(Standing.RETAIL, Standing.CANDIDATE))
    known = list(pairs.order_by("pk").annotate(scaled=scaled).values_list("release", "standing", "scaled"))
    release = next((of for of, *_ in known), None)
    added = reverse("library-release", args=[release]) if release else reverse("library-release-new")
    drafted = reverse("guide-draft", args=[release]) if release else added
    return [
        Step(
            "Print the bench card", "without it nothing has millimetres", reverse("kit"), any(row[2] for row in known)
        ),
        Step("Add a release", "its maker and model come first", reverse("library-release-new"), release is not None),
        Step(
            f"Add {PAIRS} retail pairs",
            "one pair says little of how far retail scatters",
            added,
            sum(standing == Standing.RETAIL for _, standing, _ in known) >= PAIRS,
        ),
        Step(
            "Draft the guide",
            "the program proposes checks from their photographs",
            drafted,
            Checkpoint.objects.filter(release=release).exists(),
        ),
        Step("Try a third pair", "as a case: a genuine one should agree", reverse("counter"), bool(begun)),
        Step("Invite a colleague", "so that two can look", reverse("shop"), organisation.members.count() > 1),
    ]
