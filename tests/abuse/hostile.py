"""``make abuse``: attacks on the record, on blindness and by files, one line each."""

import re
import subprocess
import sys

ATTACKS = {
    "the record: 56 changes behind the triggers, a ledger written anew or cut": "tests.casework.test_attacks",
    "blindness: planted words on every route": "tests.test_blindness",
    "guide files: schema, one odd value each, another shop's guide": "tests.casework.test_guide_file",
    "makers that others work with": "tests.casework.test_shared_makers",
    "phone and client links": "tests.casework.photos.test_phone_link",
    "two at once": "tests.casework.test_at_once",
    "backups: rot, damaged lists, places outside": "tests.casework.test_backup",
}


def main() -> int:
    """Run them; how many fell."""
    fallen = 0
    for name, module in ATTACKS.items():
        command = [sys.executable, "manage.py", "test", "--noinput", "--verbosity", "0", module]
        told = subprocess.run(command, capture_output=True, text=True, check=False).stderr
        ran = re.search(r"Ran (\d+) test", told)
        lost = "FAILED" in told or ran is None
        fallen += lost
        print(f"{name}: {'FELL' if lost else 'held'}, {ran[1] if ran else 0} tests", flush=True)
    return fallen


if __name__ == "__main__":
    sys.exit(min(main(), 1))
