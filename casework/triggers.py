"""Triggers: the ledger, opinions and readings are only added to; a signed case does not change; and every change of
what an assessment rests on renews a word (see ``revisions``).

They are taken away before migrations and laid again after them: SQLite rebuilds a table to change it, and cannot while
triggers look at it.
"""

from django.db import connections

WORDS = "nothing signed or noted changes afterwards"
FROZEN = f"RAISE(ABORT, '{WORDS}')"
SIGNED_CASE = "(SELECT signed_at FROM casework_case WHERE id = {row}.case_id) IS NOT NULL"
SIGNED_PAIR = "(SELECT signed_at FROM casework_case WHERE pair_id = {row}.pair_id) IS NOT NULL"
SIGNED_PHOTO = (
    "(SELECT c.signed_at FROM casework_case c JOIN pairs_photo p ON p.pair_id = c.pair_id "
    "WHERE p.id = {row}.photo_id) IS NOT NULL"
)

SIGNED_OF_PAIR = (
    *("house_id", "release_id", "label", "size_us", "region", "condition"),
    *("generation", "feet", "box_size_us", "bought_on"),
)
SAME_PAIR = " AND ".join(f"NEW.{column} IS OLD.{column}" for column in SIGNED_OF_PAIR)
PAIR_IS_SIGNED = "EXISTS (SELECT 1 FROM casework_case WHERE pair_id = OLD.id AND signed_at IS NOT NULL)"

RULES = [
    # table, event, when
    ("casework_ledgerentry", "UPDATE", "1"),
    ("casework_ledgerentry", "DELETE", "1"),
    ("casework_signedhead", "UPDATE", "1"),
    ("casework_signedhead", "DELETE", "1"),
    ("casework_opinion", "UPDATE", "1"),
    ("casework_opinion", "DELETE", "1"),
    ("casework_outcome", "UPDATE", "1"),
    ("casework_outcome", "DELETE", "1"),
    ("casework_signeddocument", "UPDATE", "1"),
    ("casework_signeddocument", "DELETE", "1"),
    ("pairs_reading", "UPDATE", "1"),
    ("pairs_reading", "DELETE", "1"),
    ("pairs_reading", "INSERT", SIGNED_PAIR.format(row="NEW")),
    ("pairs_inscription", "UPDATE", "1"),
    ("pairs_inscription", "DELETE", "1"),
    ("pairs_inscription", "INSERT", SIGNED_PAIR.format(row="NEW")),
    ("pairs_photo", "INSERT", SIGNED_PAIR.format(row="NEW")),
    ("pairs_photo", "UPDATE", SIGNED_PAIR.format(row="OLD")),
    ("pairs_photo", "DELETE", SIGNED_PAIR.format(row="OLD")),
    ("pairs_marking", "INSERT", SIGNED_PHOTO.format(row="NEW")),
    ("pairs_marking", "UPDATE", SIGNED_PHOTO.format(row="OLD")),
    ("pairs_marking", "DELETE", SIGNED_PHOTO.format(row="OLD")),
    ("casework_note", "INSERT", SIGNED_CASE.format(row="NEW")),
    ("casework_note", "UPDATE", "1"),
    ("casework_note", "DELETE", "1"),
    ("casework_sighting", "INSERT", SIGNED_CASE.format(row="NEW")),
    ("casework_sighting", "UPDATE", SIGNED_CASE.format(row="OLD")),
    ("casework_sighting", "DELETE", "1"),
    ("casework_finding", "INSERT", SIGNED_CASE.format(row="NEW")),
    ("casework_finding", "UPDATE", SIGNED_CASE.format(row="OLD")),
    ("casework_finding", "DELETE", SIGNED_CASE.format(row="OLD")),
    ("casework_case", "UPDATE", "OLD.signed_at IS NOT NULL"),
    ("casework_case", "DELETE", "OLD.signed_at IS NOT NULL"),
    # Afterwards it may still join the library: standing and batch are no part of what was signed.
    ("pairs_pair", "UPDATE", f"{PAIR_IS_SIGNED} AND NOT ({SAME_PAIR})"),
]

PAIR = "CASE WHEN {row}.standing = 'suspect' THEN 'pair-' || {row}.id ELSE 'library' END"
OF_PAIR = (
    "CASE WHEN (SELECT standing FROM pairs_pair WHERE id = {row}.pair_id) = 'suspect' "
    "THEN 'pair-' || {row}.pair_id ELSE 'library' END"
)
SCOPES = {
    # table: the scope that a change of its row belongs to, and the columns that matter (none: all)
    "casework_case": (
        "'case-' || {row}.id",
        "pair_id, reference_id, arrival, in_hand, reference_in_hand, tools, asked_price, level, round, signed_at",
    ),
    "casework_finding": ("'case-' || {row}.case_id", ""),
    "casework_sighting": ("'case-' || {row}.case_id", ""),
    "casework_housepolicy": ("'library'", ""),
    "casework_outcome": ("'library'", ""),
    "pairs_pair": (PAIR, ""),
    "pairs_photo": (OF_PAIR, ""),
    "pairs_reading": (OF_PAIR, ""),
    "pairs_inscription": (OF_PAIR, ""),
    "pairs_readingcomparison": ("'library'", ""),
    "library_maker": ("'library'", ""),
    "library_sizechart": ("'library'", ""),
    "library_shoemodel": ("'library'", ""),
    "library_release": ("'library'", ""),
    "library_batch": ("'library'", ""),
    "library_view": ("'library'", ""),
    "library_checkpoint": ("'library'", ""),
    "auth_user": ("'library'", "username, first_name, last_name"),
}
RENEWED = (
    "DELETE FROM casework_revision WHERE scope = {scope}; "
    "INSERT INTO casework_revision (scope, word) VALUES ({scope}, hex(randomblob(8)));"
)


def _name(table, event):
    return f"keep_{table}_{event.lower()}"


def _renewals():
    """Name, table, event and body of every trigger that renews a word."""
    for table, (scope, columns) in SCOPES.items():
        for event, rows in (("INSERT", ("NEW",)), ("UPDATE", ("OLD", "NEW")), ("DELETE", ("OLD",))):
            body = "".join(
                RENEWED.format(scope=named) for named in dict.fromkeys(scope.format(row=row) for row in rows)
            )
            of = f" OF {columns}" if columns and event == "UPDATE" else ""
            yield f"renew_{table}_{event.lower()}", table, f"{event}{of}", body


def lay(using: str, **_) -> None:
    """Lay every trigger whose table is there."""
    connection = connections[using]
    tables = set(connection.introspection.table_names())
    if not {table for table, _, _ in RULES} | set(SCOPES) | {"casework_revision"} <= tables:
        return
    with connection.cursor() as cursor:
        for table, event, when in RULES:
            cursor.execute(
                f"CREATE TRIGGER IF NOT EXISTS {_name(table, event)} BEFORE {event} ON {table} "
                f"WHEN {when} BEGIN SELECT {FROZEN}; END"
            )
        for name, table, event, body in _renewals():
            cursor.execute(f"CREATE TRIGGER IF NOT EXISTS {name} AFTER {event} ON {table} BEGIN {body} END")


def missing(using: str) -> list[str]:
    """Names of triggers that are not there."""
    with connections[using].cursor() as cursor:
        cursor.execute("SELECT name FROM sqlite_master WHERE type = 'trigger'")
        there = {name for (name,) in cursor.fetchall()}
    wanted = {_name(table, event) for table, event, _ in RULES} | {name for name, *_ in _renewals()}
    return sorted(wanted - there)


def take_away(using: str, **_) -> None:
    """Drop every trigger."""
    with connections[using].cursor() as cursor:
        for table, event, _when in RULES:
            cursor.execute(f"DROP TRIGGER IF EXISTS {_name(table, event)}")
        for name, *_ in _renewals():
            cursor.execute(f"DROP TRIGGER IF EXISTS {name}")
