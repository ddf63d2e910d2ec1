"""House becomes organisation in the code; tables and columns keep their names."""

from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [
        ("library", "0018_maker_change"),
        ("pairs", "0021_organisation"),
    ]

    operations = [
        migrations.SeparateDatabaseAndState(
            state_operations=[
                migrations.RenameField("makerchange", "house", "organisation"),
                migrations.AlterField(
                    "makerchange",
                    "organisation",
                    models.ForeignKey(
                        help_text="That proposes it",
                        db_column="house_id",
                        on_delete=models.CASCADE,
                        related_name="+",
                        to="pairs.organisation",
                    ),
                ),
                migrations.RenameField("release", "house", "organisation"),
                migrations.AlterField(
                    "release",
                    "organisation",
                    models.ForeignKey(
                        help_text="Who keeps its guide; empty: every guide writer",
                        blank=True,
                        null=True,
                        db_column="house_id",
                        on_delete=models.PROTECT,
                        related_name="+",
                        to="pairs.organisation",
                    ),
                ),
            ]
        )
    ]
