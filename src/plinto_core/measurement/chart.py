"""Patch layouts for characterization: ramps, overprints, grays and an even fill of the ink space."""

from itertools import combinations, product

import numpy as np
from numpy.typing import NDArray

from plinto_core.inks.drive import driven_by_rgb
from plinto_core.inks.names import NAMES
from plinto_core.measurement.measurements import colorants, device_columns, device_fields

Array = NDArray[np.float64]
#: Patches that correct a condition from numbers.
_CORRECTING = 24

_RAMP_STEPS = (0.0, 0.02, 0.04, 0.07, 0.1, 0.15, 0.2, 0.3, 0.4, 0.5, 0.6, 0.7, 0.8, 0.85, 0.9, 0.95, 1.0)


def characterization_chart(inks: int, patches: int, total_ink: float = 8.0) -> Array:
    """Ink values (patches, inks) 0…1 for a chart, without repeats, in a fixed order.

    Ramps of every ink, all overprints of solids and of halves, gray steps with and without the last ink
    (black), then a scrambled Halton sequence. Patches above `total_ink` (fraction) are pulled back to it.
    """
    rows: list[Array] = [np.zeros(inks)]
    for ink in range(inks):
        for step in _RAMP_STEPS[1:]:
            rows.append(np.eye(inks)[ink] * step)
    for levels in ((0.0, 1.0), (0.0, 0.5)):
        rows += [np.array(corner) for corner in product(levels, repeat=inks)]
    if inks == 3:
        # Grays, as C, M and Y make them and as R, G and B do.
        for gray in np.linspace(0.05, 1, 20):
            rows += [gray * np.array([1.0, 0.82, 0.8]), np.full(3, gray)]
    if inks == 1:
        rows += [np.array([step]) for step in np.linspace(0, 1, max(patches, 21))]
    if inks >= 4:
        for gray in np.linspace(0.05, 1, 20):
            for black in (0.0, 0.35, 0.7, 1.0):
                row = np.zeros(inks)
                row[:3] = gray * np.array([1.0, 0.82, 0.8])
                row[3] = black
                rows.append(row)
        # A coarse factorial keeps the fit honest inside the cells that pictures use most.
        steps = (0.0, 0.4, 0.7, 1.0)
        for corner in product(steps, steps, steps, (0.0, 0.25, 0.6)):
            rows.append(np.array([*corner, *([0.0] * (inks - 4))]))
    # Here, for it takes half a second that no other command should wait for.
    from scipy.stats import qmc

    fill = qmc.Halton(inks, scramble=True, rng=np.random.default_rng(54)).random(4 * patches)
    rows += list(np.round(fill, 3))
    layout = np.array(rows)
    layout *= np.minimum(1, total_ink / np.maximum(layout.sum(axis=1, keepdims=True), 1e-9))
    _, first = np.unique(layout.round(4), axis=0, return_index=True)
    return np.asarray(layout[np.sort(first)][:patches].round(4))


def ramp_chart(inks: int, steps: int = 21) -> Array:
    """Ink values (patches, inks) 0…1 of the bare substrate and an even ramp of each ink alone."""
    rows = [np.zeros((1, inks))]
    for ink in range(inks):
        rows.append(np.eye(inks)[ink] * np.linspace(0, 1, steps)[1:, None])
    return np.concatenate(rows)


def strip_chart(inks: tuple[str, ...]) -> Array:
    """A control strip, ink values (patches, inks) 0…1: bare substrate, solids, quarter tones, overprints, gray."""
    count = len(inks)
    rows = [np.zeros(count)]
    for ink in range(count):
        rows += [np.eye(count)[ink] * step for step in (1.0, 0.75, 0.5, 0.25)]
    process = [at for at, ink in enumerate(inks) if ink in "CMY"]
    for first, second in combinations(process, 2):
        pair = np.zeros(count)
        pair[[first, second]] = 1
        rows.append(pair)
    if driven_by_rgb(inks):
        rows += [np.full(count, level) for level in (0.25, 0.5, 0.75, 1.0)]
    if len(process) == 3:
        for level in (0.25, 0.5, 0.75):
            gray = np.zeros(count)
            gray[process] = level * np.array([1.0, 0.8, 0.8])
            rows.append(gray)
    return np.array(rows)


def correction_chart(inks: tuple[str, ...]) -> Array:
    """Twenty-four patches, ink values 0…1 (fewer inks: fewer), that tell most of a press that is known from numbers: paper,
    solids and overprints, half and quarter tones, and grays of all inks together."""
    count = len(inks)
    full = np.array(sorted(product((0.0, 1.0), repeat=count), key=lambda lies: (sum(lies), lies[::-1])))
    tones = np.vstack([np.eye(count) * 0.5, np.full((2, count), 0.5) * [[1.0], [0.5]], np.eye(count) * 0.25])
    rows = np.vstack([full[: max(_CORRECTING - len(tones), count + 1)], tones])
    return np.asarray(rows[: max(_CORRECTING, count + 2)])


def chart_text(layout: Array, letters: tuple[str, ...]) -> str:
    """The layout (patches, inks) as CGATS text in percent, or in R, G, B, to be printed and measured."""
    names = tuple(NAMES.get(letter, letter) for letter in letters)
    fields = device_fields(letters)
    rows = [f"{i} " + " ".join(f"{v:.2f}" for v in row) for i, row in enumerate(device_columns(layout, letters), 1)]
    return "\n".join(
        ["CGATS.17", 'ORIGINATOR "Plinto"', *colorants(names), f"NUMBER_OF_FIELDS {len(fields) + 1}",
         "BEGIN_DATA_FORMAT", "SAMPLE_ID " + " ".join(fields), "END_DATA_FORMAT", f"NUMBER_OF_SETS {len(layout)}",
         "BEGIN_DATA", *rows, "END_DATA", ""]
    )  # fmt: skip
