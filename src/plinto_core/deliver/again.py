"""Making a file once more from its run sheet alone, and holding it against the one that was made then."""

from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from plinto_core.chain.compiled import Chain, compile_recipe
from plinto_core.chain.library import Library
from plinto_core.deliver.run_sheet import differing_versions
from plinto_core.deliver.separate import Outcome, separate
from plinto_core.errors import RecipeError
from plinto_core.files import file_digest
from plinto_core.icc.profile import Profile, parse
from plinto_core.icc.standard import RGB_SPACES, rgb_profile
from plinto_core.raster.opened import Artwork, Flattening, open_artwork
from plinto_core.recipe import recipe_from_json

_PROFILE_BYTES = 64 << 20


@dataclass(frozen=True)
class Again:
    """What came of it: whether it is `same` to the last bit, and which versions differ from those of the sheet."""

    outcome: Outcome
    same: bool
    differing: list[str]


def make_again(
    sheet: dict[str, Any], inputs: Iterable[Path], library: Library, out: Path,
    progress: Callable[[float], None] = lambda share: None, by_rule: Callable[[Path, Chain], None] | None = None,
) -> Again:  # fmt: skip
    """Write the file of a run sheet to `out`, from inputs found by their digest among files and folders.

    Where the sheet names a delivery rule, `by_rule` brings the written page under it, in place. Raises `RecipeError` naming
    every input that is missing.
    """
    needed = _needed(sheet)
    found = _by_digest(inputs, set(needed))
    artwork = _artwork(sheet, found)
    source = _source(sheet, found, artwork)
    target = found.get(sheet["condition"]["sha256"])
    missing = [
        needed[digest]
        for digest, there in (
            (_pixels(sheet), artwork), (sheet["source_profile"]["sha256"], source),
            (sheet["condition"]["sha256"], target),
        )
        if there is None
    ]  # fmt: skip
    if missing or artwork is None or source is None or target is None:
        raise RecipeError("Not among the files given: " + "; ".join(missing) + ". Give the folder that has them.")
    chain = compile_recipe(recipe_from_json(sheet["recipe"]), library.condition(parse(target.read_bytes())), source)
    outcome = separate(artwork, chain, out, progress)
    if by_rule is not None:
        by_rule(out, chain)
    return Again(outcome, file_digest(out) == sheet["written"]["sha256"], differing_versions(sheet))


def _pixels(sheet: dict[str, Any]) -> str:
    return str(sheet["artwork"].get("pixels_sha256") or sheet["artwork"]["sha256"])


def _needed(sheet: dict[str, Any]) -> dict[str, str]:
    source, condition = sheet["source_profile"], sheet["condition"]
    return {
        _pixels(sheet): f"the artwork '{sheet['artwork']['name']}' (SHA-256 {_pixels(sheet)[:16]}…)",
        source["sha256"]: f"the source profile '{source['name']}' (SHA-256 {source['sha256'][:16]}…)",
        condition["sha256"]: f"the condition's profile '{condition['name']}' (SHA-256 {condition['sha256'][:16]}…)",
    }


def _by_digest(inputs: Iterable[Path], wanted: set[str]) -> dict[str, Path]:
    found: dict[str, Path] = {}
    for path in _files(inputs):
        if len(found) == len(wanted):
            break
        if (digest := file_digest(path)) in wanted:
            found[digest] = path
    return found


def _files(inputs: Iterable[Path]) -> Iterator[Path]:
    for path in inputs:
        if path.is_dir():
            yield from sorted(each for each in path.rglob("*") if each.is_file())
        else:
            yield path


def _artwork(sheet: dict[str, Any], found: dict[str, Path]) -> Artwork | None:
    path = found.get(_pixels(sheet))
    if path is None:
        return None
    facts = sheet["artwork"]
    red, green, blue = facts.get("ground") or (1.0, 1.0, 1.0)
    # The name stands on films and pages: it is the one of then, whatever the file is called now.
    return open_artwork(path, facts["name"], flattening=Flattening(facts.get("page", 0), (red, green, blue)))


def _source(sheet: dict[str, Any], found: dict[str, Path], artwork: Artwork | None) -> Profile | None:
    digest = sheet["source_profile"]["sha256"]
    if artwork is not None and artwork.profile is not None and artwork.profile.digest == digest:
        return artwork.profile
    standard = (rgb_profile(name) for name in RGB_SPACES)
    if (known := next((profile for profile in standard if profile.digest == digest), None)) is not None:
        return known
    path = found.get(digest)
    if path is None or path.stat().st_size > _PROFILE_BYTES:
        return None
    return parse(path.read_bytes())
