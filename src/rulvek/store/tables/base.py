"""The base of all tables; names of constraints follow one rule so that migrations can refer to them."""

from datetime import datetime
from typing import Any, ClassVar

from sqlalchemy import JSON, MetaData, String
from sqlalchemy.orm import DeclarativeBase

from rulvek.store.types import UtcDateTime


class Base(DeclarativeBase):
    """All tables."""

    metadata = MetaData(
        naming_convention={
            "ix": "ix_%(column_0_label)s",
            "uq": "uq_%(table_name)s_%(column_0_name)s",
            "fk": "fk_%(table_name)s_%(column_0_name)s_%(referred_table_name)s",
            "pk": "pk_%(table_name)s",
        }
    )
    type_annotation_map: ClassVar = {datetime: UtcDateTime, dict[str, Any]: JSON, list[Any]: JSON, str: String(200)}
