"""What people said stays as it was said: the database itself refuses to change or remove it.

Triggers rather than grants, because the same user migrates and writes.
"""

from __future__ import annotations

#: Tables that are only ever appended to.
APPENDED = ("history_entry",)


def guards(table: str) -> list[str]:
    """Statements that make a table insert-only."""
    return [
        f"""CREATE TRIGGER {table}_no_{event.lower()} BEFORE {event} ON {table} FOR EACH ROW
        SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = '{table} is only ever appended to'"""
        for event in ("UPDATE", "DELETE")
    ]


def unguards(table: str) -> list[str]:
    """Statements that undo `guards`."""
    return [f"DROP TRIGGER IF EXISTS {table}_no_{event}" for event in ("update", "delete")]
