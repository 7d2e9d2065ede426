"""Rows and files that many tests start from: made once in a run, and put back for each."""

from __future__ import annotations

import shutil
from dataclasses import dataclass
from pathlib import Path

from django.conf import settings
from django.db import connection

#: Of each table its columns and rows.
Rows = dict[str, tuple[list[str], list[tuple]]]


def _contents() -> Rows:
    found: Rows = {}
    with connection.cursor() as cursor:
        for table in connection.introspection.table_names(cursor):
            cursor.execute(f"SELECT * FROM `{table}`")
            found[table] = [column[0] for column in cursor.description], list(cursor.fetchall())
    return found


@dataclass(frozen=True)
class Kept:
    """What was made: rows beyond those that stood before, and a folder with the store's files."""

    rows: Rows
    files: Path

    @classmethod
    def of(cls, make, folder: Path) -> Kept:
        """Run `make`, and keep all it left in the database and in the store."""
        before = {table: set(rows) for table, (_, rows) in _contents().items()}
        make()
        rows = {
            table: (columns, [row for row in rows if row not in before[table]])
            for table, (columns, rows) in _contents().items()
        }
        shutil.copytree(settings.STORE, folder)
        return cls({table: some for table, some in rows.items() if some[1]}, folder)

    def put_back(self) -> None:
        """The same rows under the same numbers, and the same files."""
        with connection.cursor() as cursor:
            cursor.execute("SET foreign_key_checks = 0")
            for table, (columns, rows) in self.rows.items():
                names = ", ".join(f"`{name}`" for name in columns)
                marks = ", ".join(["%s"] * len(columns))
                cursor.executemany(f"INSERT INTO `{table}` ({names}) VALUES ({marks})", rows)
            cursor.execute("SET foreign_key_checks = 1")
        shutil.copytree(self.files, settings.STORE, dirs_exist_ok=True)
