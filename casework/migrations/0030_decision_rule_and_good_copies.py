from django.db import migrations, models


class Migration(migrations.Migration):
    """The column keeps its name: exports and older lines of the ledger call the decision rule so."""

    dependencies = [("casework", "0029_shop_words")]

    operations = [
        migrations.SeparateDatabaseAndState(
            state_operations=[
                migrations.RenameField("organisationpolicy", "school", "decision_rule"),
                migrations.AlterField(
                    "organisationpolicy",
                    "decision_rule",
                    models.CharField(
                        max_length=40,
                        default="weighs_everything",
                        db_column="school",
                        help_text="Key of the decision rule",
                    ),
                ),
            ]
        ),
        migrations.AddField(
            "organisationpolicy",
            "near_perfect",
            models.FloatField(default=0.01, help_text="Share of copies believed to get nearly all right"),
        ),
        migrations.AddField(
            "organisationpolicy",
            "near_basis",
            models.CharField(
                max_length=8,
                choices=[
                    ("assumed", "nothing: assumed"),
                    ("outcomes", "this shop’s outcomes"),
                    ("news", "news from makers or the trade"),
                ],
                default="assumed",
            ),
        ),
    ]
