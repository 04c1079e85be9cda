"""The caches by lifetime: what stays true for as long as a file exists, and what holds for one position of a slider."""

from pathlib import Path

from django.conf import settings
from django.dispatch import receiver

from plinto_core.chain.library import Condition as CoreCondition
from plinto_core.chain.library import compute_condition, tables_path
from plinto_core.chain.node_store import forget_nodes
from plinto_core.icc.profile import Profile, parse
from plinto_core.press.model import ForwardModel
from plinto_core.separation.tables import InverseTables
from plinto_server.files import store
from plinto_server.files.collector import released
from plinto_server.warm.cache import ByteCache

#: By digest of a file: parsed profiles, conditions with their tables, gamuts, judgements.
lasting = ByteCache(768 << 20)
#: By artwork: levels (mapped from the disk), the samples that figures are computed from.
pictures = ByteCache(384 << 20)
#: By recipe: compiled lines and their links.
lines = ByteCache(512 << 20, (CoreCondition, ForwardModel, InverseTables, Profile))
#: By recipe and view: grids and tables of one look.
looks = ByteCache(256 << 20, (CoreCondition, ForwardModel, InverseTables, Profile))


def profile(sha256: str) -> Profile:
    """A profile of the store, parsed once."""
    return lasting.get(("profile", sha256), lambda: parse(store.path_of(sha256).read_bytes()))


def condition(sha256: str) -> CoreCondition:
    """The condition that a profile of the store describes, with its forward model and inverse tables."""
    return lasting.get(("condition", sha256), lambda: condition_of(profile(sha256)))


def condition_of(found: Profile) -> CoreCondition:
    """The condition that a profile describes, whether it is in the store or not."""
    return compute_condition(found, Path(settings.CACHE_DIR))


@receiver(released)
def forget(sha256: str, **_: object) -> None:
    """A file is gone: nothing that was kept of it stays."""
    tables_path(Path(settings.CACHE_DIR), sha256).unlink(missing_ok=True)
    forget_nodes(Path(settings.CACHE_DIR), sha256)
    for shelf in (lasting, pictures, lines, looks):
        shelf.forget(sha256)
