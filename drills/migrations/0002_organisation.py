"""House becomes organisation in the code; tables and columns keep their names."""

from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [
        ("drills", "0001_drills"),
        ("pairs", "0021_organisation"),
    ]

    operations = [
        migrations.SeparateDatabaseAndState(
            state_operations=[
                migrations.RenameField("answer", "house", "organisation"),
                migrations.AlterField(
                    "answer",
                    "organisation",
                    models.ForeignKey(
                        db_column="house_id",
                        on_delete=models.PROTECT,
                        related_name="+",
                        to="pairs.organisation",
                    ),
                ),
            ]
        )
    ]
