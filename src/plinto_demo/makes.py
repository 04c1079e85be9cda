"""Output profiles as other hands make them: table sizes, bit depths, connection spaces, versions and blacks that Plinto
itself never writes. What holds on the shop's conditions has to hold on these as well.

Their B2A tables are made without Plinto's inverse: the nearest of many printed colors in Oklab (Ottosson 2020), with
black as a function of the other inks.
"""

from dataclasses import dataclass
from functools import cache
from typing import Literal

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from plinto_core.colorimetry.adaptation import bradford
from plinto_core.colorimetry.lab import D50_XYZ, lab_to_xyz, xyz_to_lab
from plinto_core.colorimetry.spectra import reflectance_to_xyz
from plinto_core.icc import cmm
from plinto_core.icc.profile import Header, Profile, write
from plinto_core.icc.values import Curve, CurveLut, Description, TableLut, TagValue, Text, Xyz
from plinto_demo.inks import BLACK, CYAN, MAGENTA, YELLOW, Stock
from plinto_demo.press import Press

Array = NDArray[np.float64]

_CMYK = (CYAN, MAGENTA, YELLOW, BLACK)
_GAIN = (0.17, 0.16, 0.15, 0.18)
#: Encoded XYZ: 1.0 is 32768 of 65535 (ICC.1:2022, table 11).
_XYZ_TOP = 1 + 32767 / 32768
_LAB16_TOP = 65280 / 65535
_WIDEST = 128.0


@dataclass(frozen=True)
class Make:
    """How a profile is laid out, and the press it tells of.

    `points` a side of A2B (to 33), `bits` of both tables, `pcs`, major `version`, `back_points` a side of B2A, and how
    thick `black` prints: a thin one is lighter than the other three inks together. `trapping` is how much of a film sticks
    on another.
    """

    name: str
    points: int
    bits: Literal[8, 16]
    pcs: Literal["Lab ", "XYZ "]
    version: int
    back_points: int
    black: float
    stock: Stock
    inks_thickness: float = 1.0
    total: float = 3.4
    trapping: float = 0.93


MAKES = (
    Make("five points, 8 bit, Lab, v2", 5, 8, "Lab ", 2, 17, 1.3, Stock("Glossy", 0.93, 0.0, 0.006)),
    Make("nine points, 16 bit, XYZ, v2", 9, 16, "XYZ ", 2, 25, 1.1, Stock("Matte", 0.9, 0.02, 0.012)),
    Make("seventeen points, 16 bit, Lab, v4", 17, 16, "Lab ", 4, 33, 1.1, Stock("Coated", 0.92, 0.0, 0.008)),
    Make("thirty-three points, 16 bit, Lab, v2", 33, 16, "Lab ", 2, 33, 0.9, Stock("Uncoated", 0.88, 0.02, 0.025), 0.75),
    Make("thin black, nine points, 16 bit, Lab, v4", 9, 16, "Lab ", 4, 21, 0.45, Stock("Coated", 0.92, 0.0, 0.01)),
    Make("newsprint, eleven points, 8 bit, Lab, v4", 11, 8, "Lab ", 4, 17, 0.6, Stock("News", 0.64, 0.12, 0.024), 0.6, 2.4),
    Make(
        "kraft whose black sticks badly, seventeen points, 16 bit, XYZ, v2", 17, 16, "XYZ ", 2, 17, 1.2,
        Stock("Kraft", 0.5, 0.45, 0.02), 1.0, 2.5, 0.64,
    ),
)  # fmt: skip


def _press(make: Make) -> Press:
    t = make.inks_thickness
    return Press(_CMYK, make.stock, (1.02 * t, t, 0.98 * t, make.black), _GAIN, make.trapping, 1.8)


def _oklab(lab: Array) -> Array:
    d65 = np.array([0.95047, 1.0, 1.08883])
    lms = lab_to_xyz(lab) @ np.linalg.inv(bradford(d65)).T @ _TO_LMS.T
    return np.asarray(np.cbrt(lms) @ _TO_OKLAB.T)


_TO_LMS = np.array(
    [[0.8189330101, 0.3618667424, -0.1288597137], [0.0329845436, 0.9293118715, 0.0361456387],
     [0.0482003018, 0.2643662691, 0.6338517070]]
)  # fmt: skip
_TO_OKLAB = np.array(
    [[0.2104542553, 0.7936177850, -0.0040720468], [1.9779984951, -2.4285922050, 0.4505937099],
     [0.0259040371, 0.7827717662, -0.8086757660]]
)  # fmt: skip


@cache
def make_profile(make: Make) -> Profile:
    """The profile of a make, whole, as another hand would hand it over."""
    axis = np.linspace(0, 1, make.points)
    dots = np.stack(np.meshgrid(*[axis] * 4, indexing="ij"), axis=-1)
    press = _press(make)
    paper = reflectance_to_xyz(press.reflectance(np.zeros((1, 4))))[0]
    rows = [reflectance_to_xyz(press.reflectance(part)) for part in np.array_split(dots.reshape(-1, 4), 64)]
    relative = np.concatenate(rows) * D50_XYZ / paper
    tags: dict[str, TagValue] = {
        "desc": Description({"enUS": make.name}),
        "cprt": Text("Made up.") if make.version == 2 else Description({"enUS": "Made up."}),
        "wtpt": Xyz(paper[None]),
    }
    coded = _encode(xyz_to_lab(relative), make).reshape(*dots.shape[:-1], 3)
    a2b = _table(coded, make, to_pcs=True)
    header = Header("prtr", "CMYK", make.pcs, (make.version, 4))
    half = write(Profile(header, {**tags, "A2B0": a2b, "A2B1": a2b, "A2B2": a2b}))
    b2a = _table(_inks_back(half, make), make, to_pcs=False)
    return write(
        Profile(header, {**tags, **{f"A2B{i}": a2b for i in range(3)}, **{f"B2A{i}": b2a for i in range(3)}})
    )


def _encode(lab: Array, make: Make) -> Array:
    if make.pcs == "XYZ ":
        return np.clip(lab_to_xyz(lab) / _XYZ_TOP, 0, 1)
    if make.version == 2 and make.bits == 16:
        return np.clip((lab * [_LAB16_TOP / 100, 256 / 65535, 256 / 65535]) + [0, 32768 / 65535, 32768 / 65535], 0, 1)
    return np.asarray(np.clip((lab + np.array([0, 128, 128])) / [100, 255, 255], 0, 1))


def _back_nodes(make: Make) -> tuple[Array, Array]:
    """Lab at B2A's nodes (n**3, 3), and the input curves (3, 256)."""
    axis = np.linspace(0, 1, make.back_points)
    if make.pcs == "XYZ ":
        # Nodes evenly spaced in the cube root, or the darks would have none.
        ramp = np.linspace(0, 1, 4096)
        curve = np.interp(ramp, [0, *(np.linspace(0, 1, 400)[1:] ** 3)], np.linspace(0, 1, 400))
        xyz = np.stack(np.meshgrid(*[axis**3 * _XYZ_TOP] * 3, indexing="ij"), axis=-1).reshape(-1, 3)
        return xyz_to_lab(xyz), np.tile(curve, (3, 1))
    straight = np.tile([0.0, 1.0], (3, 1))
    grid = np.stack(np.meshgrid(axis, axis, axis, indexing="ij"), axis=-1).reshape(-1, 3)
    if make.version == 2 and make.bits == 16:
        return (grid - [0, 32768 / 65535, 32768 / 65535]) / [_LAB16_TOP / 100, 256 / 65535, 256 / 65535], straight
    return grid * [100, 255, 255] - [0, 128, 128], straight


def _inks_back(half: Profile, make: Make) -> Array:
    """Inks (n, n, n, 4) at B2A's nodes."""
    axis = np.linspace(0, 1, 41)
    colored = np.stack(np.meshgrid(axis, axis, axis, indexing="ij"), axis=-1).reshape(-1, 3)
    gray = np.clip((colored.min(axis=1) - 0.25) / 0.75, 0, 1)
    inks = np.column_stack([colored, 0.95 * gray**1.2])
    inks *= np.minimum(1, make.total / np.maximum(inks.sum(axis=1), 1e-9))[:, None]
    printed = _oklab(cmm.to_lab(half, inks))
    nodes, _ = _back_nodes(make)
    distance, found = cKDTree(printed).query(
        _oklab(np.clip(nodes, [0, -_WIDEST, -_WIDEST], [100, _WIDEST, _WIDEST])), k=6
    )
    weight = 1 / (distance + 1e-3) ** 3
    mean = (inks[found] * weight[..., None]).sum(axis=1) / weight.sum(axis=1, keepdims=True)
    return np.asarray(mean.reshape(*[make.back_points] * 3, 4))


def _table(grid: Array, make: Make, *, to_pcs: bool) -> TagValue:
    inputs, outputs = grid.ndim - 1, grid.shape[-1]
    straight = np.tile([0.0, 1.0], (4, 1))
    curves = straight if to_pcs else _back_nodes(make)[1]
    if make.version == 2:
        return TableLut(
            make.bits, np.eye(3), _as_bytes(curves[:inputs], make), grid, _as_bytes(straight[:outputs], make)
        )
    plain = (Curve(),) * 3
    return CurveLut(to_pcs, plain, grid=grid, grid_bytes=2 if make.bits == 16 else 1,
                    a_curves=(Curve(),) * (inputs if to_pcs else outputs))  # fmt: skip


def _as_bytes(curves: Array, make: Make) -> Array:
    """Tables of 8 bit have curves of exactly 256 entries."""
    if make.bits == 16:
        return curves
    where = np.linspace(0, 1, 256)
    return np.stack([np.interp(where, np.linspace(0, 1, len(curve)), curve) for curve in curves])
