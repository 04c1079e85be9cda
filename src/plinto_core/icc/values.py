"""What a tag of an ICC profile can hold, decoded (ICC.1:2022, clause 10; ICC.1:2001-04, clause 6.5)."""

from dataclasses import dataclass, field
from typing import Literal

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]


@dataclass(frozen=True)
class Text:
    """'text': plain ASCII, as in copyright (v2) and `targ` (characterization data)."""

    text: str


@dataclass(frozen=True)
class Description:
    """'desc' in version 2, 'mluc' in version 4: a name for people, by language and country ('enUS')."""

    by_locale: dict[str, str]

    @property
    def text(self) -> str:
        """The English text, or whichever comes first."""
        english = [text for locale, text in self.by_locale.items() if locale.startswith("en")]
        return (english or list(self.by_locale.values()) or [""])[0]


@dataclass(frozen=True)
class Xyz:
    """'XYZ ': one or more XYZ triples, shape (n, 3)."""

    values: Array


@dataclass(frozen=True)
class Numbers:
    """'sf32': signed 15.16 fixed-point numbers, shape (n,); `chad` is nine of them."""

    values: Array


@dataclass(frozen=True)
class Curve:
    """'curv': no values is the identity, one is a gamma, more are samples 0…1 at even steps."""

    values: Array = field(default_factory=lambda: np.empty(0))


@dataclass(frozen=True)
class ParametricCurve:
    """'para': function type 0…4 with 1, 3, 4, 5 or 7 parameters (ICC.1:2022, table 68)."""

    kind: int
    parameters: tuple[float, ...]


AnyCurve = Curve | ParametricCurve


@dataclass(frozen=True)
class TableLut:
    """'mft1' and 'mft2': matrix, input tables, grid, output tables, all values 0…1.

    `matrix` (3, 3); `inputs` (channels in, entries); `grid` (g, …, g, channels out); `outputs`
    (channels out, entries). Lab in 'mft2' is in the version 2 encoding even in version 4 profiles.
    """

    bits: Literal[8, 16]
    matrix: Array
    inputs: Array
    grid: Array
    outputs: Array


@dataclass(frozen=True)
class CurveLut:
    """'mAB ' (device to PCS: A, grid, M, matrix, B) and 'mBA ' (the other way round); unused parts are None.

    `grid` (g1, …, gn, channels out) 0…1; `matrix` (3, 4), the last column the offset.
    """

    to_pcs: bool
    b_curves: tuple[AnyCurve, ...]
    matrix: Array | None = None
    m_curves: tuple[AnyCurve, ...] | None = None
    grid: Array | None = None
    grid_bytes: Literal[1, 2] = 2
    a_curves: tuple[AnyCurve, ...] | None = None


@dataclass(frozen=True)
class ProfileStep:
    """One profile of a `pseq`: four-letter signatures, attributes and names."""

    manufacturer: bytes
    model: bytes
    attributes: int
    technology: bytes
    manufacturer_name: Description
    model_name: Description


@dataclass(frozen=True)
class ProfileSequence:
    """'pseq': the profiles that a device link was made of."""

    steps: tuple[ProfileStep, ...]


@dataclass(frozen=True)
class Colorants:
    """'clrt': a name for each ink and its color in 16-bit codes of the connection space, (inks, 3)."""

    names: tuple[str, ...]
    pcs_codes: Array


@dataclass(frozen=True)
class Unknown:
    """A type Plinto does not read: kept as the bytes it came in, so that nothing is lost on writing."""

    data: bytes


TagValue = (
    Text
    | Description
    | Xyz
    | Numbers
    | Curve
    | ParametricCurve
    | TableLut
    | CurveLut
    | ProfileSequence
    | Colorants
    | Unknown
)
