"""A clock for the fault table that can be stepped from outside, in every process that has this folder in PYTHONPATH.

The file named by PLINTO_STEPPED_CLOCK holds how many seconds the clock is off; it is looked at ten times a second.
"""

import contextlib
import os
import threading
import time
from datetime import UTC, datetime
from pathlib import Path

import time_machine

_PLACE = Path(os.environ["PLINTO_STEPPED_CLOCK"])


def _seconds_off() -> float:
    # While the file is being rewritten it is empty for a moment.
    with contextlib.suppress(ValueError):
        return float(_PLACE.read_text())
    return 0.0


def _follow(clock: "time_machine.Coordinates", known: float) -> None:
    while True:
        time.sleep(0.1)
        if (now := _seconds_off()) != known:
            clock.shift(now - known)
            known = now


_known = _seconds_off()
_clock = time_machine.travel(datetime.fromtimestamp(time.time() + _known, UTC), tick=True).start()
threading.Thread(target=_follow, args=(_clock, _known), daemon=True).start()
