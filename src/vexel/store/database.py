"""Opens a project's SQLite database, brought up to date by its migrations."""

from pathlib import Path
from typing import Any

from alembic import command
from alembic.config import Config
from sqlalchemy import Engine, create_engine, event
from sqlalchemy.orm import Session, sessionmaker

MIGRATIONS = Path(__file__).parent / "migrations"


def open_database(file: Path) -> sessionmaker[Session]:
    """Open, or make, the database in `file` and migrate it to the newest form.

    Returns
    -------
    sessionmaker
        Gives sessions; safe to share between threads.
    """
    engine = create_engine(f"sqlite:///{file}", connect_args={"timeout": 30})
    event.listen(engine, "connect", _set_up)
    migrate(engine)
    return sessionmaker(engine, expire_on_commit=False)


def migrate(engine: Engine) -> None:
    """Bring the tables to the newest form."""
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
