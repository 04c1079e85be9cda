"""What a film is like, and the tone table of a contact negative."""

from dataclasses import dataclass
from typing import Literal

from plinto_core.errors import RecipeError
from plinto_core.recipe.curve import ToneCurve

#: Screen angles by ink: the strongest three 30° apart, yellow between (ISO 12647-1, 4.2); more inks share them.
USUAL_ANGLES = {"C": 15.0, "M": 75.0, "Y": 0.0, "K": 45.0}
_SHARED_ANGLES = (15.0, 75.0, 45.0, 0.0)


@dataclass(frozen=True)
class FilmSettings:
    """`halftone` makes 1-bit film of `dpi`, with `ruling_lpi` lines an inch; without it a gray file an ink.

    `angles` names inks whose angle differs from the usual one. `negative` lets light through where ink is to be;
    `mirrored` is read through the film. `marks` adds a margin with register marks, ink name, notes and a wedge.
    """

    halftone: bool = True
    dpi: int = 1200
    ruling_lpi: float = 55.0
    shape: Literal["round", "elliptical", "line"] = "round"
    angles: tuple[tuple[str, float], ...] = ()
    mirrored: bool = False
    negative: bool = False
    marks: bool = True
    container: Literal["pdf", "tiff"] = "pdf"
    notes: str = ""

    def __post_init__(self) -> None:
        if not 300 <= self.dpi <= 2540:
            raise RecipeError(f"{self.dpi} dpi is no film; choose 300 to 2540.")
        if not (20 <= self.ruling_lpi <= 200 and self.ruling_lpi * 3 <= self.dpi):
            raise RecipeError(
                f"A ruling of {self.ruling_lpi:g} lines an inch needs 20 to 200, and a film of three times that dpi."
            )
        if self.shape not in ("round", "elliptical", "line"):
            raise RecipeError(f"The dot shape '{self.shape}' is not known; choose round, elliptical or line.")
        if self.container not in ("pdf", "tiff"):
            raise RecipeError(f"Films are written as pdf or tiff, not as '{self.container}'.")
        if len(self.notes) > 400:
            raise RecipeError("Notes on a film have at most 400 letters.")

    def angle(self, ink: str, index: int) -> float:
        """Screen angle of an ink in degrees."""
        usual = USUAL_ANGLES.get(ink, _SHARED_ANGLES[index % len(_SHARED_ANGLES)])
        return dict(self.angles).get(ink, usual)


@dataclass(frozen=True)
class ToneTable:
    """From the lightness wanted in the print (0 black … 1 paper) to the tone sent to the film, before inverting."""

    curve: ToneCurve = ToneCurve()
