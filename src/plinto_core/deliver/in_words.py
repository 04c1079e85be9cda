"""A recipe's stations as lines for people."""

from plinto_core.recipe import Recipe
from plinto_core.recipe.adjustment import Adjustment
from plinto_core.recipe.film import FilmSettings


def adjust_in_words(recipe: Recipe) -> list[str]:
    """One line for everywhere and one for each region; none where nothing is adjusted."""
    lines = [] if recipe.adjust.base.is_nothing else [f"everywhere: {_adjustment(recipe.adjust.base)}"]
    for region in recipe.adjust.regions:
        parts = [] if region.adjustment.is_nothing else [_adjustment(region.adjustment)]
        if region.black != "as set":
            parts.append(f"black {region.black}{' here' if region.black == 'only' else ''}")
        where = "outside" if region.inverted else "inside"
        lines.append(f"{where} {region.name}: {', '.join(parts) or 'as everywhere'}")
    return lines


def _adjustment(given: Adjustment) -> str:
    parts = []
    curves = [("all", given.master), *((c.channel, c.curve) for c in given.channels), ("L*", given.lightness)]
    names = [name for name, curve in curves if not curve.is_straight]
    if names:
        parts.append(f"curve of {', '.join(names)}")
    if given.chroma_percent:
        parts.append(f"chroma {given.chroma_percent:+g} %")
    parts += [
        f"hues around {h.center_deg:g}° by {h.shift_deg:+g}°, {h.lightness:+g} L*, {h.chroma_percent:+g} %"
        for h in given.hues
        if h.shift_deg or h.lightness or h.chroma_percent
    ]
    return ", ".join(parts)


def plate_in_words(recipe: Recipe) -> list[str]:
    """One line a plate that is changed."""
    lines = []
    for plate in recipe.plate.plates:
        if plate.is_nothing:
            continue
        parts = []
        if not plate.curve.is_straight:
            parts.append("curve")
        if plate.gain:
            parts.append("gain taken back")
        if plate.bump_percent:
            parts.append(f"bump {plate.bump_percent:g} %")
        if plate.smallest != "keep":
            parts.append(
                f"dots under {plate.smallest_percent:g} % {'raised' if plate.smallest == 'raise' else 'cut'}"
            )
        if plate.shadow_percent < 100:
            parts.append(f"shadows opened to {plate.shadow_percent:g} %")
        lines.append(f"{plate.ink}: {', '.join(parts)}")
    return lines


def deliver_in_words(recipe: Recipe) -> str:
    """What kind of file it is."""
    deliver = recipe.deliver
    embedded = f"profile {'embedded' if deliver.embed_profile else 'stripped'}"
    if deliver.format == "tiff":
        return f"TIFF, {deliver.depth} bit, compression {deliver.compression}, {embedded}"
    if deliver.format == "jpeg":
        return f"JPEG of quality {deliver.jpeg_quality}, {embedded}"
    if deliver.format == "films":
        return f"films, {_film(deliver.film)}"
    if deliver.format == "negative":
        points = len(deliver.negative.table.curve.points)
        return f"contact negative, tone table of {points} points, {_film(deliver.negative.film)}"
    return f"{'hard proof' if deliver.format == 'hard-proof' else 'page'} as PDF, {embedded}"


def _film(film: FilmSettings) -> str:
    how = f"{film.dpi} dpi, {film.ruling_lpi:g} lines an inch, {film.shape} dots" if film.halftone else "gray"
    sense = [word for word, on in (("mirrored", film.mirrored), ("negative", film.negative)) if on]
    return ", ".join([how, *sense])
