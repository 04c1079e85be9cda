"""Processes of this machine by names that no later process has, to tell whether one is gone."""

import hashlib
import os
from functools import cache
from pathlib import Path


@cache
def _machine() -> str:
    boot = Path("/proc/sys/kernel/random/boot_id").read_text().strip()
    return f"{boot[:13]} {Path('/proc/self/ns/pid').readlink()}"


def _started(pid: int) -> str:
    """When a process of this machine began, in clock ticks since boot; '' where there is none (proc(5), stat, 22)."""
    try:
        return Path(f"/proc/{pid}/stat").read_text().rpartition(")")[2].split()[19]
    except (FileNotFoundError, ProcessLookupError):
        return ""


def process_name(pid: int | None = None) -> str:
    """A name for a process of this machine (this one, if no number is given) that no later process has."""
    number = os.getpid() if pid is None else pid
    return f"{_machine()} {number} {_started(number)}"


def is_gone(name: str) -> bool:
    """Whether a process of this machine is certainly not there any more; False for other machines' ones."""
    parts = name.rsplit(" ", 2)
    return len(parts) == 3 and parts[0] == _machine() and parts[1].isdigit() and _started(int(parts[1])) != parts[2]


@cache
def _machine_tag() -> str:
    return hashlib.sha256(_machine().encode()).hexdigest()[:8]


def tag() -> str:
    """This process in the name of a file that it is writing: its number, when it began, and on which machine."""
    return f"p{os.getpid()}-{_started(os.getpid())}-{_machine_tag()}-"


def tagged_by_the_dead(file_name: str) -> bool:
    """Whether a file was being written by a process of this machine that is gone."""
    parts = file_name.split("-", 3)
    if len(parts) < 4 or not (parts[0][:1] == "p" and parts[0][1:].isdigit() and parts[1].isdigit()):
        return False
    # On a folder that several machines share, another one's numbers say nothing here.
    return parts[2] == _machine_tag() and _started(int(parts[0][1:])) != parts[1]
