"""What was written, measured as anybody else reads it: its ink, its limits, its films."""

from pathlib import Path

from plinto_core.analysis.coverage_meter import CoverageMeter
from plinto_core.deliver.code_limits import over_the_limit
from plinto_core.deliver.formats import format_of
from plinto_core.deliver.making import Making
from plinto_core.deliver.read_back import film_digests
from plinto_core.errors import DeliveryError, RecipeError
from plinto_core.inks.drive import turned_codes


def measure(made: Making, path: Path) -> None:
    """Measure the written file into the meter of what is `made`. Raises `RecipeError` where it does not hold the limits,
    `DeliveryError` where its films are not those that were sent to it; nothing is kept then."""
    if made.film_digests != (film_digests(path) if made.film_digests else []):
        raise DeliveryError(
            f"Films of '{made.artwork.name}' were not written as they were made. Look at the disk, and run it again."
        )
    meters = [made.meter]
    if parts := format_of(made.deliver.format).read_back(path, made):
        meters = [
            CoverageMeter(len(made.inks), made.deliver.ink_depth if not beside else 8) for beside in range(len(parts))
        ]
        for meter, bands in zip(meters, parts, strict=True):
            for band in bands:
                meter.add(turned_codes(band) if made.rgb else band)
        made.meter = meters[0]
    for meter in () if made.negative else meters:
        if not made.limits.hold(meter):
            raise RecipeError(over_the_limit(meter, made.limits, made.inks))
