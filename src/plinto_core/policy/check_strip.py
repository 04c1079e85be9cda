"""From paper back to the set-up: a strip of the few colors that tell set-ups apart, and how likely each made a reading.

Every hypothesis is computed down to the Lab that it would print. A reading is weighed against each as independent normal
errors of measuring and printing (Bishop, Pattern Recognition and Machine Learning, 2006, 1.5), with an end to how much one
patch may say, since single patches are misread.
"""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from plinto_core.colorimetry.difference import delta_e_2000
from plinto_core.errors import PolicyError
from plinto_core.icc.profile import Profile, parse
from plinto_core.icc.standard import rgb_profile
from plinto_core.inks.drive import convert_to_inks
from plinto_core.press.model import ForwardModel, model_from_profile

Array = NDArray[np.float64]

PATCHES = 24
#: ΔE00 by which a patch of a right set-up is off, instrument and press together; and the most that one may count.
_SIGMA, _MOST_OFF = 1.3, 8.0
#: The best has to be this much likelier than the next (natural logarithm), and fit this well, to be named.
_CERTAIN, _FITS = 4.0, 4.0


@dataclass(frozen=True)
class Hypothesis:
    """A set-up, in words, and the ICC-absolute Lab (patches, 3) that it prints of the strip."""

    name: str
    said: str
    lab: Array


@dataclass(frozen=True)
class Ranked:
    """A set-up with its share of likelihood (0…1), and the mean ΔE00 that it leaves."""

    name: str
    said: str
    likelihood: float
    delta_e: float


@dataclass(frozen=True)
class StripVerdict:
    """Set-ups, the likeliest first; `cause` is its name, empty where the strip cannot tell, which `said` explains."""

    cause: str
    said: str
    ranked: tuple[Ranked, ...]


def _candidates() -> Array:
    axis = np.linspace(0, 1, 5)
    grid = np.stack(np.meshgrid(axis, axis, axis, indexing="ij"), axis=-1).reshape(-1, 3)
    grays = np.repeat(np.linspace(0.02, 0.98, 13)[:, None], 3, axis=1)
    return np.concatenate([grid, grays])


@lru_cache(8)
def _model(raw: bytes) -> ForwardModel:
    """A model takes seconds to read off a profile, and several readings are weighed by one."""
    return model_from_profile(parse(raw))


def set_ups(
    press: Profile, others: tuple[Profile, ...], rgb: Array, source: Profile | None = None
) -> dict[str, tuple[str, Array]]:
    """How a printer may be set: by name its sentence, and the inks (n, inks) 0…1 that it then lays down.

    R, G, B values (n, 3) 0…1 are of `source` (sRGB); `others` are profiles of media that may be set by mistake. Raises
    `IccError`, and `PolicyError` for a profile of other inks.
    """
    source = source or rgb_profile("sRGB")

    def through(profile: Profile, intent: str, bpc: bool) -> Array:
        return convert_to_inks(source, profile, rgb, intent, bpc)

    once = through(press, "relative", True)
    made = {
        "once": ("converted once, relative with black point compensation", once),
        "twice": ("converted twice: what came out was taken for RGB again", converted_again(press, once, source)),
        "never": (
            "not converted: the numbers were printed as the device's own", unconverted(_model(press.raw).inks, rgb)
        ),
        "no black point compensation": (
            "converted once, without black point compensation", through(press, "relative", False)
        ),
        "perceptual": ("converted once, perceptual", through(press, "perceptual", True)),
        "absolute": ("converted once, absolute", through(press, "absolute", False)),
    }  # fmt: skip
    for other in others:
        if other.header.channels != press.header.channels:
            raise PolicyError(f"'{other.name}' has other inks than '{press.name}', and cannot stand in for it.")
        inks = through(other, "relative", True)
        made[f"profile of {other.name}"] = f"converted once, by the profile of '{other.name}'", inks
    return made


def hypotheses(
    press: Profile, others: tuple[Profile, ...], rgb: Array, source: Profile | None = None
) -> tuple[Hypothesis, ...]:
    """What each set-up prints of R, G, B values, as `set_ups` has them. Raises `IccError`, `PolicyError`."""
    source = source or rgb_profile("sRGB")
    return _hypotheses(press.raw, tuple(each.raw for each in others), rgb.tobytes(), source.raw)


@lru_cache(8)
def _hypotheses(press: bytes, others: tuple[bytes, ...], rgb: bytes, source: bytes) -> tuple[Hypothesis, ...]:
    """One strip is laid out once, and read as often as it is printed."""
    model, profile = _model(press), parse(press)
    values = np.frombuffer(rgb).reshape(-1, 3)
    made = set_ups(profile, tuple(parse(each) for each in others), values, parse(source))
    return tuple(Hypothesis(name, said, model.to_absolute(model.lab(inks))) for name, (said, inks) in made.items())


def converted_again(press: Profile, inks: Array, source: Profile | None = None) -> Array:
    """Inks (n, inks) taken for a picture: shown as RGB by their complement, as a driver expects it, and converted."""
    shown = 1 - inks if press.header.space == "RGB " else _complement(inks)
    return convert_to_inks(source or rgb_profile("sRGB"), press, np.clip(shown, 0, 1), "relative", True)


def _complement(inks: Array) -> Array:
    black = inks[:, 3:4] if inks.shape[1] > 3 else np.zeros((len(inks), 1))
    three = inks[:, :3] if inks.shape[1] >= 3 else np.repeat(inks[:, :1], 3, axis=1)
    return np.asarray((1 - three) * (1 - black))


def unconverted(letters: tuple[str, ...], rgb: Array) -> Array:
    """R, G, B (n, 3) as a device takes them without a profile: each by its complement, its common part as black."""
    inks = np.zeros((len(rgb), len(letters)))
    need = 1 - rgb
    if "K" in letters and {"C", "M", "Y"} <= set(letters):
        black = need.min(axis=1)
        inks[:, letters.index("K")] = black
        need = need - black[:, None]
    for at, pair in enumerate((("C", "-R"), ("M", "-G"), ("Y", "-B"))):
        for letter in pair:
            if letter in letters:
                inks[:, letters.index(letter)] = need[:, at]
    if len(letters) == 1:
        inks[:, 0] = 1 - rgb.mean(axis=1)
    return inks


def strip_of(press: Profile, others: tuple[Profile, ...] = ()) -> Array:
    """R, G, B values (24, 3) 0…1 that tell the set-ups of this condition apart best, white first and black last.

    Chosen one by one: each adds most to the pair of set-ups that can be told apart least so far.
    """
    rgb = _candidates()
    labs = [each.lab for each in hypotheses(press, others, rgb)]
    pairs = [(one, two) for one in range(len(labs)) for two in range(one + 1, len(labs))]
    apart = np.array([np.minimum(delta_e_2000(labs[one], labs[two]), _MOST_OFF) ** 2 for one, two in pairs])
    chosen: list[int] = []
    gained = np.zeros(len(pairs))
    for _ in range(PATCHES - 2):
        left = [at for at in range(len(rgb)) if at not in chosen]
        weight = 1 / (1 + gained)
        best = max(left, key=lambda at: float((weight * apart[:, at]).sum()))
        chosen.append(best)
        gained += apart[:, best]
    inner = rgb[chosen]
    inner = inner[np.argsort(inner.sum(axis=1))[::-1]]
    return np.concatenate([[[1.0, 1.0, 1.0]], inner, [[0.0, 0.0, 0.0]]])


def read_strip(press: Profile, others: tuple[Profile, ...], rgb: Array, lab: Array) -> StripVerdict:
    """Which set-up made a strip of values (n, 3) 0…1 that was measured as ICC-absolute Lab (n, 3).

    Raises `PolicyError` where they do not belong together.
    """
    rgb = np.ascontiguousarray(rgb, np.float64)
    if rgb.shape != lab.shape or len(rgb) < PATCHES // 2:
        raise PolicyError(f"The reading has {len(lab)} patches, and at least {PATCHES // 2} of a strip are needed.")
    made = list(hypotheses(press, others, rgb))
    made.append(
        Hypothesis("mirrored", "converted once, and mirrored: the strip reads from its other end", made[0].lab[::-1])
    )
    off = np.array([delta_e_2000(each.lab, lab) for each in made])
    score = -(np.minimum(off, _MOST_OFF) ** 2).sum(axis=1) / (2 * _SIGMA**2)
    share = np.exp(score - score.max())
    share /= share.sum()
    order = np.argsort(score)[::-1]
    ranked = tuple(Ranked(made[at].name, made[at].said, float(share[at]), float(off[at].mean())) for at in order)
    best, second = order[0], order[1]
    if off[best].mean() > _FITS:
        said = (
            f"None of the set-ups prints this: the nearest, {ranked[0].said}, is off by ΔE00 {ranked[0].delta_e:.1f}. "
            "Measure again, check the medium, or characterize anew."
        )
        return StripVerdict("", said, ranked)
    if score[best] - score[second] < _CERTAIN:
        return StripVerdict("", f"It cannot be told apart: {ranked[0].said}, or {ranked[1].said}.", ranked)
    return StripVerdict(ranked[0].name, f"The strip was {ranked[0].said}.", ranked)
