"""Names of inks, and the letters that stand for them in fields, tables and on the screen."""

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
    """A letter for each ink: by its name or letter; by its place where a name says nothing or repeats another."""
    usual = ink_letters(len(names))
    found = [name if name in NAMES else _LETTERS.get(name.strip().lower(), "") for name in names]
    if not any(found):
        return usual
    return tuple(letter if letter and letter not in found[:at] else str(at + 1) for at, letter in enumerate(found))


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
