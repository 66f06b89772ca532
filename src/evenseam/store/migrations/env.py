"""Alembic's entry: runs the migrations against the address it was given."""

from alembic import context
from sqlalchemy import create_engine

from evenseam.store.models import Base

engine = create_engine(context.config.attributes["url"])
with engine.connect() as connection:
    context.configure(connection=connection, target_metadata=Base.metadata, compare_type=True)
    with context.begin_transaction():
        context.run_migrations()
engine.dispose()
