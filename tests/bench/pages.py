"""What pages cost against an empty view behind the same sign-in, in one process: CPU time, medians. Needs the demo."""

import time

import numpy as np

ROUNDS = 15
AIMS = {"counter": 8, "bench": 8, "its fragment": 4, "intake": 8, "verdict": 8}


def main(number: int = 402) -> None:
    """Print a line for each page of a case."""
    from django.conf import settings
    from django.contrib.auth import get_user_model
    from django.http import HttpResponse
    from django.test import Client
    from django.test.utils import override_settings
    from django.urls import include, path

    from casework.models import Case

    urlpatterns = [path("empty/", lambda _request: HttpResponse("")), path("", include(settings.ROOT_URLCONF))]
    case = Case.objects.get(number=number)
    key = case.pair.release.checkpoints.exclude(measure="").order_by("position").first().key
    pages = {
        "counter": ("/", {}), "bench": (f"/cases/{number}/bench/{key}/", {}),
        "its fragment": (f"/cases/{number}/bench/{key}/", {"headers": {"HX-Request": "true"}}),
        "intake": (f"/cases/{number}/intake/", {}), "verdict": (f"/cases/{number}/verdict/", {}),
    }  # fmt: skip
    with override_settings(ROOT_URLCONF=type("Urls", (), {"urlpatterns": urlpatterns}), ALLOWED_HOSTS=["*"]):
        client = Client()
        client.force_login(get_user_model().objects.get(username="mara"))
        empty = _seconds(client, "/empty/", {})
        print(f"\npages of the demo, CPU against an empty signed-in view ({1000 * empty:.1f} ms), aim")
        for name, (address, given) in pages.items():
            print(f"{name:14} {_seconds(client, address, given) / empty:5.1f} × {AIMS[name]:5} ×")


def _seconds(client, address: str, given: dict) -> float:
    took = []
    for _ in range(ROUNDS):
        began = time.process_time()
        answer = client.get(address, **given)
        took.append(time.process_time() - began)
        if answer.status_code != 200:
            raise SystemExit(f"{address}: {answer.status_code}")
    return float(np.median(took[2:]))
