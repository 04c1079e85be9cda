"""Where a profile's settings start from, by process: total ink and black as each process usually bears them."""

from dataclasses import dataclass

from plinto_core.recipe.black import BlackPolicy


@dataclass(frozen=True)
class Preset:
    """A process with the most ink it bears (percent of one ink), the black that suits it, and why."""

    key: str
    name: str
    total_percent: float
    black: BlackPolicy
    why: str


PRESETS = (
    Preset("offset-coated", "Offset, coated", 320.0, BlackPolicy(45, 30, 96), "Dries on top; full shadows."),
    Preset("offset-uncoated", "Offset, uncoated", 280.0, BlackPolicy(55, 22, 94), "Dries by sinking in."),
    Preset("newsprint", "Newsprint", 240.0, BlackPolicy(70, 15, 92), "Thin, open stock: little ink, black early."),
    Preset("flexo", "Flexo, film", 300.0, BlackPolicy(60, 25, 94), "Black holds the detail that flexo plates lose."),
    Preset("screen", "Screen, fabric", 230.0, BlackPolicy(55, 22, 86), "Solid on solid floods a mesh."),
    Preset("inkjet-textile", "Inkjet, textile", 260.0, BlackPolicy(50, 25, 95), "What the fiber can fix in steam."),
    Preset("inkjet-film", "Inkjet, film", 340.0, BlackPolicy(50, 35, 98), "Backlit: density needs ink."),
    Preset(
        "inkjet-paper", "Inkjet, paper", 280.0, BlackPolicy(40, 35, 98), "Black late: its dots show in light tones."
    ),
)
