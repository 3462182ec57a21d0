"""Opens a project's SQLite database, after its migrations."""

from pathlib import Path
from typing import Any

from alembic import command
from alembic.config import Config
from sqlalchemy import create_engine, event
from sqlalchemy.orm import Session, sessionmaker
from sqlalchemy.pool import NullPool

MIGRATIONS = Path(__file__).parent / "migrations"


def open_database(file: Path) -> sessionmaker[Session]:
    """Open, or make, the database in `file` and migrate it to the newest form.

    Returns
    -------
    sessionmaker
        Gives sessions; safe to share between threads.
    """
    address = f"sqlite:///{file}"
    _migrate(address)
    engine = create_engine(address, connect_args={"timeout": 30})
    event.listen(engine, "connect", _set_up)
    return sessionmaker(engine, expire_on_commit=False)


def _migrate(address: str) -> None:
    """Migrate the tables, wholly or, where the process ends in between, not at all.

    Python's driver begins no transaction before a statement that changes tables, so that each would count at once
    and the next start would meet half a migration: this connection says itself where its transaction begins (see
    "Transactional DDL" in SQLAlchemy's notes on SQLite).
    """
    engine = create_engine(address, connect_args={"timeout": 30, "isolation_level": None}, poolclass=NullPool)
    event.listen(engine, "connect", _set_up)
    # Two that open one project at once migrate it one after the other.
    event.listen(engine, "begin", lambda connection: connection.exec_driver_sql("BEGIN IMMEDIATE"))
    config = Config()
    config.set_main_option("script_location", str(MIGRATIONS).replace("%", "%%"))
    with engine.begin() as connection:
        config.attributes["connection"] = connection
        command.upgrade(config, "head")


def _set_up(connection: Any, _record: Any) -> None:
    cursor = connection.cursor()
    # Readers never wait for the writer, and a killed server loses no committed row.
    for pragma in ("journal_mode=WAL", "synchronous=NORMAL", "foreign_keys=ON"):
        cursor.execute(f"PRAGMA {pragma}")
    cursor.close()
