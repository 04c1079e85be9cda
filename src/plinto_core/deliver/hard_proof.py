"""A hard proof: one page with the artwork, a control strip, a gray ramp, the settings, and a place to sign."""

from collections.abc import Iterator
from itertools import combinations

import numpy as np
from numpy.typing import NDArray

from plinto_core.analysis.histogram import gray_ramp_inks
from plinto_core.chain.compiled import Chain
from plinto_core.deliver.in_words import adjust_in_words, plate_in_words
from plinto_core.deliver.pdf_out import POINTS_PER_MM, Page, PlacedPicture, packed, picture_of
from plinto_core.raster.opened import Artwork, Codes

_MARGIN, _STRIP, _GAP = 14 * POINTS_PER_MM, 9 * POINTS_PER_MM, 4 * POINTS_PER_MM
_LEAST_WIDTH = 170 * POINTS_PER_MM
_LINE = 11.0
_RAMP_STEPS = 256
Inks = NDArray[np.uint8]


def control_strip(chain: Chain) -> tuple[Inks, list[str]]:
    """Ink codes (patches, inks) of 8 bit and a short name each: tints, solids, overprints, neutral grays, the most ink."""
    inks = chain.condition.model.inks
    caps, total = chain.bounds
    rows, names = [np.zeros(len(inks))], ["paper"]
    for index, ink in enumerate(inks):
        for tint in (0.25, 0.5, 0.75, 1.0):
            row = np.zeros(len(inks))
            row[index] = min(tint, caps[index])
            rows.append(row)
            names.append(f"{ink}{round(row[index] * 100)}")
    for pair in combinations(range(min(3, len(inks))), 2):
        row = np.zeros(len(inks))
        row[list(pair)] = np.minimum(caps[list(pair)], total / 2)
        rows.append(row)
        names.append("".join(inks[i] for i in pair))
    grays = chain.condition.model.to_relative(np.array([[75.0, 0, 0], [50, 0, 0], [30, 0, 0]]))
    grays[:, 1:] = 0
    rows += [*chain.inverse.inks(grays), chain.inverse.black_point_inks]
    names += ["gray", "gray", "gray", "most"]
    # Rounded down: the strip holds the limit like the picture beside it.
    return np.floor(np.array(rows) * 255 + 1e-6).astype(np.uint8), names


def gray_ramp(chain: Chain) -> Inks:
    """Ink codes (1, 256, inks) of the artwork's grays, white to black, as the line makes them, plates included."""
    # Rounded down, as everything that has to hold a limit.
    return np.asarray(np.floor(gray_ramp_inks(chain, _RAMP_STEPS) * 255 + 1e-6), np.uint8)[None]


def hard_proof_page(artwork: Artwork, chain: Chain, bands: Iterator[Codes]) -> Page:
    """The page in the condition's inks: the artwork's bands of ink codes at its size, ready to be run as one sheet."""
    ppi = artwork.resolution_ppi or 72.0
    width, height = artwork.width / ppi * 72, artwork.height / ppi * 72
    inner = max(width, _LEAST_WIDTH)
    settings = settings_in_words(chain)
    words_height = (len(settings) + 6) * _LINE
    page_width = inner + 2 * _MARGIN
    page_height = height + 2 * (_STRIP + _GAP) + words_height + 3 * _GAP + 2 * _MARGIN
    page = Page(page_width, page_height)
    top = page_height - _MARGIN
    page.text.append((_MARGIN, top - 12, 13, f"Hard proof: {artwork.name}", True))
    page.text.append(
        (
            _MARGIN,
            top - 26,
            8,
            f"{chain.condition.profile.name}, {artwork.width} × {artwork.height} at {ppi:g} ppi",
            False,
        )
    )
    bottom = top - 36 - height
    inks = chain.condition.model.inks
    box = (_MARGIN, bottom, width, height)
    page.pictures.append(PlacedPicture(packed(bands), artwork.width, artwork.height, 8, box, inks))
    y = bottom - _GAP - _STRIP
    ramp = gray_ramp(chain)
    page.pictures.append(picture_of(ramp, (_MARGIN, y, inner, _STRIP), inks))
    strip, names = control_strip(chain)
    y -= _GAP + _STRIP
    page.pictures.append(picture_of(strip[None], (_MARGIN, y, inner, _STRIP), inks))
    for index, name in enumerate(names):
        page.text.append((_MARGIN + inner * index / len(names), y - 6.5, 4.6, name, False))
    y -= 20
    for line in settings:
        page.text.append((_MARGIN, y, 7.5, line, False))
        y -= _LINE
    y -= _LINE * 2
    for index, label in enumerate(("Approved by", "Date", "Remarks")):
        left = _MARGIN + inner * index / 3
        page.lines.append((left, y, left + inner / 3 - 12, y))
        page.text.append((left, y - 9, 7, label, False))
    return page


def settings_in_words(chain: Chain) -> list[str]:
    """The recipe as lines for people."""
    recipe = chain.recipe
    aim, ink = recipe.aim, recipe.ink
    bpc = "with" if aim.compensates_black else "without"
    lines = [
        f"Source {chain.source.profile.name}. Rendering intent {aim.intent}, {bpc} black point compensation.",
        f"Condition profile {chain.condition.profile.name}, inks {' '.join(chain.condition.model.inks)}.",
    ]
    if chain.rebuilt:
        black = ink.black
        caps = ", ".join(f"{letter} {limit:g} %" for letter, limit in ink.limits.per_ink_percent)
        lines.append(
            f"Total ink {ink.limits.total_percent:g} %{'; ' + caps if caps else ''}. Black {black.amount_percent:g} % "
            f"from {black.start_percent:g} %, at most {black.maximum_percent:g} %, shape {black.shape:g}."
        )
    else:
        lines.append("Inks as profiled: the profile's own tables, limits and black.")
    if ink.without:
        lines.append(f"Left out: {', '.join(ink.without)}.")
    lines += [f"Adjust: {line}." for line in adjust_in_words(recipe)]
    lines += [f"Plate {line}." for line in plate_in_words(recipe)]
    lines.append(f"Recipe {recipe.digest[:16]}. Everything on this page is made of the inks that get written.")
    return lines
