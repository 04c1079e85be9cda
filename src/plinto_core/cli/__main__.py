"""`python -m plinto_core.cli`."""

from plinto_core.cli import main

main()
