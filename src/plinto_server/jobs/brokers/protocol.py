"""What jobs need of whoever keeps the line; what is true of a run is in its row, never here."""

from collections.abc import Sequence
from datetime import datetime, timedelta
from typing import Protocol

#: A task that began so long ago and whose run still waits was lost on the way.
SILENCE = timedelta(seconds=60)


class Broker(Protocol):
    """A line of tasks; it may lose or double them: runs are claimed in the database, and lost ones queued again."""

    #: What is raised while the line cannot be reached.
    unreachable: tuple[type[Exception], ...]

    def hand_over(self, run_id: int, queue: str, priority: int) -> str:
        """Put a run into a line; a higher `priority` (-128…127) goes first. Returns the task's name."""
        ...

    def has(self, task_id: str, now: datetime) -> bool:
        """Whether a task still waits, or was begun within `SILENCE`."""
        ...

    def forget_ended(self, now: datetime) -> None:
        """Let go of what ended long ago."""
        ...

    def work(self, queues: Sequence[str], verbosity: int) -> None:
        """Work through the lines until this process is told to stop. Raises what its connection raises."""
        ...
