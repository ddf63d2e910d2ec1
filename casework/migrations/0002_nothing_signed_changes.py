"""Triggers: the ledger, opinions and readings are only added to; a signed case does not change."""

from django.db import migrations

FROZEN = "RAISE(ABORT, 'nothing signed or noted changes afterwards')"
SIGNED_CASE = "(SELECT signed_at FROM casework_case WHERE id = {row}.case_id) IS NOT NULL"
SIGNED_PAIR = "(SELECT signed_at FROM casework_case WHERE pair_id = {row}.pair_id) IS NOT NULL"
SIGNED_PHOTO = (
    "(SELECT c.signed_at FROM casework_case c JOIN pairs_photo p ON p.pair_id = c.pair_id "
    "WHERE p.id = {row}.photo_id) IS NOT NULL"
)

RULES = [
    # table, deed, when
    ("casework_ledgerentry", "UPDATE", "1"),
    ("casework_ledgerentry", "DELETE", "1"),
    ("casework_opinion", "UPDATE", "1"),
    ("casework_opinion", "DELETE", "1"),
    ("pairs_reading", "UPDATE", "1"),
    ("pairs_reading", "DELETE", "1"),
    ("pairs_reading", "INSERT", SIGNED_PAIR.format(row="NEW")),
    ("pairs_photo", "INSERT", SIGNED_PAIR.format(row="NEW")),
    ("pairs_photo", "UPDATE", SIGNED_PAIR.format(row="OLD")),
    ("pairs_photo", "DELETE", SIGNED_PAIR.format(row="OLD")),
    ("pairs_marking", "INSERT", SIGNED_PHOTO.format(row="NEW")),
    ("pairs_marking", "UPDATE", SIGNED_PHOTO.format(row="OLD")),
    ("pairs_marking", "DELETE", SIGNED_PHOTO.format(row="OLD")),
    ("casework_finding", "INSERT", SIGNED_CASE.format(row="NEW")),
    ("casework_finding", "UPDATE", SIGNED_CASE.format(row="OLD")),
    ("casework_finding", "DELETE", SIGNED_CASE.format(row="OLD")),
    ("casework_case", "UPDATE", "OLD.signed_at IS NOT NULL"),
    ("casework_case", "DELETE", "OLD.signed_at IS NOT NULL"),
    ("pairs_pair", "UPDATE", "(SELECT signed_at FROM casework_case WHERE pair_id = OLD.id) IS NOT NULL"),
]


def _name(table, deed):
    return f"keep_{table}_{deed.lower()}"


class Migration(migrations.Migration):
    dependencies = [("casework", "0001_initial")]
    operations = [
        migrations.RunSQL(
            sql=f"CREATE TRIGGER {_name(table, deed)} BEFORE {deed} ON {table} WHEN {when} BEGIN SELECT {FROZEN}; END;",
            reverse_sql=f"DROP TRIGGER {_name(table, deed)};",
        )
        for table, deed, when in RULES
    ]
