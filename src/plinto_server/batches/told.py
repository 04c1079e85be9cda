"""Hearing from the system that something came into a watched folder; shares on a network tell nothing, so looks go on."""

import threading
import time
from collections.abc import Callable
from pathlib import Path

from watchdog.events import FileSystemEvent, FileSystemEventHandler
from watchdog.observers import Observer


class Told(FileSystemEventHandler):
    """Calls `wake` when something happens in a folder's `in`, and once more when what came should have settled."""

    def __init__(self, root: Path, wake: Callable[[], None], settled_seconds: float) -> None:
        self._root, self._wake, self._settled = root, wake, settled_seconds
        self._timer: threading.Timer | None = None
        self._last = 0.0
        self._lock = threading.Lock()

    def on_any_event(self, event: FileSystemEvent) -> None:
        """From the observer's thread; what Plinto itself moves about in the other parts wakes nobody."""
        paths = (str(each) for each in (event.src_path, event.dest_path) if each)
        if not any(self._came_in(path) for path in paths):
            return
        self._wake()
        with self._lock:
            self._last = time.monotonic()
            if self._timer is None:
                self._begin_timer()

    def _begin_timer(self) -> None:
        # Somewhat longer: the look that saw the file first came after the system told of it.
        self._timer = threading.Timer(self._settled + 1.0, self._settled_now, (time.monotonic(),))
        self._timer.daemon = True
        self._timer.start()

    def _settled_now(self, begun: float) -> None:
        with self._lock:
            self._timer = None
            if self._last > begun:
                self._begin_timer()
        self._wake()

    def _came_in(self, path: str) -> bool:
        try:
            parts = Path(path).relative_to(self._root).parts
        except ValueError:
            return False
        return len(parts) > 2 and parts[1] == "in"


def hear(root: Path, wake: Callable[[], None], settled_seconds: float) -> Callable[[], None]:
    """Begin to listen below `root`, which is made if it is not there. Returns what ends it. Raises `OSError`."""
    root.mkdir(parents=True, exist_ok=True)
    observer = Observer()
    observer.schedule(Told(root.resolve(), wake, settled_seconds), str(root.resolve()), recursive=True)
    observer.start()

    def end() -> None:
        observer.stop()
        observer.join()

    return end
