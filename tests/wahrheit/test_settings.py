"""Safe from the first day."""

from django.conf import settings
from django.db import connection
from django.test import TestCase
from django.urls import reverse


class SafeDefaults(TestCase):
    def test_scripts_and_styles_come_from_here_only(self):
        policy = self.client.get(reverse("sign-in"))["Content-Security-Policy"]
        self.assertIn("script-src 'self'", policy)
        self.assertNotIn("unsafe", policy)
        self.assertNotIn("http", policy)

    def test_pages_hold_no_inline_script_or_style(self):
        page = self.client.get(reverse("sign-in")).content.decode()
        for inline in ("<style", " style=", " onclick=", "<script>"):
            self.assertNotIn(inline, page)

    def test_the_database_waits_checks_and_logs_ahead(self):
        with connection.cursor() as cursor:
            read = lambda name: cursor.execute(f"PRAGMA {name}").fetchone()[0]  # noqa: E731
            self.assertEqual((read("journal_mode"), read("foreign_keys"), read("busy_timeout")), ("wal", 1, 20_000))
        self.assertEqual(settings.DATABASES["default"]["OPTIONS"]["transaction_mode"], "IMMEDIATE")

    def test_debug_is_off_and_headers_are_on(self):
        answer = self.client.get(reverse("sign-in"))
        self.assertFalse(settings.DEBUG)
        self.assertEqual((answer["X-Frame-Options"], answer["X-Content-Type-Options"]), ("DENY", "nosniff"))
