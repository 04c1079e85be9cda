"""What of a database's errors passes by itself: somebody holds it, it starts again, the line to it was cut."""

from django.db import InterfaceError, OperationalError, connection

from plinto_server.files import space

#: What Django raises for all of these.
UNUSABLE = (OperationalError, InterfaceError)


def passes(error: BaseException) -> bool:
    """Whether the same may work in a moment: a database that is held (SQLite), or one that cannot be reached."""
    if not isinstance(error, UNUSABLE) or space.is_full(error):
        return False
    return "locked" in str(error) or connection.vendor == "postgresql"


def renew() -> None:
    """Let go of a connection that has broken, so that the next query opens another one."""
    if not connection.in_atomic_block:
        connection.close_if_unusable_or_obsolete()
