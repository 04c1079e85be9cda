"""`manage.py collect`: remove what nobody holds, now, and say what it was."""

from typing import Any

from django.core.management.base import BaseCommand

from plinto_server.files import collector


class Command(BaseCommand):
    """The worker does the same every few minutes."""

    help = "Remove files that nobody holds, uploads broken off, and pictures beyond the size kept."

    def handle(self, *args: Any, **options: Any) -> None:
        """Say what was freed."""
        self.stdout.write(str(collector.collect()))
