import hashlib
import json

from django.db import migrations, models


def chain(apps, _schema):
    """Every house's lines, in the order in which they were written. As casework.ledger does it today."""
    entries = apps.get_model("casework", "LedgerEntry").objects
    before: dict[int, str] = {}
    for entry in entries.order_by("pk").iterator():
        previous = before.get(entry.house_id, "0" * 64)
        content = {
            "previous": previous,
            "house": entry.house_id,
            "case": entry.case_id,
            "actor": entry.actor_id,
            "deed": entry.deed,
            "details": entry.details,
            "at": entry.at.isoformat(timespec="microseconds"),
        }
        text = json.dumps(content, sort_keys=True, separators=(",", ":"), ensure_ascii=False, default=str)
        found = before[entry.house_id] = hashlib.sha256(text.encode()).hexdigest()
        entries.filter(pk=entry.pk).update(previous=previous, digest=found)


class Migration(migrations.Migration):
    dependencies = [("casework", "0010_discarded"), ("pairs", "0014_stored_digest")]

    operations = [
        migrations.AddField(
            "ledgerentry",
            "previous",
            models.CharField(default="", help_text="Digest of the house's line before", max_length=64),
            preserve_default=False,
        ),
        migrations.AddField(
            "ledgerentry", "digest", models.CharField(default="", max_length=64), preserve_default=False
        ),
        migrations.AlterField("ledgerentry", "at", models.DateTimeField()),
        migrations.RunPython(chain, migrations.RunPython.noop, elidable=True),
    ]
