"""Which photographs carry print that is read."""

from assay.paperwork.fields import TEXTS
from assay.paperwork.papers import PAPERS
from library.models import Release
from library.photo_kinds import keys_where, kinds_by_key

BOX, TAG, RECEIPT = "box", "tag", "receipt"


def print_views(release: Release) -> dict[str, str]:
    """What carries print that is read, by view: ``box``, ``tag``, ``receipt`` or the place of its words. One query."""
    kinds = kinds_by_key()
    things = {key: TAG if kinds[key].feet else BOX for key in keys_where(printed=True) if kinds[key].codes}
    papers = [name for name, paper in PAPERS.items() if paper.fields[0] in TEXTS]
    checks = release.checkpoints.filter(paper__in=papers).values_list("view", "paper")
    return {**things, RECEIPT: RECEIPT, **{view: PAPERS[paper].fields[0] for view, paper in checks if view}}
