"""`manage.py backup FOLDER`."""

from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from plinto_core.errors import PlintoError
from plinto_server.files.backup import backup


class Command(BaseCommand):
    """Says how much it was, and what was missing."""

    help = "Copy database and files to FOLDER, while Plinto runs or not."
    requires_system_checks = ()

    def add_arguments(self, parser: CommandParser) -> None:
        """Where."""
        parser.add_argument("folder", type=Path)

    def handle(self, *args: Any, **options: Any) -> None:
        """Do it."""
        try:
            done = backup(options["folder"])
        except PlintoError as error:
            raise CommandError(str(error)) from error
        self.stdout.write(f"{done.files} files, {done.bytes / 1e6:.1f} MB")
        if done.missing:
            self.stdout.write(f"missing: {', '.join(done.missing)}")
