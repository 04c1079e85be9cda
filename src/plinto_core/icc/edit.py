"""Profiles taken apart and put together: a tag from one into another, another name; always as a new profile."""

from dataclasses import replace

from plinto_core.errors import IccError
from plinto_core.icc.profile import Profile, write
from plinto_core.icc.values import Description


def copy_tags(source: Profile, target: Profile, tags: tuple[str, ...]) -> Profile:
    """`target` with these tags of `source`. Raises `IccError` for tags that are not there or cannot fit."""
    missing = sorted(set(tags) - source.tags.keys())
    if missing:
        raise IccError(f"'{source.name}' has no tag {', '.join(missing)}; it has {', '.join(source.tags)}")
    tables = [tag for tag in tags if tag[:3] in ("A2B", "B2A", "gam")]
    same = (source.header.space, source.header.pcs) == (target.header.space, target.header.pcs)
    if tables and not same:
        raise IccError(
            f"{', '.join(tables)} of '{source.name}' is for {source.header.space.strip()}, "
            f"and '{target.name}' is for {target.header.space.strip()}"
        )
    return write(replace(target, tags={**target.tags, **{tag: source.tags[tag] for tag in tags}}))


def renamed(profile: Profile, name: str) -> Profile:
    """The profile under another description. Raises `IccError` for an empty name."""
    if not name.strip() or len(name) > 200:
        raise IccError("a name of 1 to 200 letters is needed")
    return write(replace(profile, tags={**profile.tags, "desc": Description({"enUS": name.strip()})}))
