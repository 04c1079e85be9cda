"""Who keeps the line of waiting work: the database, or Redis where several machines work; one setting decides."""

from typing import TYPE_CHECKING

from django.conf import settings

if TYPE_CHECKING:
    from plinto_server.jobs.brokers.protocol import Broker


def broker() -> "Broker":
    """The one that `PLINTO_QUEUE` names."""
    # Either one imports a library that the other house does not need to have.
    if settings.QUEUE_ON_REDIS:
        from plinto_server.jobs.brokers.on_redis import OnRedis

        return OnRedis()
    from plinto_server.jobs.brokers.in_database import InDatabase

    return InDatabase()
