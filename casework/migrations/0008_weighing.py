from django.conf import settings
from django.db import migrations, models

SCHOOLS = [
    ("sure_sign", "sure sign"),
    ("red_flag_tally", "red flag tally"),
    ("weighs_everything", "weighs everything"),
]


class Migration(migrations.Migration):
    """Houses that are there keep the rule that they had; new ones weigh everything."""

    dependencies = [
        ("casework", "0007_sightings"),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.AddField(
            "housepolicy", "school", models.CharField(choices=SCHOOLS, default="red_flag_tally", max_length=20)
        ),
        migrations.AlterField(
            "housepolicy", "school", models.CharField(choices=SCHOOLS, default="weighs_everything", max_length=20)
        ),
        migrations.AddField(
            "housepolicy", "legit_from", models.FloatField(default=13.0, help_text="Decibans; legit from here on")
        ),
        migrations.AddField(
            "housepolicy", "fake_from", models.FloatField(default=-20.0, help_text="Decibans; fake from here down")
        ),
        migrations.AddConstraint(
            "housepolicy",
            models.CheckConstraint(
                condition=models.Q(fake_from__lt=models.F("legit_from")), name="policy_thresholds_do_not_cross"
            ),
        ),
    ]
