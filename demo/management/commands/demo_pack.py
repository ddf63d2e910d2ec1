"""Render and measure the demo anew and write it as the pack that is shipped; cut off, it goes on where it was."""

import shutil

from django.conf import settings
from django.core.management.base import BaseCommand

from casework.models import Case
from demo import pack
from demo.load import load
from guides.drafting import go_through, photos_to_draft
from guides.models import GuideDraft
from library.models import Release
from pairs.differences import seek_differences, undiffered
from pairs.models import Pair
from pairs.print import read_print_on, unread_print

DRAFTED = "VQ-44127-B"


class Command(BaseCommand):
    help = "Needs a data folder of its own: make demo-pack gives it one."

    def handle(self, *args, **options):
        shots, stamp = settings.DATA_DIR / "demo-photos", settings.DATA_DIR / "recipe"
        recipe = pack.digest_of(pack.DRAWN_BY)
        if not stamp.exists() or stamp.read_text() != recipe:
            shutil.rmtree(shots, ignore_errors=True)
            if pack.manifest().get("recipe") == recipe:
                shutil.copytree(pack.PHOTOGRAPHS, shots)
            stamp.write_text(recipe)
        load(shots, self._say)
        for pair in Pair.objects.filter(case__signed_at=None):
            for photo in unread_print(pair):
                read_print_on(photo)
        for case in Case.objects.filter(signed_at=None).select_related("pair__release", "reference"):
            for photo in undiffered(case.pair, case.reference):
                seek_differences(photo, case.reference)
        self._draft(Release.objects.get(style_code=DRAFTED))
        pack.write(shots, self._say)

    def _draft(self, release: Release) -> None:
        """What its photographs propose, as a guide writer would have it drafted."""
        case = Case.objects.filter(pair__release=release).latest("number")
        given = {"release": release, "organisation": case.organisation, "asked_by": case.opened_by}
        many = len(photos_to_draft(release, case.organisation))
        draft = GuideDraft.objects.get_or_create(**given, defaults={"to_do": many})[0]
        if draft.runs:
            self._say("drafting a guide")
            go_through(draft)

    def _say(self, line: str) -> None:
        self.stdout.write(f"  {line}")
        self.stdout.flush()
