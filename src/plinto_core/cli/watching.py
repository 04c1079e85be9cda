"""The command that watches a folder: what is put into it comes out as inks, once."""

import os
import stat
import time
from dataclasses import dataclass, field
from functools import partial
from pathlib import Path
from threading import Event
from typing import Any

import click
from watchdog.events import FileSystemEvent, FileSystemEventHandler
from watchdog.observers import Observer

from plinto_core.cli.lines import write_delivery
from plinto_core.cli.settings import FILE, line_options
from plinto_core.cli.works import line_of, stands, targets_of
from plinto_core.errors import PlintoError, RecipeError
from plinto_core.files import UNFINISHED

FOLDER = click.Path(file_okay=False, path_type=Path)
#: A file whose size and time have not changed for so long is taken for whole.
SETTLED_SECONDS = 2.0
#: The folder is looked through so often even if nothing was told: shares on a network tell nothing.
SCAN_SECONDS = 5.0
PARTS = ("in", "out", "done", "failed")


@click.command()
@click.argument("folder", type=FOLDER)
@click.option("--condition", type=FILE, help="ICC output profile for what lies directly in 'in'.")
@click.option(
    "--conditions",
    type=click.Path(exists=True, file_okay=False, path_type=Path),
    help="Folder of ICC profiles: what lies in 'in/NAME' is made for NAME.icc.",
)
@click.option("--once", is_flag=True, help="Make what is there, then end.")
@partial(line_options, needs_profile=False)
def watch(folder: Path, condition: Path | None, conditions: Path | None, once: bool, **given: Any) -> None:
    """Watch FOLDER/in: each picture is separated into FOLDER/out with its run sheet, its original goes to 'done'.

    Files that are still being written are waited for. What fails goes to 'failed' beside a text that says why. Links
    are refused. Broken off at any moment, the same command goes on: nothing is made twice. Ctrl C ends it.
    """
    if given.pop("profile"):
        raise RecipeError("--profile: a watched folder takes its conditions with --condition or --conditions.")
    if condition is None and conditions is None:
        raise RecipeError("Say what is made: --condition FILE.icc, or --conditions FOLDER for subfolders by name.")
    for part in PARTS:
        (folder / part).mkdir(parents=True, exist_ok=True)
    told = Event()
    observer = Observer()
    observer.schedule(_Told(told), str(folder / "in"), recursive=True)
    observer.start()
    watched = _Watched(folder, condition, conditions, given)
    try:
        while True:
            waiting = watched.look(time.monotonic())
            if once and not waiting:
                break
            told.wait(0.2 if waiting else SCAN_SECONDS)
            told.clear()
    except KeyboardInterrupt:
        pass
    finally:
        observer.stop()
        observer.join()
    click.echo(f"{watched.made} made, {watched.kept} there already, {watched.failed} failed")
    if watched.failed and once:
        raise click.exceptions.Exit(1)


class _Told(FileSystemEventHandler):
    """Wakes the look when the system says that something changed."""

    def __init__(self, told: Event) -> None:
        self._told = told

    def on_any_event(self, event: FileSystemEvent) -> None:
        self._told.set()


@dataclass
class _Watched:
    folder: Path
    condition: Path | None
    conditions: Path | None
    given: dict[str, Any]
    made: int = 0
    kept: int = 0
    failed: int = 0
    #: Size, time of change, and since when both are so.
    _seen: dict[Path, tuple[int, int, float]] = field(default_factory=dict)

    def look(self, now: float) -> int:
        """Make what is whole; how many files are still waited for."""
        waiting = 0
        found = sorted(self._files())
        self._seen = {path: seen for path, seen in self._seen.items() if path in found}
        for path in found:
            if path.name.lower().endswith(UNFINISHED):
                continue
            if path.is_symlink():
                self._refuse(path, "It is a link. Put the file itself into the folder.")
                continue
            try:
                facts = path.stat(follow_symlinks=False)
            except FileNotFoundError:
                continue  # taken away again before it was looked at
            if not stat.S_ISREG(facts.st_mode):
                continue
            size, changed, since = self._seen.get(path, (-1, -1, now))
            if (size, changed) != (facts.st_size, facts.st_mtime_ns):
                self._seen[path] = (facts.st_size, facts.st_mtime_ns, now)
                waiting += 1
            elif now - since < SETTLED_SECONDS:
                waiting += 1
            else:
                self._take(path)
        return waiting

    def _files(self) -> list[Path]:
        inside = self.folder / "in"
        files = [path for path in inside.iterdir() if path.is_symlink() or not path.is_dir()]
        for sub in inside.iterdir():
            if sub.is_dir() and not sub.is_symlink():
                files += [path for path in sub.iterdir() if path.is_symlink() or not path.is_dir()]
        return files

    def _profile(self, path: Path) -> Path:
        if path.parent == self.folder / "in":
            if self.condition is None:
                raise RecipeError("No --condition was given: put it into a subfolder that is called like a profile.")
            return self.condition
        name = path.parent.name
        for suffix in (".icc", ".icm"):
            if self.conditions is not None and (self.conditions / f"{name}{suffix}").is_file():
                return self.conditions / f"{name}{suffix}"
        raise RecipeError(f"There is no profile '{name}.icc' among --conditions. Rename the subfolder.")

    def _take(self, path: Path) -> None:
        try:
            artwork, chain = line_of(path, self._profile(path), self.given)
            target, sheet = targets_of(self.folder / "out", artwork, chain)
            if stands(target, sheet, path, chain):
                self.kept += 1
            else:
                if target.exists():
                    raise RecipeError(f"'{target.name}' stands in 'out' already, made of something else. Rename one.")
                write_delivery(path, target, artwork, chain, chain.recipe.deliver, sheet)
                self.made += 1
                click.echo(f"{path.name}: {target.name}")
        except PlintoError as error:
            self._refuse(path, str(error))
            return
        _moved(path, self.folder / "done")

    def _refuse(self, path: Path, why: str) -> None:
        self.failed += 1
        click.echo(f"{path.name}: {why}", err=True)
        moved = _moved(path, self.folder / "failed")
        moved.with_name(f"{moved.name}.txt").write_text(f"{path.name}: {why}\n")


def _moved(path: Path, folder: Path) -> Path:
    """The file in another folder of the same disk, under a name that nothing there has."""
    target, count = folder / path.name, 1
    while os.path.lexists(target):
        target, count = folder / f"{path.stem} {count}{path.suffix}", count + 1
    return path.replace(target)
