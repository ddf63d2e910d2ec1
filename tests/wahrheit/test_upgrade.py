"""The last release's database comes up with this version, by the command that the documentation names, and nothing in
it is lost."""

import gzip
import json
import os
import subprocess
import sys
import tempfile
from pathlib import Path

from django.conf import settings
from django.test import SimpleTestCase

RELEASE = Path(__file__).parent.parent / "data" / "release-0.1.0.sqlite3.gz"
ASKED = """
import json
from casework.models import Case, LedgerEntry, Opinion, SignedDocument
from casework.signed_document import differences
from casework.roles import role_of
from pairs.models import Organisation, Reading
signed = Case.objects.get(signed_at__isnull=False)
shops = Organisation.objects.all()
owners = [[one.username for one in shop.members.all() if role_of(one) == "owner"] for shop in shops]
print(json.dumps({
    "owners": owners,
    "cases": Case.objects.count(), "lines": LedgerEntry.objects.count(),
    "opinions": list(Opinion.objects.values_list("verdict", "words", "batch", "settling")),
    "documents": SignedDocument.objects.count(), "differs": differences(signed),
    "readings": sorted(map(str, Reading.objects.values_list("value", flat=True))),
}))
"""


class Upgrade(SimpleTestCase):
    def run_it(self, kept: str, *command: str) -> str:
        environment = os.environ | {"WAHRHEIT_DATA": kept}
        given = {"cwd": settings.BASE_DIR, "env": environment, "capture_output": True, "text": True}
        done = subprocess.run([sys.executable, "manage.py", *command], check=False, **given)
        self.assertEqual(done.returncode, 0, done.stderr[-800:])
        return done.stdout

    def test_a_database_of_the_last_release_is_brought_up_and_holds_what_it_held(self):
        with tempfile.TemporaryDirectory() as kept:
            (Path(kept) / "wahrheit.sqlite3").write_bytes(gzip.decompress(RELEASE.read_bytes()))
            self.assertIn("The copy came up", self.run_it(kept, "check_upgrade"))
            self.assertIn("[ ] 0027", self.run_it(kept, "showmigrations", "casework"), "only the copy was migrated")
            self.run_it(kept, "migrate", "--verbosity", "0")
            self.assertIn("3 lines", self.run_it(kept, "verify_ledger"))
            told = json.loads(self.run_it(kept, "shell", "--verbosity", "0", "-c", ASKED).splitlines()[-1])
        self.assertEqual((told["cases"], told["lines"], told["documents"]), (2, 3, 1))
        self.assertEqual(told["opinions"], [["fake", "Two stitches too many.", "", []]])
        self.assertEqual(told["differs"], [], "a signed case reads as it was signed")
        self.assertIn("17", told["readings"])
        self.assertTrue(all(told["owners"]), "in every shop somebody may invite and decide")
