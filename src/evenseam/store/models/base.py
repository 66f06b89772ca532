"""What all tables share: names of constraints, JSON, and times that are UTC."""

from datetime import UTC, datetime
from typing import Any

from sqlalchemy import JSON, MetaData
from sqlalchemy.dialects.mysql import DATETIME, LONGTEXT
from sqlalchemy.orm import DeclarativeBase
from sqlalchemy.types import TypeDecorator

_NAMING = {
    "ix": "ix_%(table_name)s_%(column_0_N_name)s",
    "uq": "uq_%(table_name)s_%(column_0_N_name)s",
    "ck": "ck_%(table_name)s_%(constraint_name)s",
    "fk": "fk_%(table_name)s_%(column_0_N_name)s_%(referred_table_name)s",
    "pk": "pk_%(table_name)s",
}
Json = JSON(none_as_null=True)
LongText = LONGTEXT()


class UtcTime(TypeDecorator[datetime]):
    """UTC with microseconds; refuses times without a zone."""

    impl = DATETIME(fsp=6)
    cache_ok = True

    def process_bind_param(self, value: datetime | None, dialect: Any) -> datetime | None:  # noqa: ARG002
        """Python to database."""
        if value is not None and value.tzinfo is None:
            raise ValueError("a time without a zone was given")
        return value.astimezone(UTC).replace(tzinfo=None) if value else None

    def process_result_value(self, value: datetime | None, dialect: Any) -> datetime | None:  # noqa: ARG002
        """Database to Python."""
        return value.replace(tzinfo=UTC) if value else None


def now() -> datetime:
    """The present, as stored."""
    return datetime.now(UTC)


class Base(DeclarativeBase):
    """Root of the tables."""

    metadata = MetaData(naming_convention=_NAMING)
