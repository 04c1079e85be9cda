"""Watched folders: what is put into them is found once it is whole, made once, and put out with its run sheet."""

import errno
import json
import logging
import os
import shutil
import stat
import threading
import time
import uuid
from collections.abc import Callable, Iterator
from datetime import UTC, datetime, timedelta
from pathlib import Path

from django.conf import settings
from django.contrib.auth.models import User
from django.db import transaction
from django.db.models import Q

from plinto_core.errors import PlintoError, RecipeError
from plinto_core.files import UNFINISHED
from plinto_core.recipe import DeliverStation, recipe_from_json
from plinto_server.artworks import intake
from plinto_server.artworks.models import Artwork
from plinto_server.batches import told
from plinto_server.batches.models import WatchedFile, WatchedFolder
from plinto_server.batches.plan import recipe_for
from plinto_server.bench import separations
from plinto_server.conditions.models import Condition
from plinto_server.errors import ConflictError, MissingError
from plinto_server.files import store
from plinto_server.intake.names import clean_name
from plinto_server.jobs.models import Run
from plinto_server.policies import documents, sending
from plinto_server.removals import bin as removals

logger = logging.getLogger("plinto.worker")

PARTS = ("in", "out", "done", "failed", "work")
#: A file whose size and time have not changed for so long is taken for whole.
SETTLED_SECONDS = 4.0
#: A file in `work` that nobody has entered for so long was left by a worker that died.
_LEFT_SECONDS = 60.0
_STEP = timedelta(seconds=120)
_BEHIND = -20
_AT_ONCE = 50

#: What was seen of files at the last look, by path: size, time of change, and since when both are so.
_seen: dict[str, tuple[int, int, float]] = {}
_looking = threading.Lock()


def root() -> Path:
    """Where watched folders lie."""
    return Path(settings.WATCHED_DIR)


def path_of(folder: WatchedFolder) -> Path:
    """Where a watched folder lies: beneath the root, by its own name, which is no path."""
    return root() / folder.name


def by_id(folder_id: int) -> WatchedFolder:
    """Raises `MissingError`."""
    found = WatchedFolder.objects.select_related("condition", "output").filter(id=folder_id).first()
    if found is None:
        raise MissingError("This watched folder is not here any more.")
    return found


def save(folder: WatchedFolder, user: User | None) -> WatchedFolder:
    """Keep a folder and make it on the disk. Raises `RecipeError`."""
    name = clean_name(folder.name, "")[:60].strip()
    if not name or name != folder.name:
        raise RecipeError("A watched folder needs a plain name of 1 to 60 letters, without '/' and leading dots.")
    if folder.condition is None and folder.output is None and not folder.by_subfolder:
        raise RecipeError("Choose a condition for artwork or an output for documents, or conditions by subfolder.")
    if WatchedFolder.objects.filter(name=name).exclude(pk=folder.pk).exists():
        raise RecipeError(f"There is a watched folder '{name}' already. Give this one another name.")
    if folder.name_rule:
        # Said now, and not of every file that is put in.
        DeliverStation(name_rule=folder.name_rule)
    folder.made_by = folder.made_by or user
    place = path_of(folder)
    if place.is_symlink():
        raise RecipeError(f"'{name}' is a link to somewhere else. Remove it, or choose another name.")
    for part in PARTS:
        (place / part).mkdir(parents=True, exist_ok=True)
    folder.save()
    return folder


def remove(folder: WatchedFolder, author: User | None) -> None:
    """Stop watching; nothing on the disk is touched. Raises `ConflictError` while files are under way."""
    if folder.files.exclude(state__in=(WatchedFile.State.DONE, WatchedFile.State.FAILED)).exists():
        raise ConflictError(f"'{folder.name}' has files under way. Switch it off, and wait for them.")
    removals.remove([folder], folder.name, author, "house")


def listen(wake: Callable[[], None]) -> Callable[[], None]:
    """Have `wake` called when something comes into a folder; where the system cannot tell, looks find it all the same."""
    try:
        return told.hear(root(), wake, SETTLED_SECONDS)
    except OSError as error:
        logger.warning(
            "the system does not tell of what comes into watched folders (%s); they are looked through", error
        )
        return lambda: None


def look() -> int:
    """Find what is new, and take each file that is under way a step on. Any number of workers may do this at once."""
    if not _looking.acquire(blocking=False):
        return 0
    try:
        for folder in WatchedFolder.objects.filter(active=True).select_related("condition", "output"):
            if _is_own(folder):
                _find(folder)
        return sum(_step(each) for each in _under_way() if _is_own(each.folder))
    finally:
        _looking.release()


def _is_own(folder: WatchedFolder) -> bool:
    """Whether the folder and all its parts are there, and none of them is a link to somewhere else."""
    place = path_of(folder)
    own = all(each.is_dir() and not each.is_symlink() for each in (place, *(place / part for part in PARTS)))
    if not own:
        logger.warning("the watched folder %s, or a part of it, is gone or a link; nothing is done there", place)
    return own


def _under_way() -> list[WatchedFile]:
    now = datetime.now(UTC)
    waiting = WatchedFile.objects.exclude(state__in=(WatchedFile.State.DONE, WatchedFile.State.FAILED))
    free = waiting.filter(Q(step_until=None) | Q(step_until__lt=now) | Q(step_until__gt=now + 2 * _STEP))
    # What waits for a run that still goes on needs no step.
    moving = (Run.State.QUEUED, Run.State.RUNNING)
    ready = free.exclude(state=WatchedFile.State.OPENING, opening__state__in=moving)
    ready = ready.exclude(state=WatchedFile.State.MAKING, run__state__in=moving)
    return list(ready.select_related("folder__condition", "folder__output").order_by("id")[:_AT_ONCE])


# Finding.


def _find(folder: WatchedFolder) -> None:
    place = path_of(folder)
    _give_back(folder, place)
    for path, subfolder in _candidates(place / "in", folder.by_subfolder):
        if _is_whole(path):
            _claim(folder, place, path, subfolder)


def _candidates(inside: Path, by_subfolder: bool) -> Iterator[tuple[Path, str]]:
    for entry in sorted(os.scandir(inside), key=lambda each: each.name):
        if entry.name.startswith((".", "~")) or entry.name.lower().endswith(UNFINISHED):
            continue
        if entry.is_dir(follow_symlinks=False):
            if by_subfolder:
                for path, _ in _candidates(Path(entry.path), False):
                    yield path, entry.name
            continue
        yield Path(entry.path), ""


def _is_whole(path: Path) -> bool:
    try:
        found = path.lstat()
    except FileNotFoundError:
        return False
    if not stat.S_ISREG(found.st_mode):
        # Links and devices are claimed at once, and refused.
        return True
    key, now = str(path), time.monotonic()
    size, changed, since = _seen.get(key, (-1, -1, now))
    if (size, changed) != (found.st_size, found.st_mtime_ns):
        _seen[key] = found.st_size, found.st_mtime_ns, now
        return False
    return found.st_size > 0 and now - since >= SETTLED_SECONDS


def _claim(folder: WatchedFolder, place: Path, path: Path, subfolder: str) -> None:
    """Moved first, entered then: of many workers one can move it, and what was not entered is given back."""
    _seen.pop(str(path), None)
    kept_as = f"{uuid.uuid4().hex} {path.name}"[:250]
    try:
        path.rename(place / "work" / kept_as)
    except FileNotFoundError:
        return
    WatchedFile.objects.create(folder=folder, name=path.name[:255], kept_as=kept_as, subfolder=subfolder[:255])


def _give_back(folder: WatchedFolder, place: Path) -> None:
    entered = set(folder.files.exclude(kept_as="").values_list("kept_as", flat=True))
    for entry in os.scandir(place / "work"):
        if entry.name in entered or not entry.name[:32].isalnum():
            continue
        if time.time() - entry.stat(follow_symlinks=False).st_ctime > _LEFT_SECONDS:
            _moved(Path(entry.path), place / "in", entry.name[33:] or entry.name)


def _moved(path: Path, into: Path, name: str) -> str:
    """Move a file under a name that is free there; returns the name."""
    stem, dot, ending = name.rpartition(".")
    for count in range(1, 10_000):
        tried = name if count == 1 else f"{stem} {count}.{ending}" if dot else f"{name} {count}"
        try:
            # Unlike a rename, a link never replaces what is there.
            os.link(path, into / tried, follow_symlinks=False)
        except FileExistsError:
            continue
        except OSError as error:
            # Some disks of other machines know no links.
            if error.errno not in (errno.EPERM, errno.ENOTSUP) or os.path.lexists(into / tried):
                raise
            path.rename(into / tried)
            return tried
        path.unlink()
        return tried
    raise OSError(f"no name is free for '{name}' in {into.name}")


# Steps.


def _step(file: WatchedFile) -> bool:
    now = datetime.now(UTC)
    mine = WatchedFile.objects.filter(id=file.id, state=file.state, step_until=file.step_until)
    if not mine.update(step_until=now + _STEP):
        return False
    try:
        {
            WatchedFile.State.FOUND: _open,
            WatchedFile.State.OPENING: _opened,
            WatchedFile.State.MAKING: _made,
        }[WatchedFile.State(file.state)](file)
    except PlintoError as error:
        _fail(file, str(error))
    except FileNotFoundError:
        _fail(file, f"'{file.name}' was taken away while it was worked on.")
    finally:
        WatchedFile.objects.filter(id=file.id).update(step_until=None)
    return True


def _original(file: WatchedFile) -> Path:
    return path_of(file.folder) / "work" / file.kept_as


def _open(file: WatchedFile) -> None:
    original = _original(file)
    if not stat.S_ISREG(original.lstat().st_mode):
        raise RecipeError(f"'{file.name}' is a link or no file at all. Put the file itself into the folder.")
    copy = store.incoming_folder() / uuid.uuid4().hex
    try:
        # Never through a link that was put in its place meanwhile.
        with os.fdopen(os.open(original, os.O_RDONLY | os.O_NOFOLLOW), "rb") as source, copy.open("xb") as target:
            shutil.copyfileobj(source, target, 1 << 20)
        part = store.part_of(copy)
        with copy.open("rb") as head:
            is_document = head.read(5) == b"%PDF-"
        if is_document:
            _send(file, part)
        else:
            arrival = intake.take_in(part, file.name, file.folder.made_by)
            if arrival.run is not None:
                _go(file, WatchedFile.State.OPENING, opening=arrival.run)
            else:
                assert arrival.artwork is not None
                _separate(file, arrival.artwork)
    finally:
        copy.unlink(missing_ok=True)


def _send(file: WatchedFile, part: store.Part) -> None:
    if file.folder.output is None:
        raise RecipeError(f"'{file.name}' is a document, and this folder has no output for documents.")
    document, _ = documents.take_in(part, file.name, file.folder.made_by)
    with transaction.atomic():
        run = sending.send(document, file.folder.output, file.folder.made_by, _BEHIND)
        _go(file, WatchedFile.State.MAKING, run=run)


def _opened(file: WatchedFile) -> None:
    run = file.opening
    if run is None or run.state != Run.State.DONE or run.artwork is None:
        raise RecipeError((run.message if run else "") or f"'{file.name}' could not be opened.")
    _separate(file, run.artwork)


def _separate(file: WatchedFile, artwork: Artwork) -> None:
    if artwork.asks:
        raise RecipeError(
            f"The house rules ask about the profile of '{artwork.name}'. Decide at Source, on the Bench; then put the file "
            "in again."
        )
    condition = _condition(file)
    given = recipe_from_json(file.folder.recipe) if file.folder.recipe else None
    recipe, note = recipe_for(artwork, condition, given, file.folder.name_rule)
    with transaction.atomic():
        run = separations.ask(artwork, condition, recipe, file.folder.made_by, priority=_BEHIND)
        _go(file, WatchedFile.State.MAKING, run=run, artwork=artwork, said=note)


def _condition(file: WatchedFile) -> Condition:
    if file.subfolder:
        named = Condition.objects.filter(Q(slug=file.subfolder) | Q(name__iexact=file.subfolder)).first()
        if named is None:
            raise MissingError(f"There is no printing condition '{file.subfolder}', as the subfolder is called.")
        return named
    if file.folder.condition is None:
        raise MissingError(f"'{file.folder.name}' has no printing condition. Choose one, and put the file in again.")
    return file.folder.condition


def _go(file: WatchedFile, state: WatchedFile.State, **more: object) -> None:
    WatchedFile.objects.filter(id=file.id).update(state=state, **more)


def _made(file: WatchedFile) -> None:
    run = file.run
    if run is None or run.state != Run.State.DONE or not run.result_sha256:
        raise RecipeError((run.message if run else "") or f"'{file.name}' could not be made.")
    place = path_of(file.folder)
    name = file.out_name or _free_name(file, run.file_name)
    _put(store.path_of(run.result_sha256), place / "out" / name)
    sheet = json.dumps(run.run_sheet, indent=2, ensure_ascii=False).encode()
    part = place / "work" / f".{uuid.uuid4().hex}.part"
    part.write_bytes(sheet)
    part.replace(place / "out" / f"{Path(name).stem} run sheet.json")
    # Whoever did this once before, and died, may have moved it already.
    kept = _moved(_original(file), place / "done", file.name) if os.path.lexists(_original(file)) else file.name
    renamed = f"The original is kept as '{kept}'." if kept != file.name else ""
    said = " ".join(part for part in (f"Written as '{name}'.", renamed, file.said) if part)
    _go(file, WatchedFile.State.DONE, said=said, kept_as="", ended_at=datetime.now(UTC))


def _free_name(file: WatchedFile, wanted: str) -> str:
    """A name that nothing in `out` has and no other file of the folder is to get, written down before it is used."""
    out = path_of(file.folder) / "out"
    with transaction.atomic():
        taken = set(file.folder.files.exclude(out_name="").values_list("out_name", flat=True))
        stem, _, ending = wanted.rpartition(".")
        names = (wanted if count == 1 else f"{stem} {count}.{ending}" for count in range(1, 1_000_000))
        name = next(each for each in names if each not in taken and not os.path.lexists(out / each))
        WatchedFile.objects.filter(id=file.id).update(out_name=name)
    return name


def _put(source: Path, target: Path) -> None:
    """A copy that appears whole."""
    part = target.with_name(f".{uuid.uuid4().hex}.part")
    try:
        with source.open("rb") as read, part.open("xb") as write:
            shutil.copyfileobj(read, write, 1 << 20)
            write.flush()
            os.fsync(write.fileno())
        part.replace(target)
    finally:
        part.unlink(missing_ok=True)


def _fail(file: WatchedFile, said: str) -> None:
    place, original = path_of(file.folder), _original(file)
    name = file.name
    if os.path.lexists(original):
        name = _moved(original, place / "failed", file.name)
    (place / "failed" / f"{name}.txt").write_text(f"{said}\n", encoding="utf-8")
    _go(file, WatchedFile.State.FAILED, said=said, kept_as="", ended_at=datetime.now(UTC))
