"""A migration that is cut off at any statement: the next start completes it, and no row is lost."""

import os
import sqlite3
import subprocess
import sys
import unittest

from sqlalchemy import event
from sqlalchemy.engine import Engine

from tests.helpers import scratch
from vexel.store.database import open_database

FIRST = """
import sys
from alembic import command
from alembic.config import Config
from sqlalchemy import create_engine
from vexel.store.database import MIGRATIONS
config = Config()
config.set_main_option("script_location", str(MIGRATIONS))
engine = create_engine(f"sqlite:///{sys.argv[1]}")
with engine.begin() as connection:
    config.attributes["connection"] = connection
    command.upgrade(config, sys.argv[2])
"""


OLD = """
insert into shots values ('tide', 'c', 'e', 0), ('reel:tide', 'c', 'e', 2);
insert into revisions values ('tide', 0, '{}', ''), ('reel:tide', 0, '{}', ''), ('reel:tide', 2, '{ }', 'a cut');
insert into runs (shot_id, document, plan, state, message, count, created, ended, seconds)
values ('tide', '{}', '', 'waiting', '', 1, 'c', '', 0), ('tide', '{}', '', 'done', '', 1, 'c', 'e', 1);
"""


def cut_off(file, statements):
    """Open a database in a process that ends after a number of statements; whether it completed."""
    process = os.fork()
    if process == 0:

        def count(*_):
            nonlocal statements
            statements -= 1
            if statements < 0:
                os._exit(9)

        event.listen(Engine, "after_cursor_execute", count)
        open_database(file)
        os._exit(0)
    return os.waitstatus_to_exitcode(os.waitpid(process, 0)[1]) == 0


def schema(file):
    """All statements that made tables and indices, and how many rows there are of each table."""
    with sqlite3.connect(file) as database:
        made = sorted(database.execute("select type, name, sql from sqlite_master where name not like 'sqlite_%'"))
        rows = {
            name: database.execute(f'select * from "{name}"').fetchall() for kind, name, _ in made if kind == "table"
        }
    return made, rows


class MigrationsTest(unittest.TestCase):
    def test_cut_off_after_each_statement(self):
        folder = scratch(self)
        old = folder / "old.db"
        subprocess.run([sys.executable, "-c", FIRST, str(old), "0007"], check=True)
        with sqlite3.connect(old) as database:
            database.executescript(OLD)
        calm = folder / "calm.db"
        calm.write_bytes(old.read_bytes())
        open_database(calm)
        expected = schema(calm)
        rows = expected[1]
        self.assertEqual([row[0] for row in rows["shots"]], ["tide"])
        self.assertEqual(rows["reels"], [("tide", "c", "e", 2)])
        self.assertEqual(rows["reel_revisions"], [("tide", 0, "{}", ""), ("tide", 2, "{ }", "a cut")])
        self.assertEqual(rows["revisions"], [("tide", 0, "{}", "")])
        self.assertEqual([row[4] for row in rows["runs"]], ["queued", "done"])
        self.assertNotEqual(expected[0], schema(old)[0])
        cuts = 0
        while True:
            cut = folder / f"cut{cuts}.db"
            cut.write_bytes(old.read_bytes())
            if cut_off(cut, cuts):
                break
            open_database(cut)
            self.assertEqual(schema(cut), expected, f"cut off after {cuts} statements")
            cuts += 2
        self.assertGreater(cuts, 10)


if __name__ == "__main__":
    unittest.main()
