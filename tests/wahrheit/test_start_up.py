"""What a start of the server loads: nothing that only tests, the demo or plots need."""

import subprocess
import sys
from unittest import TestCase

from django.conf import settings

PROGRAM = """
import os, sys
os.environ["DJANGO_SETTINGS_MODULE"] = "wahrheit.settings"
import django
django.setup()
import wahrheit.urls
print(" ".join(sorted(sys.modules)))
"""
NOT_AT_START = {
    "assay.simulator",
    "imageio",
    "jsonschema",
    "matplotlib",
    "networkx",
    "playwright",
    "scipy.signal",
    "scipy.stats",
    "skimage.data",
    "demo.scenario",
}


class StartUp(TestCase):
    def test_a_start_loads_no_simulator_no_demo_and_no_heavy_module_that_no_page_needs(self):
        done = subprocess.run(
            [sys.executable, "-c", PROGRAM], cwd=settings.BASE_DIR, capture_output=True, text=True, check=True
        )
        self.assertEqual(set(done.stdout.split()) & NOT_AT_START, set())
