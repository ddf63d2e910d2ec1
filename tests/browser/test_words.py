"""What the demo's pages say is plain: no words of the trade's inside, no raw keys, no None."""

import html
import re
from http import HTTPStatus

from django.contrib.auth import get_user_model
from django.test import tag
from django.urls import reverse

from casework.models import Case
from library.models import Release
from tests.browser.demo import DemoInBrowser

NOT_PLAIN = re.compile(
    r"\b(laid on(?:to)?|laid beside|lay on|told (?:from|apart)|this far off|parts here|legit parts|void:"
    r"|a must for|by hands and noses|the thing|so many times|of other making|counted right|it is so)\b",
    re.IGNORECASE,
)
RAW = re.compile(r"\b(?:None|nan|[a-z]+_[a-z]+(?:_[a-z]+)*)\b")
LONG = re.compile(r"\d\.\d{5,}")
TAGS = re.compile(r"<(script|style|svg|template)\b.*?</\1>|<[^>]+>", re.DOTALL)


def words_of(page: bytes) -> str:
    """The text that a person reads."""
    text = html.unescape(TAGS.sub(" ", page.decode()))
    return re.sub(r"\s+", " ", text)


@tag("browser")
class PlainWords(DemoInBrowser):
    def setUp(self):
        """No browser is wanted."""
        self.client.force_login(get_user_model().objects.get(username="mara"))

    def pages(self):
        yield from (reverse(name) for name in ("counter", "logbook", "drills", "library", "guides", "kit", "shop"))
        yield from (reverse("library-release", args=[one.pk]) for one in Release.objects.all())
        for case in Case.objects.filter(number__gt=400, number__lt=407):
            yield from (reverse(name, args=[case.number]) for name in ("intake", "photos", "verdict"))
            for key in case.findings.values_list("checkpoint__key", flat=True)[::12]:
                yield reverse("bench-at", args=[case.number, key])

    def test_no_page_says_an_unplain_word_a_raw_key_or_too_many_digits(self):
        found = {}
        for address in self.pages():
            page = self.client.get(address)
            text = words_of(page.content) if page.status_code == HTTPStatus.OK else ""
            for rule in (NOT_PLAIN, RAW, LONG):
                for one in rule.finditer(text):
                    found.setdefault(one[0], f"{text[max(0, one.start() - 40) : one.end() + 40]} ({address})")
        self.assertEqual(found, {})
