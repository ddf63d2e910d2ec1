"""House becomes organisation in the code; tables and columns keep their names."""

from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [
        ("casework", "0027_certificate_file"),
        ("pairs", "0021_organisation"),
    ]

    operations = [
        migrations.SeparateDatabaseAndState(
            state_operations=[
                migrations.RemoveConstraint("housepolicy", "policy_number_once_a_house"),
                migrations.RemoveConstraint("case", "case_number_once_a_house"),
                migrations.RenameModel("HousePolicy", "OrganisationPolicy"),
                migrations.AlterModelTable("organisationpolicy", "casework_housepolicy"),
                migrations.AlterModelOptions("organisationpolicy", {"verbose_name_plural": "shop policies"}),
                migrations.RenameField("organisationpolicy", "house", "organisation"),
                migrations.AlterField(
                    "organisationpolicy",
                    "organisation",
                    models.ForeignKey(
                        db_column="house_id",
                        on_delete=models.PROTECT,
                        related_name="policies",
                        to="pairs.organisation",
                    ),
                ),
                migrations.RenameField("case", "house", "organisation"),
                migrations.AlterField(
                    "case",
                    "organisation",
                    models.ForeignKey(
                        db_column="house_id",
                        on_delete=models.PROTECT,
                        related_name="cases",
                        to="pairs.organisation",
                    ),
                ),
                migrations.RenameField("uploadlink", "house", "organisation"),
                migrations.AlterField(
                    "uploadlink",
                    "organisation",
                    models.ForeignKey(
                        db_column="house_id",
                        on_delete=models.CASCADE,
                        related_name="links",
                        to="pairs.organisation",
                    ),
                ),
                migrations.RenameField("invitation", "house", "organisation"),
                migrations.AlterField(
                    "invitation",
                    "organisation",
                    models.ForeignKey(
                        db_column="house_id",
                        on_delete=models.PROTECT,
                        related_name="invitations",
                        to="pairs.organisation",
                    ),
                ),
                migrations.RenameField("ledgerentry", "house", "organisation"),
                migrations.AlterField(
                    "ledgerentry",
                    "organisation",
                    models.ForeignKey(
                        db_column="house_id",
                        on_delete=models.PROTECT,
                        related_name="ledger",
                        to="pairs.organisation",
                    ),
                ),
                migrations.RenameField("droppedphoto", "house", "organisation"),
                migrations.AlterField(
                    "droppedphoto",
                    "organisation",
                    models.ForeignKey(
                        db_column="house_id",
                        on_delete=models.CASCADE,
                        related_name="dropped",
                        to="pairs.organisation",
                    ),
                ),
                migrations.RenameField("ledgerentry", "deed", "action"),
                migrations.AlterField("ledgerentry", "action", models.CharField(db_column="deed", max_length=40)),
                migrations.AddConstraint(
                    "organisationpolicy",
                    models.UniqueConstraint(fields=("organisation", "number"), name="policy_number_once_a_house"),
                ),
                migrations.AddConstraint(
                    "case",
                    models.UniqueConstraint(fields=("organisation", "number"), name="case_number_once_a_house"),
                ),
            ]
        )
    ]
