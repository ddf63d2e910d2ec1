"""Kinds of photograph of what else carries print."""

from django.db import migrations

FLAT = "Flat on the table, straight from above, all its print sharp."
SEED = [
    {"key": "price_tab", "name": "price tab", "position": 64, "how": FLAT},
    {"key": "packing_card", "name": "packing card", "position": 65, "how": FLAT},
    {"key": "receipt", "name": "receipt", "position": 66, "how": "Flat on the table: shop, date and total in the frame."},
]


def seed(apps, _schema):
    """Add those that are not there yet; where a shop made one of that key, its own stays."""
    view = apps.get_model("library", "View")
    for given in SEED:
        view.objects.get_or_create(key=given["key"], defaults={**given, "feet": False, "printed": True, "sketch": "box"})


class Migration(migrations.Migration):
    dependencies = [("library", "0016_levels")]
    operations = [migrations.RunPython(seed, migrations.RunPython.noop)]
