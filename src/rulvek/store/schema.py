"""The schema's versions: where the migrations are, and which is the newest that this program knows."""

from pathlib import Path
from typing import TYPE_CHECKING

if TYPE_CHECKING:  # loaded when it is needed: a start that migrates nothing does without
    from alembic.config import Config
    from alembic.script import ScriptDirectory

MIGRATIONS = Path(__file__).parent / "migrations"


def migrations() -> "Config":
    """What Alembic is told."""
    from alembic.config import Config

    config = Config()
    config.set_main_option("script_location", str(MIGRATIONS))
    return config


def scripts() -> "ScriptDirectory":
    """The migrations, one after the other."""
    from alembic.script import ScriptDirectory

    return ScriptDirectory.from_config(migrations())


def newest() -> str:
    """The version that this program knows."""
    return scripts().get_current_head() or ""
