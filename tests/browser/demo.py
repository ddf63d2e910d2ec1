"""The demo in a real browser: loaded once for all browser tests, signed in as a checker."""

import atexit
import os
import shutil
from unittest import mock

from django.conf import settings
from django.contrib.auth import get_user_model
from django.contrib.staticfiles.testing import StaticLiveServerTestCase
from django.db import connection

from casework.models import Case, OrganisationPolicy
from casework.roles import give_role
from demo import pack
from demo import scenario as demo
from library.models import Checkpoint
from pairs.models import Organisation
from tests.support.chromium import page, sign_in

# Playwright runs an event loop of its own; Django's check against one is not meant for this.
os.environ["DJANGO_ALLOW_ASYNC_UNSAFE"] = "true"
SHOTS = pack.PHOTOGRAPHS
WORD = "quay-lantern-47"
SIDES = [SHOTS / f"O1-side-out-{foot}.jpg" for foot in ("left", "right")]
FLAGS_AS_LOADED: dict[int, set[str]] = {}
atexit.register(shutil.rmtree, settings.MEDIA_ROOT, ignore_errors=True)


class DemoInBrowser(StaticLiveServerTestCase):
    """The database is not emptied afterwards: the ledger cannot be. These tests run last and share the demo."""

    @classmethod
    def setUpClass(cls):
        super().setUpClass()
        if not FLAGS_AS_LOADED:
            pack.unpack_into(connection)
            # Tests hash passwords in another way than a counter does.
            for user in get_user_model().objects.all():
                user.set_password(demo.PASSWORD)
                user.save()
            for case in Case.objects.filter(signed_at=None):
                flags = case.findings.filter(grade="departs").values_list("checkpoint__key", flat=True)
                FLAGS_AS_LOADED[case.number] = set(flags)

    def _fixture_teardown(self):
        pass

    def setUp(self):
        # Workers compare whole photographs once all is measured; in a test's one process that would hold up the pages.
        self.enterContext(mock.patch("casework.actions.analyse_case.undiffered", return_value=[]))
        self.browser = self.enterContext(page())
        sign_in(self.browser, self.live_server_url, "mara", demo.PASSWORD)

    struck = 0
    """Keys so far."""

    def keys(self, *keys):
        self.struck += len(keys)
        for key in keys:
            self.browser.keyboard.press(key)

    def answer_as_retail(self):
        """Press the key of the answer that retail gives: pictures of answers stand in an order of the case's own."""
        check = self.browser.get_attribute("#bench", "data-key")
        usual = Checkpoint.objects.filter(key=check, kind="answer").first()
        key = usual.answers[0][0] if usual else None
        self.keys(self.browser.get_attribute(f".answers [value='{key}']", "data-digit") if key else "1")

    def at(self, key):
        self.browser.wait_for_selector(f'#bench[data-key="{key}"]')

    def value(self):
        return self.browser.inner_text(".num b >> nth=0")

    def new_case(self):
        self.browser.goto(self.live_server_url)
        self.browser.fill("#style_code", "VQ-44127-B")
        self.keys("Enter")
        self.browser.wait_for_selector(".intake")


def owner(name: str, organisation: str):
    """The one account that is made without an invitation."""
    user = get_user_model().objects.create_user(name, password=WORD)
    made = Organisation.objects.create(name=organisation)
    made.members.add(user)
    give_role(user, "owner")
    OrganisationPolicy.objects.create(organisation=made, number=1, made_by=user)
    return made
