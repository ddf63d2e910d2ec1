"""Two measures have the field's names now."""

from django.db import migrations

NAMES = {"span": "edge_distance", "landing": "line_edge_intersection"}


def rename(apps, _schema):
    for old, new in NAMES.items():
        apps.get_model("library", "Checkpoint").objects.filter(measure=old).update(measure=new)


def back(apps, _schema):
    for old, new in NAMES.items():
        apps.get_model("library", "Checkpoint").objects.filter(measure=new).update(measure=old)


class Migration(migrations.Migration):
    dependencies = [("library", "0006_withdrawn_checks")]
    operations = [migrations.RunPython(rename, back)]
