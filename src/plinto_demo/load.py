"""Load the made-up shop into a server's database: account, conditions, artwork. Running it again changes nothing."""

import json
import threading
from collections.abc import Callable
from dataclasses import asdict, replace
from datetime import UTC, datetime, timedelta
from pathlib import Path

import numpy as np
from django.contrib.auth.models import User
from django.db import transaction
from PIL import Image

from plinto_core.adjust.regions import PixelGrid
from plinto_core.analysis.cost import InkCost
from plinto_core.house_rules import HouseRules
from plinto_core.measurement.chart import strip_chart
from plinto_core.policy.kinds import Catches
from plinto_core.policy.policy import Refuse, Row
from plinto_core.policy.ready_made import READY_MADE
from plinto_core.policy.rule import DeliveryRule
from plinto_core.policy.ticket import Ticket
from plinto_core.raster.pyramid import Window
from plinto_core.recipe import InkStation, Recipe, recipe_from_json
from plinto_core.recipe.black import BlackPolicy, usual_black
from plinto_core.recipe.limits import InkLimits
from plinto_core.screen.proof import RenderRequest
from plinto_demo import at_work
from plinto_demo.artwork import PAINTINGS, Painting, write_painting, write_poster_layers
from plinto_demo.build import kept
from plinto_demo.documents import DOCUMENTS, write_document
from plinto_demo.season import ROUTES, SEASON_NAME, season_list, season_spots
from plinto_demo.shop import CONDITIONS, ShopCondition, measure
from plinto_server.accounts import people
from plinto_server.accounts.api import DEMO_PASSWORD, DEMO_USER
from plinto_server.accounts.models import Person, Role
from plinto_server.artworks.intake import take_in
from plinto_server.artworks.models import Artwork
from plinto_server.artworks.pictures import pyramid, thumbnail
from plinto_server.batches import service as batches
from plinto_server.batches import watched
from plinto_server.batches.models import WatchedFolder
from plinto_server.batches.plan import BatchRequest, planned
from plinto_server.bench import engine
from plinto_server.colors import lists, routes
from plinto_server.colors.models import ColorList, Route
from plinto_server.colors.routes import Step
from plinto_server.conditions import drift, library
from plinto_server.conditions.library import MediumData
from plinto_server.conditions.models import Condition, Medium
from plinto_server.conditions.print_mode import PrintMode
from plinto_server.conditions.service import device_inks
from plinto_server.files import store
from plinto_server.house import service as house
from plinto_server.house.models import RuleSet
from plinto_server.jobs.carry_out import carry_out
from plinto_server.policies import documents, outputs
from plinto_server.policies.models import Document, Output
from plinto_server.warm import shelves
from plinto_server.warm.png import encode_png

LAYERED, FOR_OFFSET = "Lantern poster.ora", "Pouch wrap.jpg"
HOUSE_RULES = (
    HouseRules("Packaging", rgb="ROMM", untagged="ask", differing="keep"),
    HouseRules("Textile", rgb="opRGB", untagged="assume", differing="convert"),
    HouseRules("Web and news", rgb="sRGB", untagged="assume", differing="ask", intent="perceptual"),
)


def load(say: Callable[[str], None]) -> None:
    """Account, conditions and artwork, each only if it is not there."""
    if not User.objects.filter(username=DEMO_USER).exists():
        people.add(DEMO_USER, DEMO_PASSWORD, Role.ADMINISTRATOR, None, demo=True)
        say(f"account '{DEMO_USER}'")
    # An account from before there were roles.
    Person.objects.get_or_create(
        user=User.objects.get(username=DEMO_USER), defaults={"role": Role.ADMINISTRATOR, "demo": True}
    )
    # Painting and compiling take a core each: artwork is painted while the first chart's kernels are compiled.
    unpainted = [each for each in PAINTINGS if not Artwork.objects.filter(name=each.file_name).exists()]
    painting_all = threading.Thread(target=_paint, args=(unpainted,), daemon=True)
    painting_all.start()
    for position, shop in enumerate(CONDITIONS):
        if not Condition.objects.filter(slug=shop.slug).exists():
            say(f"condition '{shop.name}': printing, measuring and profiling its chart")
            _load_condition(shop, position)
    _load_media_and_strips(say)
    painting_all.join()
    loaded = False
    folder = store.incoming_folder()
    for painting in PAINTINGS:
        if not Artwork.objects.filter(name=painting.file_name).exists():
            say(f"artwork '{painting.file_name}'")
            path = write_painting(painting, folder)
            _open(path)
            loaded = True
    if not Artwork.objects.filter(name=LAYERED).exists():
        say(f"artwork '{LAYERED}', in layers")
        write_poster_layers(folder / LAYERED)
        _open(folder / LAYERED)
    if not Artwork.objects.filter(name=FOR_OFFSET).exists():
        say(f"artwork '{FOR_OFFSET}', CMYK for Halden Silk 150")
        _load_offset_wrap(folder / FOR_OFFSET)
    if not RuleSet.objects.exists():
        for rules in HOUSE_RULES:
            house.make(rules, None)
        say("house rules for packaging, textile and the web")
    _load_outputs(say)
    for each in DOCUMENTS:
        if not Document.objects.filter(name=each.file_name).exists():
            say(f"document '{each.file_name}'")
            path = write_document(each, folder)
            documents.take_in(store.part_of(path), each.file_name, None)
            path.unlink(missing_ok=True)
    _load_colors(say)
    if loaded:
        at_work.load(say)
        _load_batch(say)
        _load_watched(say)
        say("first pictures and figures, which compile the kernels")
        _look_once()


def _paint(paintings: list[Painting]) -> None:
    """Each is kept once it is painted, for whoever writes it."""
    for each in paintings:
        each.paint()


#: Outputs by name: the condition's slug, a ready-made policy, a delivery rule, the ticket, and notes. The last converts
#: twice, as such tickets do.
OUTPUTS: tuple[tuple[str, str, str, DeliveryRule, Ticket, str], ...] = (
    (
        "Halden press", "halden-silk-150", "Everything into the condition",
        DeliveryRule("Press PDF", most_ppi=350, least_ppi=150, compression="jpeg"),
        Ticket(("application",)), "Driver off.",
    ),
    (
        "Tern web press", "tern-news-45", "Newsprint, gray kept",
        DeliveryRule("Newspaper", most_ppi=200, least_ppi=100, compression="jpeg", jpeg_quality=85),
        Ticket(("application",)), "",
    ),
    (
        "Sateen RIP", "sateen-reactive", "Everything into the condition", DeliveryRule("RIP queue"),
        Ticket(("RIP",), drying_minutes=8), "Steam 8 minutes.",
    ),
    (
        "Office inkjet", "cotton-54t", "Office documents", DeliveryRule("Office PDF"),
        Ticket(("application", "driver")), "Proofs for the cotton table.",
    ),
)  # fmt: skip


def _load_outputs(say: Callable[[str], None]) -> None:
    """Outputs, and a second version of the first: its rows gained one for pictures without a profile."""
    if Output.objects.exists():
        return
    say("outputs with their policies")
    lead = User.objects.get(username=DEMO_USER)
    for name, slug, policy, rule, ticket, notes in OUTPUTS:
        # The textile RIP knows the season's spots by their own color.
        known = replace(READY_MADE[policy], spots=season_spots() if slug == "sateen-reactive" else ())
        plain = {
            "name": name, "condition": slug, "policy": known.to_json(), "rule": rule.to_json(),
            "ticket": ticket.to_json(),
        }  # fmt: skip
        found = outputs.make({**plain, "notes": notes}, lead)
        if name == OUTPUTS[0][0]:
            untagged = Row(
                Catches(spaces=("RGB",), objects=("image",), tagged=False),
                Refuse("Ask the sender which space it is in."),
            )
            stricter = replace(READY_MADE[policy], rows=(untagged, *READY_MADE[policy].rows))
            outputs.change(found.id, {**plain, "policy": stricter.to_json(), "notes": notes}, 1, lead)


def _load_colors(say: Callable[[str], None]) -> None:
    """The season's list, and routes through the shop's conditions."""
    if not ColorList.objects.exists():
        say(f"list '{SEASON_NAME}'")
        lists.keep(SEASON_NAME, season_list(), None)
    if not Route.objects.exists():
        profiles = dict(Condition.objects.values_list("slug", "profile_sha256"))
        for name, steps in ROUTES:
            routes.save(name, [Step(profiles[slug], intent, bpc) for slug, intent, bpc in steps], 0, None)


def _load_watched(say: Callable[[str], None]) -> None:
    """A folder by press, with a picture waiting in it and one that nobody can open."""
    if WatchedFolder.objects.exists():
        return
    say("a watched folder")
    person = User.objects.get(username=DEMO_USER)
    folder = watched.save(WatchedFolder(name="Night Garden, by press", by_subfolder=True), person)
    for slug in ("Halden Silk 150", "Cotton 54T"):
        (watched.path_of(folder) / "in" / slug).mkdir(exist_ok=True)
    write_painting(PAINTINGS[1], watched.path_of(folder) / "in" / "Halden Silk 150")
    (watched.path_of(folder) / "in" / "Cotton 54T" / "notes for the printer.txt").write_text("Please mind the moth.")


def _load_batch(say: Callable[[str], None]) -> None:
    """Two artworks for two conditions, which the workers make once they are there."""
    say("a batch of four")
    artworks = list(Artwork.objects.filter(name__in=("Lantern row.png", "Seed pouch pattern.tif")))
    conditions = list(Condition.objects.filter(slug__in=("murrow-offset-120", "brack-pouch-film")))
    person = User.objects.get(username=DEMO_USER)
    batches.ask("Night Garden, first proofs", planned(BatchRequest(artworks, conditions)), 0, person)


def _load_offset_wrap(path: Path) -> None:
    """The seed pouches' pattern as CMYK for offset with a line of pure black, as it comes from elsewhere."""
    condition = Condition.objects.get(slug="halden-silk-150")
    pattern = Artwork.objects.get(name="Seed pouch pattern.tif")
    line = engine.chain(pattern, condition, recipe_from_json(condition.recipe))
    pixels = np.ascontiguousarray(pyramid(pattern).levels[1])
    inks = line.ink_codes(pixels, PixelGrid.rows(0, len(pixels), pixels.shape[1], len(pixels)), 8)
    # A caption in black alone and a band of pure magenta: what has to stay pure on another press.
    inks[-60:] = 0
    inks[-44:-18, 40:-40:5, 3] = 255
    inks[-56:-48, :, 1] = 255
    image = Image.fromarray(inks, mode="CMYK")
    image.save(path, "JPEG", quality=95, icc_profile=line.condition.profile.raw, dpi=(150, 150))
    _open(path)


def _open(path: Path) -> None:
    """Take a file in as an upload is, and open it here and now."""
    arrival = take_in(store.part_of(path), path.name, None)
    if arrival.run is not None:
        carry_out(arrival.run.id)
        arrival.run.refresh_from_db()
        if arrival.run.state != arrival.run.State.DONE:
            raise RuntimeError(f"{path.name}: {arrival.run.message}")
    path.unlink(missing_ok=True)


def _look_once() -> None:
    """Ask for what the Bench will ask for, in 8 and in 16 bit: compiled now, nobody waits for it later."""
    condition = Condition.objects.all()[0]
    recipe = recipe_from_json(condition.recipe)
    for artwork in Artwork.objects.filter(space="RGB"):
        thumbnail(artwork)
        window = Window(0, 0, 300, 200, 0.125)
        for view in (RenderRequest("artwork"), RenderRequest(mark="gamut"), RenderRequest("coverage")):
            encode_png(engine.picture(artwork, condition, recipe, view, window, "sRGB"))
        engine.gamut_figures(artwork, condition, recipe, 3.0)
        engine.coverage_figures(artwork, condition, recipe)
        engine.trace(artwork, condition, recipe, [(10, 10)])


MEDIA = {
    "halden-silk-150": MediumData("Halden Silk 150 g/m², 700 × 1000", 700, 1.0, 0.14),
    "tern-news-45": MediumData("Tern newsprint 45 g/m², web", 1260, 12_000, 560.0),
    "cotton-54t": MediumData("Raw cotton, bleached", 1500, 50, 210.0),
    "sateen-reactive": MediumData("Velder sateen, prepared", 1450, 40, 348.0),
    "lumen-panel": MediumData("Lumen diffuser film", 1270, 30, 262.0),
    "leafprint-negative": MediumData("Clear film for negatives", 610, 30, 118.0),
}
#: What a solid of each ink takes (g/m²) and a kilogram costs, where the shop has weighed it.
INK_COSTS = {
    "halden-silk-150": {"C": (1.2, 17.0), "M": (1.2, 18.5), "Y": (1.2, 16.0), "K": (1.3, 12.0)},
    "cotton-54t": {"C": (38.0, 14.0), "M": (38.0, 15.0), "Y": (38.0, 14.0), "K": (40.0, 12.5)},
    "tern-news-45": {"C": (1.0, 6.2), "M": (1.0, 6.6), "Y": (1.0, 6.0), "K": (1.2, 3.1)},
}
#: How the shop's digital printers are set for a condition.
MODES = {
    "sateen-reactive": PrintMode("Dense", "1080 × 720 dpi", "6 passes, both ways", 99.8, None, 2.0),
    "lumen-panel": PrintMode("Backlit, twice", "1440 × 720 dpi", "16 passes, one way", 100.0, 42.0, 1.6),
    "leafprint-negative": PrintMode("Film", "1440 × 1440 dpi", "16 passes, one way", None, None, 1.4),
}
#: How far dot gain wandered from day to day, percent points; the newsprint press is out in the end.
WANDERED = {
    "halden-silk-150": (0.2, -0.4, 0.5, 0.9, 0.3, -0.2, 0.6, 0.4),
    "tern-news-45": (0.1, 0.9, 1.6, 2.8, 4.6, 7.1, 10.5, 14.5),
}
#: The season's first day; a fixed one, so that the demo looks the same every time.
_FIRST_DAY = datetime(2026, 10, 5, 7, 30, tzinfo=UTC)


def _load_media_and_strips(say: Callable[[str], None]) -> None:
    for slug, medium in MEDIA.items():
        condition = Condition.objects.get(slug=slug)
        if condition.medium is None and not Medium.objects.filter(name=medium.name).exists():
            condition.medium = library.save_medium(medium, None)
            condition.save(update_fields=["medium"])
    for slug, costs in INK_COSTS.items():
        condition = Condition.objects.get(slug=slug)
        if not condition.ink_costs:
            condition.ink_costs = {ink: asdict(InkCost(*given)) for ink, given in costs.items()}
            condition.save(update_fields=["ink_costs"])
    for slug, mode in MODES.items():
        condition = Condition.objects.get(slug=slug)
        if not condition.mode:
            condition.mode = mode.to_json()
            condition.save(update_fields=["mode"])
    for slug, days in WANDERED.items():
        condition = Condition.objects.get(slug=slug)
        if condition.strips.exists():
            continue
        say(f"control strips of '{condition.name}'")
        shop = next(each for each in CONDITIONS if each.slug == slug)
        asked = strip_chart(tuple(condition.inks))
        for day, gained in enumerate(days):
            gain = tuple(value + gained / 100 for value in shop.press.dot_gain)
            pressed = replace(shop, press=replace(shop.press, dot_gain=gain))
            data = measure(pressed, asked, seed=day + 1)
            drift.keep(condition, data, f"strip {day + 1}.txt", _FIRST_DAY + timedelta(days=7 * day))


def _load_condition(shop: ShopCondition, position: int) -> None:
    built = kept(shop)
    profile = built.read()
    report = json.loads(built.report.read_text())["characterization"]
    limits = InkLimits(float(shop.total_ink_percent))
    given = map(float, (shop.black_amount_percent, shop.black_start_percent, shop.black_max_percent))
    black = BlackPolicy(*given) if len(shop.inks) > 1 else usual_black(tuple(report["inks"]))
    known = shelves.condition_of(profile)
    with transaction.atomic():
        condition = Condition.objects.create(
            slug=shop.slug,
            name=shop.name,
            process=shop.process,
            notes=shop.notes,
            profile_sha256=store.keep_bytes(profile.raw),
            inks=report["inks"],
            device_inks=device_inks(known),
            total_ink_percent=shop.total_ink_percent,
            substrate_lab=[float(v) for v in known.model.to_absolute([[100.0, 0.0, 0.0]])[0]],
            darkest_lab=[float(v) for v in engine.darkest(known, limits, black)],
            fit_mean=report["held_out_mean"],
            fit_p95=report["held_out_p95"],
            patches=report["patches"],
            report=report,
            recipe=Recipe(ink=InkStation("rebuilt", limits, black)).to_json(),
            # What the press cannot hold, its plates do not have.
            smallest_dot_percent=shop.press.smallest_dot * 100,
            position=position,
        )
        library.record(condition, None, None)
