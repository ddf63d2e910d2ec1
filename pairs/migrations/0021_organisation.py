"""House becomes organisation in the code; tables and columns keep their names, but for the column that follows from it."""

from django.conf import settings
from django.db import migrations, models


def rename_rights(apps, _schema):
    """What a person may do keeps holding under the new names."""
    kinds = apps.get_model("contenttypes", "ContentType").objects
    rights = apps.get_model("auth", "Permission").objects
    for app, old, new in (("pairs", "house", "organisation"), ("casework", "housepolicy", "organisationpolicy")):
        kinds.filter(app_label=app, model=old).update(model=new)
        for right in rights.filter(content_type__app_label=app, codename__endswith=f"_{old}"):
            right.codename = right.codename.removesuffix(old) + new
            right.save(update_fields=["codename"])


class Migration(migrations.Migration):
    dependencies = [
        ("pairs", "0020_differences"),
        ("casework", "0027_certificate_file"),
        ("drills", "0001_drills"),
        ("library", "0018_maker_change"),
        ("auth", "0012_alter_user_first_name_max_length"),
        ("contenttypes", "0002_remove_content_type_name"),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.SeparateDatabaseAndState(
            state_operations=[
                migrations.RemoveConstraint("pair", "pair_label_once_a_house"),
                migrations.RenameModel("House", "Organisation"),
                migrations.AlterModelTable("organisation", "pairs_house"),
                migrations.AlterField(
                    "organisation",
                    "members",
                    models.ManyToManyField(related_name="organisations", to=settings.AUTH_USER_MODEL),
                ),
                migrations.RenameField("pair", "house", "organisation"),
                migrations.AlterField(
                    "pair",
                    "organisation",
                    models.ForeignKey(
                        db_column="house_id", on_delete=models.PROTECT, related_name="pairs", to="pairs.organisation"
                    ),
                ),
                migrations.AddConstraint(
                    "pair",
                    models.UniqueConstraint(fields=("organisation", "label"), name="pair_label_once_a_house"),
                ),
            ],
            database_operations=[
                migrations.RunSQL(
                    "ALTER TABLE pairs_house_members RENAME COLUMN house_id TO organisation_id",
                    "ALTER TABLE pairs_house_members RENAME COLUMN organisation_id TO house_id",
                )
            ],
        ),
        migrations.RunPython(rename_rights, migrations.RunPython.noop),
    ]
