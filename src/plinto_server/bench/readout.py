"""A trace as the screen shows it: one row a point."""

from ninja import Schema

from plinto_core.inks.drive import driving_codes
from plinto_core.recipe import Recipe
from plinto_server.artworks.models import Artwork
from plinto_server.bench import engine
from plinto_server.conditions.models import Condition


class Readout(Schema):
    """One pixel at every station. Swatches are sRGB, for the screen only; inks in percent.

    `driving` are R, G, B of 0 to 255 for a printer driven by them. `out_of_reach` says in words what no adjustment
    can give: a print brighter or stronger than its inks.
    """

    x: int
    y: int
    source: list[int]
    source_lab: list[float]
    adjusted: list[int]
    adjusted_lab: list[float]
    want_lab: list[float]
    aim_lab: list[float]
    inks_percent: dict[str, float]
    sum_percent: float
    driving: dict[str, float] | None
    print_lab: list[float]
    delta_e: float
    swatch: str
    print_swatch: str
    out_of_reach: str


def readouts(artwork: Artwork, condition: Condition, recipe: Recipe, points: list[tuple[int, int]]) -> list[Readout]:
    """Rows for pixels (x, y), in their order."""
    if not points:
        return []
    found, codes = engine.trace(artwork, condition, recipe, points)
    shown = engine.swatches([each.source_lab[0] for each in found] + [each.print_lab[0] for each in found])
    top = 2**artwork.depth - 1
    return [
        Readout(
            x=x,
            y=y,
            source=[int(v) for v in codes[i]],
            source_lab=row.source_lab[0].tolist(),
            adjusted=[round(float(v) * top) for v in row.adjusted[0]],
            adjusted_lab=row.adjusted_lab[0].tolist(),
            want_lab=row.want_lab[0].tolist(),
            aim_lab=row.aim_lab[0].tolist(),
            inks_percent={ink: float(row.inks[0, k]) * 100 for k, ink in enumerate(condition.inks)},
            driving=driving_codes(condition.inks, row.inks[0]),
            sum_percent=float(row.inks[0].sum()) * 100,
            print_lab=row.print_lab[0].tolist(),
            delta_e=float(row.delta_e[0]),
            swatch=shown[i],
            print_swatch=shown[len(found) + i],
            out_of_reach=row.out_of_reach,
        )
        for i, ((x, y), row) in enumerate(zip(points, found, strict=True))
    ]
