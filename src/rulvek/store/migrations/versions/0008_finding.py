"""An index of names: models, units, campaigns, claims by their documents, instruments; by any part of three letters.

Triggers keep it, so that no writer can forget it. Trigrams find any part of a serial number in a large archive.
"""

from alembic import op

revision = "0008"
down_revision = "0007"
branch_labels = None
depends_on = None

# kind, table, what it is called, what it is of; in terms of the new row.
_FOUND = (
    ("model", "model", "{row}.name", "{row}.description"),
    (
        "unit",
        "unit",
        "{row}.serial",
        "(SELECT model.name FROM model WHERE model.id = {row}.model_id)",
    ),
    (
        "campaign",
        "campaign",
        "'Campaign ' || {row}.id",
        "(SELECT unit.serial || ' ' || model.name FROM unit JOIN model ON model.id = unit.model_id"
        " WHERE unit.id = {row}.unit_id)",
    ),
    (
        "claim",
        "claim",
        "{row}.document",
        "(SELECT printf('%g W, ', {row}.watts) || model.name FROM model WHERE model.id = {row}.model_id)",
    ),
    ("instrument", "instrument", "{row}.name || ' ' || {row}.serial", "'instrument'"),
)


def upgrade() -> None:
    op.execute("CREATE VIRTUAL TABLE found USING fts5(name, of, kind UNINDEXED, ref UNINDEXED, tokenize = 'trigram')")
    for kind, table, name, of in _FOUND:
        values = f"{name.format(row='{row}')}, {of.format(row='{row}')}, '{kind}', {{row}}.id"
        old, new = values.format(row=table), values.format(row="new")
        op.execute(f"INSERT INTO found (name, of, kind, ref) SELECT {old} FROM {table} ORDER BY {table}.id")
        op.execute(
            f"CREATE TRIGGER found_{kind} AFTER INSERT ON {table} BEGIN"
            f" INSERT INTO found (name, of, kind, ref) VALUES ({new}); END"
        )
        op.execute(
            f"CREATE TRIGGER found_{kind}_gone AFTER DELETE ON {table} BEGIN"
            f" DELETE FROM found WHERE kind = '{kind}' AND ref = old.id; END"
        )


def downgrade() -> None:
    for kind, *_ in _FOUND:
        op.execute(f"DROP TRIGGER found_{kind}")
        op.execute(f"DROP TRIGGER found_{kind}_gone")
    op.execute("DROP TABLE found")
