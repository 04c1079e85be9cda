"""Plots for pages that print, as SVG: axes with ticks and units, each line named where it ends."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from html import escape

Point = tuple[float, float]

#: The plot's own area, and around it room for ticks, titles and names, in the drawing's units.
_WIDTH, _HEIGHT = 300.0, 150.0
_LEFT, _TOP, _RIGHT, _BELOW = 34.0, 8.0, 26.0, 30.0
_NAME_APART = 10.0
_TEXT, _RULE = "#454340", "#c9c5be"


@dataclass(frozen=True)
class Axis:
    """From `begin` to `end`, with numbers at `ticks`; all of them are told times `scale` (100: fractions as percent)."""

    title: str
    begin: float
    end: float
    ticks: Sequence[float]
    scale: float = 1.0

    def place(self, value: float) -> float:
        """Where a value lies, 0 at the begin and 1 at the end, a little beyond at most."""
        return min(max((value - self.begin) / ((self.end - self.begin) or 1.0), -0.02), 1.02)

    def told(self, value: float) -> str:
        """A tick's number."""
        return f"{value * self.scale:g}".replace("-", "\N{MINUS SIGN}")


@dataclass(frozen=True)
class DrawnLine:
    """A curve with its name and color."""

    name: str
    color: str
    points: Sequence[Point]


def plot(title: str, lines: Sequence[DrawnLine], x: Axis, y: Axis) -> str:
    """A figure of lines; what lies beyond an axis is drawn at its edge."""

    def at(point: Point) -> Point:
        return x.place(point[0]) * _WIDTH, (1 - y.place(point[1])) * _HEIGHT

    drawn = ""
    for line in lines:
        path = "L".join("{:.1f} {:.1f}".format(*at(point)) for point in line.points)
        drawn += f'<path d="M{path}" fill="none" stroke="{line.color}" stroke-width="1.6"/>'
    ends = [at(line.points[-1])[1] for line in lines]
    for line, down in zip(lines, _apart(ends), strict=True):
        where = f'x="{_WIDTH + 5:g}" y="{down + 3.5:.1f}"'
        drawn += f'<text {where} font-weight="700" fill="{line.color}">{escape(line.name)}</text>'
    return _framed(title, _axes(x, y) + drawn)


def field(title: str, rows: Sequence[Sequence[float]], shade: Callable[[float], str], x: Axis, y: Axis) -> str:
    """A figure of cells, the first row at the bottom, each filled by its `shade`; cells below 0 stay empty."""
    high, wide = _HEIGHT / len(rows), _WIDTH / len(rows[0])
    cells = "".join(
        f'<rect x="{column * wide:.2f}" y="{_HEIGHT - (row + 1) * high:.2f}" width="{wide - 0.5:.2f}" '
        f'height="{high - 0.5:.2f}" fill="{shade(value)}"/>'
        for row, values in enumerate(rows)
        for column, value in enumerate(values)
        if value >= 0
    )
    return _framed(title, _axes(x, y) + cells)


def _framed(title: str, drawn: str) -> str:
    """A drawing with its caption."""
    box = f"{-_LEFT:g} {-_TOP:g} {_LEFT + _WIDTH + _RIGHT:g} {_TOP + _HEIGHT + _BELOW:g}"
    return (
        f'<figure><svg viewBox="{box}" role="img" aria-label="{escape(title)}" font-size="9" fill="{_TEXT}">{drawn}</svg>'
        f"<figcaption>{escape(title)}</figcaption></figure>"
    )


def _axes(x: Axis, y: Axis) -> str:
    drawn = f'<path d="M0 0V{_HEIGHT:g}H{_WIDTH:g}" fill="none" stroke="{_TEXT}" stroke-width="0.8"/>'
    for tick in x.ticks:
        across = x.place(tick) * _WIDTH
        drawn += (
            f'<path d="M{across:.1f} {_HEIGHT:g}v3" stroke="{_TEXT}" stroke-width="0.8"/>'
            f'<text x="{across:.1f}" y="{_HEIGHT + 12:g}" text-anchor="middle">{x.told(tick)}</text>'
        )
    for tick in y.ticks:
        down = (1 - y.place(tick)) * _HEIGHT
        drawn += (
            f'<path d="M0 {down:.1f}H{_WIDTH:g}" stroke="{_RULE}" stroke-width="0.5"/>'
            f'<text x="-5" y="{down + 3:.1f}" text-anchor="end">{y.told(tick)}</text>'
        )
    return drawn + (
        f'<text x="{_WIDTH / 2:g}" y="{_HEIGHT + 26:g}" text-anchor="middle">{escape(x.title)}</text>'
        f'<text transform="translate({-_LEFT + 8:g} {_HEIGHT / 2:g}) rotate(-90)" text-anchor="middle">'
        f"{escape(y.title)}</text>"
    )


def _apart(ends: Sequence[float]) -> list[float]:
    """Heights near the `ends` of lines at which their names do not lie over each other."""
    placed = [0.0] * len(ends)
    below = -_TOP
    for at in sorted(range(len(ends)), key=lambda each: ends[each]):
        placed[at] = below = max(ends[at], below + _NAME_APART)
    return placed
