"""Fields of a table's first line as people write them, and as CGATS.17 does."""

import re
from itertools import pairwise

from plinto_core.inks.names import NAMES

GRAY_FIELD = "GRAY"
_LETTERS = {name.lower(): letter for letter, name in NAMES.items()}
#: From 300 to 899 nm.
_WAVELENGTH, _LEAST_WAVELENGTHS = re.compile(r"^([3-8]\d\d)(?:\.0+)?\s*(?:nm)?$"), 10
#: What stands for three channels together, in the order in which they are looked for.
_THREE = (
    (("x", "y", "z"), "XYZ", "XYZ"), (("r", "g", "b"), "RGB", "RGB"), (("l", "a", "b"), "LAB", "LAB"),
    (("red", "green", "blue"), "RGB", "RGB"), (("l", "chroma", "hue"), "LAB", "LCH"), (("l", "c", "hue"), "LAB", "LCH"),
)  # fmt: skip
#: Chroma and hue as they are written; a C without a star is an ink's too.
_POLAR = dict.fromkeys(("c*", "c*ab", "chroma"), "chroma") | dict.fromkeys(("h", "h*", "h°", "hab", "hue"), "hue")


def spelled_out(fields: list[str]) -> list[str]:
    """The fields of a table where some name channels as people do, 'C' or 'Cyan %', 'R', 'L', as CGATS does.

    Inks are taken for such where cyan, magenta and yellow are among them, or black is all there is.

    >>> spelled_out(["Name", "Cyan %", "Magenta %", "Yellow %", "Black %", "L", "a", "b"])
    ['Name', 'CMYK_C', 'CMYK_M', 'CMYK_Y', 'CMYK_K', 'LAB_L', 'LAB_A', 'LAB_B']
    >>> spelled_out(["C", "M", "Y", "K", "L*", "C*", "h"])
    ['CMYK_C', 'CMYK_M', 'CMYK_Y', 'CMYK_K', 'LAB_L', 'LAB_C', 'LAB_H']
    >>> spelled_out(["R", "G", "B", "L", "a", "b"])
    ['RGB_R', 'RGB_G', 'RGB_B', 'LAB_L', 'LAB_A', 'LAB_B']
    """
    bare = [_POLAR.get(field.strip().lower(), field.strip(" %()[]*").lower()) for field in fields]
    made = [GRAY_FIELD if word in ("gray", "grey") else field for field, word in zip(fields, bare, strict=True)]
    taken = _wavelengths(bare, made)
    for words, family, letters in _THREE:
        places = _places(bare, words)
        if min(places) >= 0 and not taken & set(places):
            taken |= set(places)
            for place, letter in zip(places, letters, strict=True):
                made[place] = f"{family}_{letter}"
    inks = {
        place: _LETTERS.get(word) or word.upper()
        for place, word in enumerate(bare)
        if place not in taken and (word in _LETTERS or word.upper() in NAMES)
    }
    named = list(inks.values())
    if len(set(named)) < len(named) or not (set("CMY") <= set(named) or named == ["K"]):
        return made
    family = {4: "CMYK", 3: "CMY"}.get(len(named), "") if set(named) <= set("CMYK") else ""
    for place, letter in inks.items():
        made[place] = f"{family or f'{len(named)}CLR'}_{letter}"
    return made


def _places(bare: list[str], words: tuple[str, str, str]) -> list[int]:
    """Where each of three words is, -1 for none: the only one of its kind, or in 'R, G, B, L, a, b' that of its three."""
    together = [at for at in range(len(bare) - 2) if tuple(bare[at : at + 3]) == words]
    if len(together) == 1:
        return list(range(together[0], together[0] + 3))
    return [bare.index(word) if bare.count(word) == 1 else -1 for word in words]


def _wavelengths(bare: list[str], made: list[str]) -> set[int]:
    """Places of columns that are called by their wavelength alone, '380' or '380 nm', which get CGATS' name for it; none
    where fewer than ten rise one after another, for then they are numbers."""
    found = {place: int(match[1]) for place, word in enumerate(bare) if (match := _WAVELENGTH.match(word))}
    rising = list(found.values())
    if len(rising) < _LEAST_WAVELENGTHS or any(one >= other for one, other in pairwise(rising)):
        return set()
    for place, nm in found.items():
        made[place] = f"SPECTRAL_NM{nm}"
    return set(found)
