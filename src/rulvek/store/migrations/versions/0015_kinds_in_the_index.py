"""The kind of a name is in the index, too: the newest of each kind are found without going through all that match."""

from alembic import op

revision = "0015"
down_revision = "0014"
branch_labels = None
depends_on = None

_COLUMNS = "name, of, kind, ref"


def upgrade() -> None:
    _anew("name, of, kind, ref UNINDEXED")


def downgrade() -> None:
    _anew("name, of, kind UNINDEXED, ref UNINDEXED")


def _anew(columns: str) -> None:
    """Make the index anew; its triggers stay, for they name the same columns."""
    op.execute(f"CREATE TEMP TABLE named AS SELECT {_COLUMNS} FROM found ORDER BY rowid")
    op.execute("DROP TABLE found")
    op.execute(f"CREATE VIRTUAL TABLE found USING fts5({columns}, tokenize = 'trigram')")
    op.execute(f"INSERT INTO found ({_COLUMNS}) SELECT {_COLUMNS} FROM named ORDER BY rowid")
    op.execute("DROP TABLE named")
