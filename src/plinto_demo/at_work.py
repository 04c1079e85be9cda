"""What four people have done in the made-up shop: recipes that differ, pins, decided values, runs done and failed."""

from collections.abc import Callable
from dataclasses import replace

from django.contrib.auth.models import User

from plinto_core.recipe import AimStation, Recipe
from plinto_core.recipe.adjustment import Adjustment
from plinto_core.recipe.curve import ToneCurve
from plinto_demo.artwork import PAINTINGS, write_painting
from plinto_server.accounts import people
from plinto_server.accounts.api import DEMO_PASSWORD
from plinto_server.accounts.models import Role
from plinto_server.artworks.intake import take_in
from plinto_server.artworks.models import Artwork
from plinto_server.bench import recipes, separations
from plinto_server.bench.models import Pin, RecipeHistory
from plinto_server.conditions import library
from plinto_server.conditions.library import ConditionChange
from plinto_server.conditions.models import Condition
from plinto_server.files import store
from plinto_server.jobs.carry_out import carry_out
from plinto_server.records import history

#: Beside the account that the demo shows everybody: who they are here, and their role.
PEOPLE = (("maren", Role.OPERATOR), ("tovi", Role.COLOR_LEAD), ("oskar", Role.PREPRESS_LEAD))
POSTER, PATTERN = "Lantern poster.ora", "Seed pouch pattern.tif"
#: Artwork, condition, and what one after another did there: who, and how the recipe went on from the one before.
STEPS: tuple[tuple[str, str, tuple[tuple[str, Callable[[Recipe], Recipe]], ...]], ...] = (
    (
        POSTER, "halden-silk-150",
        (
            ("maren", lambda now: replace(now, aim=AimStation("perceptual"))),
            ("tovi", lambda now: replace(now, ink=replace(now.ink, limits=replace(now.ink.limits, total_percent=300)))),
            ("maren", lambda now: replace(now, adjust=replace(now.adjust, base=Adjustment(chroma_percent=8)))),
        ),
    ),
    (
        POSTER, "tern-news-45",
        (
            ("oskar", lambda now: replace(now, aim=AimStation("perceptual"))),
            (
                "tovi",
                lambda now: replace(
                    now, adjust=replace(now.adjust, base=Adjustment(ToneCurve(((0.0, 0.0), (0.4, 0.46), (1.0, 1.0)))))
                ),
            ),
        ),
    ),
    (
        PATTERN, "brack-pouch-film",
        (
            ("maren", lambda now: replace(now, deliver=replace(now.deliver, depth=16))),
            ("tovi", lambda now: replace(now, ink=replace(now.ink, black=replace(now.ink.black, amount_percent=60)))),
        ),
    ),
)  # fmt: skip
PINS = (
    (POSTER, ((0.25, 0.3, "lantern"), (0.8, 0.15, "moon"), (0.5, 0.9, "garden floor"))),
    (PATTERN, ((0.3, 0.3, "seed"), (0.7, 0.6, "ground"))),
)
WRITTEN = ((POSTER, "tern-news-45", "oskar"), (POSTER, "halden-silk-150", "maren"))
BROKEN = "Hedge label, from the mail.tif"


def load(say: Callable[[str], None]) -> None:
    """Everything that is not there yet; running it again changes nothing."""
    for name, role in PEOPLE:
        if not User.objects.filter(username=name).exists():
            people.add(name, DEMO_PASSWORD, role, None, demo=True)
    if RecipeHistory.objects.exists():
        return
    say("recipes, pins and decisions of four people")
    for artwork_name, slug, steps in STEPS:
        artwork, condition = Artwork.objects.get(name=artwork_name), Condition.objects.get(slug=slug)
        for who, go_on in steps:
            now = recipes.current(artwork, condition)
            recipes.save(artwork, condition, go_on(now.recipe), now.version, User.objects.get(username=who))
    for artwork_name, places in PINS:
        artwork = Artwork.objects.get(name=artwork_name)
        for x, y, name in places:
            Pin.objects.create(artwork=artwork, x=int(x * artwork.width), y=int(y * artwork.height), name=name)
    _decide()
    say("files written, and one that could not be opened")
    for artwork_name, slug, who in WRITTEN:
        artwork, condition = Artwork.objects.get(name=artwork_name), Condition.objects.get(slug=slug)
        recipe = recipes.current(artwork, condition).recipe
        carry_out(separations.ask(artwork, condition, recipe, User.objects.get(username=who)).id)
    _receive_broken()


def _decide() -> None:
    """Values of two conditions, changed by three people one after another."""
    for slug, who, change in (
        ("tern-news-45", "tovi", ConditionChange(notes="Web press 2. Blanket changed on 12 October.")),
        ("tern-news-45", "oskar", ConditionChange(total_ink_percent=235)),
        ("tern-news-45", "tovi", ConditionChange(total_ink_percent=240)),
        ("brack-pouch-film", "tovi", ConditionChange(notes="Corona treatment checked before each roll.")),
    ):
        condition = Condition.objects.get(slug=slug)
        version = history.version_of(library.CONDITION, slug)
        library.change(condition, change, version, User.objects.get(username=who))
    sateen = Condition.objects.get(slug="sateen-reactive")
    version = history.version_of(library.CONDITION, sateen.slug)
    library.set_status(sateen, "out of date", version, User.objects.get(username="tovi"))


def _receive_broken() -> None:
    """A picture that breaks off half way: it is opened by a worker, which says so."""
    path = write_painting(PAINTINGS[0], store.incoming_folder())
    whole = path.read_bytes()
    path.write_bytes(whole[: len(whole) // 2])
    arrival = take_in(store.part_of(path), BROKEN, User.objects.get(username="maren"))
    if arrival.run is not None:
        carry_out(arrival.run.id)
    path.unlink(missing_ok=True)
