"""What may be asked of the sandbox: plain values in, plain values out. Imported once, before it forks."""

import json
import resource
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np

from plinto_core.errors import PlintoError, PolicyError, RecipeError
from plinto_core.house_rules import rules_from_file
from plinto_core.icc.profile import CLASSES, Profile, parse
from plinto_core.measurement.cgats import read_measurements
from plinto_core.press.calibration import checked_calibration
from plinto_core.press.model import tells_of_inks
from plinto_core.profiling.build_profile import settings_of
from plinto_core.raster.opened import Artwork, Flattening, open_artwork
from plinto_core.raster.picture_kernels import halve
from plinto_core.raster.pyramid import build_pyramid
from plinto_core.sandbox.documents import DOCUMENT_TASKS, warm_documents
from plinto_core.sandbox.facts import facts_of_picture
from plinto_core.sandbox.progress import report

Plain = dict[str, Any]


def picture(path: str, name: str, max_pixels: int, page: int = 0, ground: list[float] | None = None) -> Plain:
    """What a picture's header says, and what its embedded profile is called."""
    return facts_of_picture(_opened(path, name, max_pixels, page, ground))


def levels(path: str, name: str, folder: str, max_pixels: int, page: int, ground: list[float]) -> Plain:
    """Decode the whole picture into the levels of `folder`; the facts once more."""
    opened = _opened(path, name, max_pixels, page, ground)
    _limit_output(opened)
    build_pyramid(opened, Path(folder), report)
    return facts_of_picture(opened)


def profile(path: str) -> Plain:
    """A profile's name, space and class, once every tag of it has been read."""
    return facts_of_profile(parse(Path(path).read_bytes()))


def measurements(path: str, name: str) -> Plain:
    """What a measurement file holds."""
    data, notes = read_measurements(Path(path).read_bytes(), name)
    return {"title": data.title, "inks": list(data.inks), "patches": len(data.device), "notes": notes}


def colors(path: str, name: str) -> Plain:
    """Whether a list of colors can be read."""
    from plinto_core.route.color_list import read_list

    found = read_list(Path(path).read_bytes(), name)
    return {"colors": len(found.names), "channels": list(found.channels)}


def house_rules(path: str, name: str) -> Plain:
    """Whether a set of house rules and the profiles inside it can be read."""
    rules, profiles = rules_from_file(_json(path, name, RecipeError, "a set"))
    return {"name": rules.name, "profiles": [facts_of_profile(each) for each in profiles.values()]}


def policy(path: str, name: str) -> Plain:
    """Whether a policy and the profiles inside it can be read."""
    from plinto_core.policy.files import policy_from_file

    found, profiles = policy_from_file(_json(path, name, PolicyError, "a policy"))
    return {"name": found.name, "profiles": [facts_of_profile(each) for each in profiles.values()]}


def _json(path: str, name: str, refusal: type[PlintoError], what: str) -> Any:
    try:
        return json.loads(Path(path).read_bytes())
    except (ValueError, RecursionError) as error:
        raise refusal(f"'{name}' is no JSON ({error}). Export {what} from Plinto and import that.") from error


def facts_of_profile(found: Profile) -> Plain:
    """What a profile says of itself; its private tags are read too, so that they never fail later."""
    checked_calibration(found)
    settings_of(found)
    return {
        "name": found.name[:255],
        "space": found.header.space.strip(),
        "profile_class": CLASSES[found.header.profile_class],
        "sha256": found.digest,
        "tells_of_inks": tells_of_inks(found),
    }


def _opened(path: str, name: str, max_pixels: int, page: int, ground: list[float] | None) -> Artwork:
    red, green, blue = ground or (1.0, 1.0, 1.0)
    return open_artwork(Path(path), name, max_pixels, Flattening(page, (red, green, blue)))


#: Beyond the largest level and the profile beside it: headers, names and notes.
_SLACK_BYTES = 1 << 20


def _limit_output(opened: Artwork) -> None:
    """No file may grow beyond the picture that its header promises."""
    size = opened.width * opened.height * opened.channels * (opened.depth // 8)
    beside = len(opened.profile.raw) if opened.profile else 0
    resource.setrlimit(resource.RLIMIT_FSIZE, (size + beside + _SLACK_BYTES,) * 2)


def _warm() -> None:
    """Load what every file needs once; every fork has it then. Kernels run on one thread, which a fork requires."""
    for kind in (np.uint8, np.uint16):
        halve(np.zeros((2, 2, 3), kind), np.zeros((1, 1, 3), kind))
        halve(np.zeros((2, 2, 4), kind), np.zeros((1, 1, 4), kind))
    warm_documents()


_warm()
TASKS: dict[str, Callable[..., Plain]] = {
    task.__name__: task for task in (picture, levels, profile, measurements, colors, house_rules, policy)
} | DOCUMENT_TASKS
