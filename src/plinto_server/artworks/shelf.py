"""The shelf: artwork searched, narrowed down and sorted, a page at a time."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from typing import Any, Literal

from django.db.models import Exists, F, OuterRef, Q, QuerySet

from plinto_server.artworks.models import Artwork

Sort = Literal["name", "added", "size", "profile"]
State = Literal["", "asks", "no profile", "separated", "not separated"]

_ORDER: dict[Sort, str] = {"name": "name", "added": "taken_in_at", "size": "pixels", "profile": "profile_name"}


@dataclass(frozen=True)
class Narrowing:
    """What to list. Empty fields narrow nothing down; `condition` is the slug of one that there is a recipe or run for,
    `since` the first day that counts (UTC)."""

    search: str = ""
    space: str = ""
    profile: str = ""
    state: State = ""
    condition: str = ""
    person: str = ""
    since: date | None = None
    sort: Sort = "name"
    descending: bool = False


@dataclass(frozen=True)
class Choices:
    """What artwork on the shelf can be narrowed down by."""

    profiles: Sequence[str]
    people: Sequence[str]


def listed(wanted: Narrowing) -> "QuerySet[Artwork]":
    """Artwork in the order that was asked for, always the same among equals."""
    found: QuerySet[Any] = Artwork.objects.annotate(pixels=F("width") * F("height")).select_related("taken_in_by")
    for word in wanted.search.split():
        found = found.filter(Q(name__icontains=word) | Q(profile_name__icontains=word))
    for field, value in (
        ("stored_as", wanted.space), ("profile_name", wanted.profile), ("taken_in_by__username", wanted.person),
    ):  # fmt: skip
        if value:
            found = found.filter(**{field: value})
    if wanted.since is not None:
        found = found.filter(taken_in_at__date__gte=wanted.since)
    if wanted.condition:
        own = Artwork.objects.filter(id=OuterRef("id"))
        found = found.filter(
            Exists(own.filter(recipehistory__condition__slug=wanted.condition, recipehistory__cursor__gt=0))
            | Exists(own.filter(runs__condition__slug=wanted.condition))
        )
    found = _in_state(found, wanted.state)
    sort = _ORDER[wanted.sort]
    return found.order_by(F(sort).desc() if wanted.descending else F(sort).asc(), "name", "id")


def _in_state(found: "QuerySet[Artwork]", state: State) -> "QuerySet[Artwork]":
    made = Exists(Artwork.objects.filter(id=OuterRef("id"), runs__kind="separation", runs__state="done"))
    if state == "asks":
        return found.exclude(asks=[])
    if state == "no profile":
        return found.filter(profile_name="")
    if state == "separated":
        return found.filter(made)
    return found.exclude(made) if state == "not separated" else found


def choices() -> Choices:
    """Profiles and people that artwork has, by name."""
    profiles = Artwork.objects.exclude(profile_name="").values_list("profile_name", flat=True)
    people = Artwork.objects.filter(taken_in_by__isnull=False).values_list("taken_in_by__username", flat=True)
    return Choices(sorted(set(profiles.distinct())), sorted(set(people.distinct())))
