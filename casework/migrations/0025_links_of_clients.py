"""Links that begin a case: a drop in the place of a case."""

import django.db.models.deletion
from django.db import migrations, models


def house_of_case(apps, _schema):
    """Every link so far led to a case."""
    for link in apps.get_model("casework", "UploadLink").objects.select_related("case"):
        link.house_id = link.case.house_id
        link.save(update_fields=["house"])


class Migration(migrations.Migration):
    dependencies = [("casework", "0024_signed_head"), ("pairs", "0019_grey_tile")]
    operations = [
        migrations.AddField(
            "uploadlink",
            "house",
            models.ForeignKey(
                null=True, on_delete=django.db.models.deletion.CASCADE, related_name="links", to="pairs.house"
            ),
        ),
        migrations.AddField(
            "uploadlink",
            "drop",
            models.UUIDField(
                blank=True, help_text="Without a case: the drop that its photographs lie in", null=True
            ),
        ),
        migrations.RunPython(house_of_case, migrations.RunPython.noop),
        migrations.AlterField(
            "uploadlink",
            "house",
            models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name="links", to="pairs.house"),
        ),
        migrations.AlterField(
            "uploadlink",
            "case",
            models.ForeignKey(
                blank=True,
                null=True,
                on_delete=django.db.models.deletion.PROTECT,
                related_name="links",
                to="casework.case",
            ),
        ),
        migrations.AddConstraint(
            "uploadlink",
            models.CheckConstraint(
                condition=models.Q(models.Q(("case__isnull", False), ("drop", None)), models.Q(("case", None), ("drop__isnull", False)), _connector="OR"),
                name="link_leads_to_a_case_or_a_drop",
            ),
        ),
    ]
