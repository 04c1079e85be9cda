"""The forward model: ink values to Lab on the substrate, as a dense grid over ink space."""

import hashlib
from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike, NDArray

from plinto_core.colorimetry.lab import D50_XYZ, lab_to_xyz, xyz_to_lab
from plinto_core.computed_once import computed_once
from plinto_core.cores import on_its_cores
from plinto_core.errors import IccError
from plinto_core.icc.profile import Profile
from plinto_core.inks.drive import inks_to_lab
from plinto_core.inks.names import DRIVEN_BY_RGB, name_of
from plinto_core.pipeline.space import told_inks
from plinto_core.ready_kernels import ReadyKernel

Array = NDArray[np.float64]
_four_inks_to_colors = ReadyKernel("plinto_core.press.code_kernels", "four_inks_to_colors")

#: Grid points along each ink, by the number of inks: about 100,000 nodes, for eight more.
GRID_POINTS = {1: 255, 2: 129, 3: 41, 4: 17, 5: 10, 6: 7, 7: 5, 8: 5}


@dataclass(frozen=True)
class ForwardModel:
    """What inks look like on a substrate.

    `nodes` (points**inks, 3) float32 is media-relative Lab (D50) at the grid's nodes, the first ink varying
    slowest; `white_xyz` (3,) is the bare substrate's ICC-absolute XYZ (D50, Y of the perfect diffuser 1);
    `names` are the inks' own, where they have any.
    """

    inks: tuple[str, ...]
    points: int
    nodes: NDArray[np.float32]
    white_xyz: Array
    names: tuple[str, ...] = ()

    def name_of(self, letter: str) -> str:
        """An ink's name by its letter, as data or profile have it."""
        return self.names[self.inks.index(letter)] if self.names and letter in self.inks else name_of(letter)

    @computed_once
    def digest(self) -> str:
        """SHA-256 of everything the model says, hexadecimal."""
        content = hashlib.sha256(repr((self.inks, self.points)).encode())
        content.update(np.ascontiguousarray(self.nodes).tobytes())
        content.update(self.white_xyz.tobytes())
        return content.hexdigest()

    @property
    def black_index(self) -> int | None:
        """Which ink is black; None where there is none."""
        return self.inks.index("K") if "K" in self.inks else None

    def lab(self, values: ArrayLike) -> Array:
        """Ink values (..., inks) 0…1 to media-relative Lab (..., 3)."""
        from plinto_core.press.grid_kernels import evaluate_rows

        values = np.asarray(values, np.float64)
        out = np.empty((*values.shape[:-1], 3))
        flat = np.ascontiguousarray(values.reshape(-1, len(self.inks)))
        on_its_cores(evaluate_rows, len(flat), self.nodes, self.points, len(self.inks), flat, out.reshape(-1, 3))
        return out

    def lab_of_codes(self, codes: NDArray[np.integer]) -> NDArray[np.float32]:
        """Ink codes (..., inks) of 8 or 16 bit to media-relative Lab (..., 3) float32."""
        return self.interpolate_codes(codes, self.nodes)

    def interpolate_codes(self, codes: NDArray[np.integer], nodes: NDArray[np.float32]) -> NDArray[np.float32]:
        """Ink codes (..., inks) through any `nodes` (points**inks, m) on this model's grid, to (..., m)."""
        out = np.empty((*codes.shape[:-1], nodes.shape[1]), np.float32)
        self._interpolate(codes, nodes, out)
        return out

    def screen_codes(self, codes: NDArray[np.integer], nodes: NDArray[np.float32]) -> NDArray[np.uint8]:
        """As `interpolate_codes` for `nodes` (points**inks, 3) of 0…255, rounded to whole numbers."""
        if len(self.inks) != 4:
            return np.asarray(self.interpolate_codes(codes, nodes) + np.float32(0.5), np.uint8)
        out = np.empty((*codes.shape[:-1], 3), np.uint8)
        self._interpolate(codes, nodes, out)
        return out

    def _interpolate(
        self, codes: NDArray[np.integer], nodes: NDArray[np.float32], out: NDArray[np.float32] | NDArray[np.uint8]
    ) -> None:
        flat = np.ascontiguousarray(codes).reshape(-1, len(self.inks))
        top, values = int(np.iinfo(codes.dtype).max), nodes.shape[1]
        if len(self.inks) == 4 and values == 3:
            padded = np.zeros((len(nodes), 4), np.float32)
            padded[:, :3] = nodes
            _four_inks_to_colors(len(flat), flat, top, self.points, padded, out.reshape(-1, values))
            return
        from plinto_core.press.grid_kernels import evaluate_codes

        evaluate_codes(nodes, self.points, len(self.inks), flat, top, out.reshape(-1, values))

    def to_absolute(self, lab: ArrayLike) -> Array:
        """Media-relative Lab to ICC-absolute Lab (ICC.1:2022, 6.3.2.2)."""
        return xyz_to_lab(lab_to_xyz(lab) * self.white_xyz / D50_XYZ)

    def to_relative(self, lab_absolute: ArrayLike) -> Array:
        """ICC-absolute Lab to media-relative Lab."""
        return xyz_to_lab(lab_to_xyz(lab_absolute) * D50_XYZ / self.white_xyz)


def ink_grid(inks: int) -> Array:
    """The grid's node positions, shape (points**inks, inks), 0…1, first ink slowest."""
    axis = np.linspace(0, 1, GRID_POINTS[inks])
    return np.stack(np.meshgrid(*[axis] * inks, indexing="ij"), axis=-1).reshape(-1, inks)


def tells_of_inks(profile: Profile) -> bool:
    """Whether a profile says what a press or printer makes of its values: an output profile, or a compact one of inks that
    goes by another class, with the way from inks to colors only."""
    header = profile.header
    inks = header.space in ("CMYK", "CMY ") or header.space.endswith("CLR")
    return bool({"A2B0", "A2B1"} & profile.tags.keys()) and (
        header.profile_class == "prtr" or (inks and header.profile_class in ("scnr", "mntr", "spac"))
    )


def has_way_back(profile: Profile) -> bool:
    """Whether there are tables from colors to inks, so that it can be used as profiled."""
    return bool({"B2A0", "B2A1"} & profile.tags.keys())


def must_have_way_back(profile: Profile) -> None:
    """Raises `IccError` for a profile with the way from inks to colors only."""
    if not has_way_back(profile):
        raise IccError(
            f"'{profile.name}' only tells which colors its inks make, not which inks make a color: its own tables "
            "cannot be judged or used as profiled. Choose rebuilt, or build a profile from it."
        )


def model_from_profile(profile: Profile) -> ForwardModel:
    """The model that a profile's A2B tables describe. Raises `IccError` for profiles that tell of no inks."""
    header = profile.header
    if not tells_of_inks(profile):
        raise IccError(f"'{profile.name}' is no output profile with A2B tables; choose a printer's or press's")
    if not 1 <= header.channels <= 8:
        raise IccError(f"'{profile.name}' has {header.channels} inks; Plinto takes 1 to 8")
    white = profile.white()
    letters, names = told_inks(header.space, profile.tags.get("clrt"))
    if header.space == "RGB ":
        letters, names = DRIVEN_BY_RGB, tuple("" for _ in names)
    lab = inks_to_lab(profile, ink_grid(header.channels))
    return ForwardModel(
        letters,
        GRID_POINTS[header.channels],
        lab.astype(np.float32),
        white.values[0] if white else D50_XYZ,
        names if all(names) else (),
    )
