"""The season's colors with four spots, and two routes that they are followed along."""

from plinto_core.recipe import Intent

SEASON_NAME = "Season, Night Garden"
#: Twelve colors as L*, a*, b* (D50); four of them are mixed as spot inks.
SEASON = """\
Night 10 2 -17
Petal, spot 56 76 -16
Bloom blue, spot 45 28 -72
Ember, spot 69 38 63
Lantern red 55 58 42
Moth dust 76 8 27
Dusk 45 19 -20
Reed 62 -27 46
Paper 95 0 2
Lake green, spot 39 -34 9
Wing gray 58 0 2
Seed husk 43 18 30
"""

#: Routes by name: steps as a condition's slug with intent and black point compensation.
ROUTES: tuple[tuple[str, tuple[tuple[str, Intent, bool], ...]], ...] = (
    ("Press through proofer", (("tern-news-45", "relative", True), ("halden-silk-150", "absolute", False))),
    ("Six-ink look", (("sateen-reactive", "perceptual", True),)),
)
