"""`manage.py load_demo`: the made-up shop."""

from typing import Any

from django.core.management.base import BaseCommand

from plinto_demo.load import load


class Command(BaseCommand):
    """Load the demo's account, conditions and artwork; what is there already stays."""

    help = "Load the made-up shop: account, conditions and artwork."

    def handle(self, *args: Any, **options: Any) -> None:
        """Say each thing as it is made."""
        load(lambda text: self.stdout.write(f"  {text}"))
