"""Names of inks, and the letters that stand for them in fields, tables and on the screen."""

import re
from collections.abc import Sequence

NAMES = {
    "C": "Cyan", "M": "Magenta", "Y": "Yellow", "K": "Black", "O": "Orange", "G": "Green", "V": "Violet",
    "B": "Blue", "R": "Red", "W": "White", "c": "Light cyan", "m": "Light magenta", "y": "Light yellow", "k": "Light black",
}  # fmt: skip
#: Channels of a printer driven by RGB, turned round (see `press.drive`): each takes light of that color away.
DRIVEN_BY_RGB = ("-R", "-G", "-B")
NAMES |= {"-R": "RGB red", "-G": "RGB green", "-B": "RGB blue"}
_USUAL = {1: ("K",), 3: ("C", "M", "Y"), 4: ("C", "M", "Y", "K")}
_LETTERS = {name.lower(): letter for letter, name in NAMES.items()}


def ink_letters(inks: int) -> tuple[str, ...]:
    """Letters for `inks` device channels that nobody named: C, M, Y, K, and numbers for those beyond."""
    return _USUAL.get(inks, (*_USUAL[4], *(str(i) for i in range(5, inks + 1)))[:inks])


def letters_of(names: Sequence[str]) -> tuple[str, ...]:
    """A letter for each ink: by its name or letter; its initial where that stands for no other ink ("Pink" is P, but
    "Coral" is no C); by its place where neither tells it. Inks that are only numbered are the usual ones.

    >>> letters_of(["Black", "Pink", "Coral 12"]), letters_of(["Ink 1", "Ink 2", "Ink 3"])
    (('K', 'P', '3'), ('C', 'M', 'Y'))
    """
    if all(_NUMBERED.fullmatch(name) for name in names):
        return ink_letters(len(names))
    initials = [_initial(name) for name in names]
    known = [name if name in NAMES else _LETTERS.get(name.strip().lower(), "") for name in names]
    # An initial tells inks apart, or is none.
    found = [
        letter or (initial if initials.count(initial) == 1 else "")
        for letter, initial in zip(known, initials, strict=True)
    ]
    return tuple(letter if letter and letter not in found[:at] else str(at + 1) for at, letter in enumerate(found))


#: Names that say nothing of an ink.
_NUMBERED = re.compile(r"\s*(ink|channel|colorant|color)?[ _-]*\d*\s*", re.IGNORECASE)


def _initial(name: str) -> str:
    """The first letter of a name, if it is a capital from A to Z that no usual ink has; else nothing."""
    first = name.strip()[:1]
    return first if "A" <= first <= "Z" and first not in NAMES else ""


def name_of(letter: str) -> str:
    """The name that a letter stands for; "Ink 5" for an ink that only has its place."""
    return NAMES.get(letter, f"Ink {letter}")


def color_space_of(letters: Sequence[str]) -> str:
    """The data color space signature of a profile of these inks (ICC.1:2022, table 19).

    CMYK and CMY are these inks in this order, and black alone is gray. Any other set says how many inks it has, and names
    them in a `clrt` tag (clause 9.2.14). A printer driven by RGB is RGB.
    """
    usual = {"CMYK": "CMYK", "CMY": "CMY ", "K": "GRAY", "-R-G-B": "RGB "}
    # There is no signature for one ink that is not black: gray with a name.
    return usual.get("".join(letters), f"{len(letters):X}CLR" if len(letters) > 1 else "GRAY")


def light_twin(letter: str) -> str:
    """The letter of an ink's light version: small."""
    return letter.lower()
