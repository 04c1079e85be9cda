"""Quillmere's printing conditions: presses, stocks, limits, and what their charts measure."""

from dataclasses import dataclass

import numpy as np

from plinto_core.icc.profile import Profile
from plinto_core.press.chart import characterization_chart
from plinto_core.press.measurements import Measurements
from plinto_core.press.model import ForwardModel
from plinto_core.separation.black import BlackPolicy
from plinto_core.separation.build_profile import BuildSettings, build_output_profile
from plinto_core.separation.inverse import InkLimits
from plinto_demo.inks import BLACK, CYAN, MAGENTA, YELLOW, Stock
from plinto_demo.press import Instrument, Press

CMYK = (CYAN, MAGENTA, YELLOW, BLACK)


@dataclass(frozen=True)
class ShopCondition:
    """A condition of the shop: how it prints, and what the house allows on it."""

    slug: str
    name: str
    process: str
    press: Press
    total_ink_percent: int
    black_amount_percent: int
    black_start_percent: int
    black_max_percent: int
    seed: int
    notes: str


CONDITIONS = (
    ShopCondition(
        "cotton-54t",
        "Cotton 54T",
        "Screen print on cotton, 54 threads/cm, water-based inks",
        Press(
            CMYK, Stock("Raw cotton, bleached", 0.82, 0.06, 0.022),
            (0.66, 0.62, 0.7, 0.62), (0.24, 0.24, 0.22, 0.26), 0.85, 1.5, 54.0,
        ),
        230, 55, 22, 86, 5401,
        "Solid on solid floods the mesh: keep to the limit, flash after the second screen.",
    ),
    ShopCondition(
        "halden-silk-150",
        "Halden Silk 150",
        "Sheetfed offset, silk coated 150 g/m²",
        Press(
            CMYK, Stock("Halden Silk", 0.92, 0.0, 0.008), (1.05, 1.0, 1.0, 1.1), (0.16, 0.16, 0.15, 0.17), 0.93, 1.8,
        ),
        320, 45, 30, 96, 15001,
        "ISO 12647-2 practice, 175 lpi, wet on wet.",
    ),
    ShopCondition(
        "tern-news-45",
        "Tern News 45",
        "Coldset newsprint 45 g/m²",
        Press(
            CMYK, Stock("Tern newsprint", 0.63, 0.13, 0.024),
            (0.62, 0.58, 0.62, 0.58), (0.25, 0.25, 0.24, 0.27), 0.82, 1.7,
        ),
        240, 70, 15, 92, 4501,
        "ISO 12647-3 practice: dries by penetration, so the total stays low.",
    ),
)  # fmt: skip


def shop_black(shop: ShopCondition) -> BlackPolicy:
    """The black that the house starts from in this condition."""
    return BlackPolicy(
        float(shop.black_amount_percent), float(shop.black_start_percent), float(shop.black_max_percent)
    )


def shop_profile(shop: ShopCondition, model: ForwardModel, data: Measurements) -> Profile:
    """The condition's ICC profile, its measurements inside."""
    limits = InkLimits(float(shop.total_ink_percent))
    return build_output_profile(model, BuildSettings(shop.name, limits, shop_black(shop)), data.to_cgats())


def measure_chart(condition: ShopCondition, patches: int = 1600) -> Measurements:
    """Print the chart on the simulated press and measure it with the simulated instrument."""
    dots = characterization_chart(len(condition.press.inks), patches)
    spectra, xyz = Instrument(condition.seed).measure(condition.press.reflectance(dots))
    return Measurements(
        inks=tuple(ink.name for ink in condition.press.inks),
        device=dots,
        xyz=np.asarray(xyz),
        spectra=spectra,
        title=condition.name,
    )
