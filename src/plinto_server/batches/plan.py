"""What a batch will write, before anything is asked for: names, clashes, sizes, times, and what cannot be made."""

from collections import Counter
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace

from plinto_core.errors import RecipeError
from plinto_core.recipe import Recipe
from plinto_server.artworks.models import Artwork
from plinto_server.bench import recipes, separations
from plinto_server.conditions.library import own_recipe
from plinto_server.conditions.models import Condition
from plinto_server.jobs.models import Run
from plinto_server.policies.models import Document, Output
from plinto_server.policies.sending import file_name_of

MOST_ITEMS = 20_000
#: Until something was made here: million pixels a second, and bytes of a document.
_MEGAPIXELS_A_SECOND, _BYTES_A_SECOND = 5.0, 2e6
#: What lossless compression leaves of a separation, about.
_PACKED = 0.6
_TIMED_RUNS = 50


@dataclass(frozen=True)
class BatchRequest:
    """Artworks for conditions, documents through outputs. `name_rule` names all separations alike; '' as each is set.

    `recipe` is used for every artwork in the place of its own, regions left out; None: as each is set.
    """

    artworks: Sequence[Artwork] = ()
    conditions: Sequence[Condition] = ()
    documents: Sequence[Document] = ()
    outputs: Sequence[Output] = ()
    name_rule: str = ""
    recipe: Recipe | None = None


@dataclass
class Planned:
    """One file to come, estimated size in bytes and seconds of work; `problem` says why it cannot be, or what clashes."""

    of_name: str
    for_name: str
    file_name: str
    bytes: int
    seconds: float
    problem: str = ""
    note: str = ""
    artwork: Artwork | None = None
    condition: Condition | None = None
    document: Document | None = None
    output: Output | None = None
    recipe: Recipe | None = None

    @property
    def artwork_id(self) -> int | None:
        """Of a separation."""
        return self.artwork.pk if self.artwork else None

    @property
    def slug(self) -> str:
        """The condition's, of a separation."""
        return self.condition.slug if self.condition else ""


def planned(asked: BatchRequest) -> list[Planned]:
    """Every file of the batch in its order. Raises `RecipeError` where there is nothing to make, or too much."""
    count = len(asked.artworks) * len(asked.conditions) + len(asked.documents) * len(asked.outputs)
    if count == 0:
        raise RecipeError("There is nothing to make: choose artworks with conditions, or documents with outputs.")
    if count > MOST_ITEMS:
        raise RecipeError(f"These are {count:,} files; a batch has at most {MOST_ITEMS:,}. Make several.")
    found = [*_separations(asked), *_documents(asked)]
    names = Counter(each.file_name.casefold() for each in found)
    for each in found:
        if names[each.file_name.casefold()] > 1 and not each.problem:
            each.problem = f"{names[each.file_name.casefold()]} files would be called '{each.file_name}'."
    return found


def _separations(asked: BatchRequest) -> Iterator[Planned]:
    pace = _pace()
    in_force = recipes.in_force(asked.artworks, asked.conditions) if asked.recipe is None else {}
    own = {each.pk: own_recipe(each) for each in asked.conditions}
    named = _Named(asked.name_rule)
    #: What fits depends on the space and on whether there is a profile, not on the picture.
    fitting: dict[tuple[str, bool, int], tuple[Recipe, str]] = {}
    for artwork in asked.artworks:
        for condition in asked.conditions:
            note = ""
            if asked.recipe is None:
                recipe = in_force[artwork.pk, condition.pk]
            else:
                key = artwork.space, bool(artwork.profile_sha256), condition.pk
                if key not in fitting:
                    fitting[key] = recipes.fitted(asked.recipe, artwork, condition, own[condition.pk])
                recipe, note = fitting[key]
            recipe = named.by_rule(recipe)
            megapixels = artwork.width * artwork.height / 1e6
            inks, depth = len(condition.inks), recipe.deliver.ink_depth
            found = Planned(
                artwork.name, condition.name, separations.file_name_of(artwork, condition, recipe),
                int(megapixels * 1e6 * inks * depth / 8 * _PACKED), megapixels / pace, note=note,
                artwork=artwork, condition=condition, recipe=recipe,
            )  # fmt: skip
            if artwork.asks:
                found.problem = "The house rules ask about its profile: decide at Source first."
            elif not artwork.profile_sha256 and recipe.source.profile == "embedded":
                found.problem = "It has no profile: choose one at Source first."
            yield found


def _documents(asked: BatchRequest) -> Iterator[Planned]:
    for document in asked.documents:
        for output in asked.outputs:
            yield Planned(
                document.name, output.name, file_name_of(document, output), document.bytes,
                document.bytes / _BYTES_A_SECOND, document=document, output=output,
            )  # fmt: skip


def recipe_for(artwork: Artwork, condition: Condition, given: Recipe | None, name_rule: str) -> tuple[Recipe, str]:
    """The recipe of one file (its own, or one `given` for all), and what of that does not fit there."""
    if given is not None:
        recipe, note = recipes.fitted(given, artwork, condition)
    else:
        recipe, note = recipes.current(artwork, condition).recipe, ""
    return _Named(name_rule).by_rule(recipe), note


class _Named:
    """Recipes with one rule for names; one that comes again is the same object again."""

    def __init__(self, name_rule: str) -> None:
        self._name_rule = name_rule
        #: With the recipe itself, so that its identity stays its own.
        self._made: dict[int, tuple[Recipe, Recipe]] = {}

    def by_rule(self, recipe: Recipe) -> Recipe:
        """The recipe, named by the rule if there is one."""
        if not self._name_rule:
            return recipe
        if id(recipe) not in self._made:
            deliver = replace(recipe.deliver, name_rule=self._name_rule)
            self._made[id(recipe)] = recipe, replace(recipe, deliver=deliver)
        return self._made[id(recipe)][1]


def _pace() -> float:
    """Million pixels a second of the last separations made here, one after the other."""
    done = Run.objects.filter(
        kind=separations.KIND, state=Run.State.DONE, artwork__isnull=False, ended_at__isnull=False
    )
    pixels, seconds = 0, 0.0
    for width, height, began, ended in done.values_list("artwork__width", "artwork__height", "began_at", "ended_at")[
        :_TIMED_RUNS
    ]:
        if began is not None and ended is not None:
            pixels, seconds = pixels + width * height, seconds + (ended - began).total_seconds()
    return pixels / 1e6 / seconds if seconds > 0 else _MEGAPIXELS_A_SECOND
