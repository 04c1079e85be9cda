"""A printer that takes R, G, B and makes inks of them by itself, as sign and photo printers do."""

from dataclasses import dataclass

import numpy as np

from plinto_demo.press import Array, Press

#: How the firmware makes ink of what is wanted, and where black sets in.
_INK_GAMMA, _BLACK_FROM, _MOST_BLACK = 1.35, 0.35, 0.85


@dataclass(frozen=True)
class RgbPrinter:
    """A CMYK printer behind a driver of its own; nobody outside sees its inks."""

    inside: Press

    def reflectance(self, channels: Array) -> Array:
        """Spectra (patches, 36) of `channels` (patches, 3): how far R, G and B are turned down, 0…1."""
        wanted = np.clip(np.asarray(channels, np.float64), 0, 1)
        gray = wanted.min(axis=-1, keepdims=True)
        ramp = np.clip((gray - _BLACK_FROM) / (1 - _BLACK_FROM), 0, 1)
        black = _MOST_BLACK * ramp * ramp * (3 - 2 * ramp)
        # Black takes the place of a part of the gray that the three colors make.
        colors = (wanted - 0.45 * black * gray) ** _INK_GAMMA
        return self.inside.reflectance(np.concatenate([colors, black], axis=-1))
