"""Every transaction takes one lock of the whole house before it looks at anything.

SQLite, as Plinto opens it, has one transaction that writes at a time, and all of Plinto is proven under that: a check
and what follows from it stand in one transaction, and nobody comes between. PostgreSQL lets them run beside each
other, where each such pair would need a lock of its own, and a forgotten one would show once a year. Transactions here
take milliseconds (what takes longer is computed before), so one lock costs less than it saves: docs/machines.md has
the measured rate. It is let go when the transaction or its connection ends. Single statements need none.
"""

from typing import Any

from django.db.backends.postgresql import base

#: Any number, the same for all of a house: this one spells the name in ASCII.
_HOUSE = int.from_bytes(b"plinto", "big")


class DatabaseWrapper(base.DatabaseWrapper):
    """Django's own, with the lock at the beginning of each outermost `atomic`."""

    def set_autocommit(self, autocommit: bool, *args: Any, **more: Any) -> None:
        """A transaction begins where autocommit is switched off: nothing may be read before the lock is held."""
        super().set_autocommit(autocommit, *args, **more)
        if not autocommit:
            try:
                with self.cursor() as cursor:
                    cursor.execute("SELECT pg_advisory_xact_lock(%s)", [_HOUSE])
            except BaseException:
                # Else the connection would be left in a transaction that nobody ends.
                self.close()
                raise
