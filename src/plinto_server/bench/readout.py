"""A trace as the screen shows it: one row a point."""

from ninja import Schema

from plinto_core.recipe import Recipe
from plinto_server.artworks.models import Artwork
from plinto_server.bench import engine
from plinto_server.conditions.models import Condition


class Readout(Schema):
    """One pixel at every station. `swatch` and `print_swatch` are sRGB, for the screen only; inks in percent."""

    x: int
    y: int
    source: list[int]
    source_lab: list[float]
    want_lab: list[float]
    aim_lab: list[float]
    inks_percent: dict[str, float]
    sum_percent: float
    print_lab: list[float]
    delta_e: float
    swatch: str
    print_swatch: str


def readouts(artwork: Artwork, condition: Condition, recipe: Recipe, points: list[tuple[int, int]]) -> list[Readout]:
    """Rows for pixels (x, y), in their order."""
    if not points:
        return []
    found, codes = engine.trace(artwork, condition, recipe, points)
    shown = engine.swatches(found)
    return [
        Readout(
            x=x,
            y=y,
            source=[int(v) for v in codes[i]],
            source_lab=found.source_lab[i].tolist(),
            want_lab=found.want_lab[i].tolist(),
            aim_lab=found.aim_lab[i].tolist(),
            inks_percent={ink: float(found.inks[i, k]) * 100 for k, ink in enumerate(condition.inks)},
            sum_percent=float(found.inks[i].sum()) * 100,
            print_lab=found.print_lab[i].tolist(),
            delta_e=float(found.delta_e[i]),
            swatch=shown[i][0],
            print_swatch=shown[i][1],
        )
        for i, (x, y) in enumerate(points)
    ]
