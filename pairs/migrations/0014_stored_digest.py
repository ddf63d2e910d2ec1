import hashlib
from pathlib import Path

from django.db import migrations, models


def digests(apps, _schema):
    """Of every file as it lies there now; a missing one has none."""
    photos = apps.get_model("pairs", "Photo").objects
    for photo in photos.only("full").iterator():
        try:
            found = hashlib.sha256(Path(photo.full.path).read_bytes()).hexdigest()
        except (OSError, ValueError):
            continue
        photos.filter(pk=photo.pk).update(stored_sha256=found)


class Migration(migrations.Migration):
    dependencies = [("pairs", "0013_whose_library")]

    operations = [
        migrations.AddField(
            "photo",
            "stored_sha256",
            models.CharField(blank=True, default="", help_text="Of the file as it is kept", max_length=64),
            preserve_default=False,
        ),
        migrations.RunPython(digests, migrations.RunPython.noop, elidable=True),
    ]
