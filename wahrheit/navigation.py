"""The bar that is the same on every page: its places, and which of them a page belongs to."""

from typing import NamedTuple

from django.urls import reverse


class Place(NamedTuple):
    """One entry: its label, the URL's name, its key at the counter, and where its pages begin."""

    label: str
    name: str
    key: str
    begins: tuple[str, ...]


PLACES = (
    Place("Cases", "counter", "", ("/cases/",)),
    Place("Library", "library", "l", ("/library/", "/guides/")),
    Place("Drills", "drills", "d", ("/drills/",)),
    Place("Logbook", "logbook", "o", ("/logbook/",)),
    Place("Kit", "kit", "k", ("/kit/",)),
    Place("Shop", "shop", "", ("/shop/", "/bags/")),
)


def navigation(request) -> dict:
    """``main_places``: (label, URL, key, whether the page belongs to it). Keys work at the counter only. No query."""
    if not getattr(request, "user", None) or not request.user.is_authenticated:
        return {}
    counter = request.path == reverse("counter")
    return {
        "main_places": [
            (
                place.label,
                reverse(place.name),
                place.key if counter else "",
                request.path.startswith(place.begins) or (counter and place.name == "counter"),
            )
            for place in PLACES
        ]
    }
