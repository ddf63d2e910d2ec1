"""What a machine's keeper asks for, and who asks where a proxy stands in front."""

from unittest import mock

from django.db import DatabaseError
from django.http import HttpResponse
from django.test import RequestFactory, TestCase
from django.urls import reverse

from pairs.models import Organisation
from wahrheit.middleware import ProxyAddressMiddleware


class Health(TestCase):
    def test_it_says_what_is_down_and_nothing_else(self):
        url = reverse("health")
        with mock.patch("wahrheit.views.workers_up", return_value=True):
            self.assertEqual(self.client.get(url).json(), {"database": "up", "workers": "up"})
            with mock.patch.object(Organisation.objects, "exists", side_effect=DatabaseError):
                self.assertEqual(self.client.get(url).status_code, 503)
        self.assertEqual(self.client.get(url).json()["workers"], "down")

    def test_behind_a_proxy_the_last_name_counts_as_only_that_one_is_the_proxy_s_own(self):
        seen = []
        through = ProxyAddressMiddleware(lambda request: seen.append(request.META["REMOTE_ADDR"]) or HttpResponse())
        through(RequestFactory().get("/", HTTP_X_FORWARDED_FOR="6.6.6.6, 203.0.113.9"))
        through(RequestFactory().get("/"))
        self.assertEqual(seen, ["203.0.113.9", "127.0.0.1"])
