"""The season's artwork, painted by program: Velderwyn Night Garden."""

import io
import zipfile
from collections.abc import Callable
from dataclasses import dataclass
from functools import cache
from pathlib import Path
from typing import Any

import numpy as np
import tifffile
from numpy.typing import NDArray

from plinto_core.colorimetry.lab import lch_to_lab
from plinto_core.files import write_whole
from plinto_core.icc import cmm
from plinto_core.icc.standard import rgb_profile
from plinto_demo.canvas import Canvas, Field, cloud, edge, flower, leaf, mix
from plinto_demo.kept_folder import kept_folder

SIZE = (2400, 1600)
RESOLUTION_PPI = 300


@dataclass(frozen=True)
class Painting:
    """A file of the shop: its name, the space it is painted in, and how."""

    file_name: str
    space: str
    paint: Callable[[], NDArray[np.uint8] | NDArray[np.uint16]]


def painted_once(paint: Callable[[], NDArray[Any]]) -> Callable[[], NDArray[Any]]:
    """Artwork and documents show the same pictures, each of which takes seconds to paint: kept, not to be written on."""

    @cache
    def kept() -> NDArray[Any]:
        path = kept_folder() / f"{paint.__name__}.npy"
        if not path.exists():
            write_whole(path, lambda part: _save(part, paint()))
        return np.asarray(np.load(path, mmap_mode="r"))

    return kept


def _save(path: Path, pixels: NDArray[Any]) -> None:
    with path.open("wb") as file:
        np.save(file, pixels)


def _encode(canvas: Canvas, gamma: float, top: int) -> NDArray[np.uint16]:
    light = np.clip(canvas.rgb, 0, 1)
    return np.asarray(np.rint(light ** np.float32(1 / gamma) * top), np.uint16)


@painted_once
def night_moth() -> NDArray[np.uint16]:
    """A moth over night flowers: deep blues, hot magenta, greens beyond print."""
    canvas = Canvas(*SIZE)
    mist = cloud((SIZE[1], SIZE[0]), 3, 11)
    canvas.rgb[:] = mix((0.001, 0.004, 0.03), (0.012, 0.16, 0.2), canvas.y**1.3 * 0.9 + 0.25 * (mist - 0.5))
    canvas.rgb += mix((0, 0, 0), (0.16, 0.12, 0.19), np.clip(canvas.x - 0.85, 0, 1) * (1.1 - canvas.y) * (0.6 + mist))
    random = np.random.default_rng(3)
    for _ in range(150):
        sx, sy, size = random.random() * 1.5, random.random() ** 1.4 * 0.9, random.random() ** 3 * 0.0022 + 0.0009
        canvas.glow(sx, sy, size, (0.9, 0.92, 1.0))
    canvas.glow(1.17, 0.2, 0.14, (0.05, 0.05, 0.075))
    for _ in range(34):
        x0, y0 = random.random() * 1.6 - 0.05, 1.06
        x1, y1 = x0 + random.normal(0, 0.22), 0.5 + random.random() * 0.38
        green = 0.12 + 0.2 * random.random()
        leaf(
            canvas,
            x0,
            y0,
            x1,
            y1,
            0.035 + 0.02 * random.random(),
            (0.0, green * 0.25, 0.05),
            (0.03, green * 1.6, 0.08),
        )
    _moth(canvas, 0.98, 0.33)
    flower(canvas, 0.42, 0.5, 0.31, 5, 0.3, (0.16, 0.004, 0.1), (0.82, 0.02, 0.42), (0.95, 0.5, 0.01), 0.3)
    flower(canvas, 1.06, 0.66, 0.27, 8, 0.1, (0.004, 0.01, 0.2), (0.05, 0.16, 0.86), (0.85, 0.6, 0.05), 0.25)
    flower(canvas, 0.78, 0.86, 0.19, 7, 0.6, (0.55, 0.02, 0.01), (0.95, 0.23, 0.01), (0.85, 0.6, 0.1), 0.4)
    flower(canvas, 1.35, 0.9, 0.17, 9, 0.0, (0.01, 0.12, 0.03), (0.05, 0.72, 0.16), (0.7, 0.7, 0.1), 0.45)
    flower(canvas, 0.1, 0.88, 0.15, 6, 0.9, (0.2, 0.02, 0.3), (0.42, 0.1, 0.72), (0.95, 0.75, 0.1), 0.35)
    return _encode(canvas, 563 / 256, 65535)


def _moth(canvas: Canvas, cx: float, cy: float) -> None:
    part = canvas.around(cx, cy, 0.42)
    dx, dy = canvas.x[part] - cx, canvas.y[part] - cy
    side = np.abs(dx)
    for rx, ry, ox, oy, tilt, base, tip in (
        (0.17, 0.115, 0.14, 0.1, 0.55, (0.34, 0.22, 0.3), (0.62, 0.5, 0.55)),
        (0.26, 0.13, 0.2, -0.07, -0.45, (0.42, 0.2, 0.06), (0.78, 0.56, 0.3)),
    ):
        u = (side - ox) * np.cos(tilt) + (dy - oy) * np.sin(tilt)
        v = -(side - ox) * np.sin(tilt) + (dy - oy) * np.cos(tilt)
        span = np.hypot(u / rx, v / ry * (1 + 0.5 * u / rx))
        mask = edge((span - 1) * rx, 2.5 * canvas.pixel)
        bands = 0.5 + 0.5 * np.cos(span * 17 + 1.5 * np.sin(v * 60))
        scales = 0.5 + 0.5 * np.sin(u * 900) * np.sin(v * 900)
        color = mix(base, tip, bands * 0.75 + 0.2 * scales) * (1.05 - 0.55 * span**3)[..., None]
        canvas.lay(part, mask, color)
        spot = np.hypot(u - 0.25 * rx, v) / (0.32 * ry)
        for radius, tone in ((1.0, (0.02, 0.015, 0.02)), (0.66, (0.75, 0.45, 0.1)), (0.42, (0.015, 0.02, 0.09))):
            canvas.lay(part, edge((spot - radius) * 0.05, 0.004) * mask, tone)
    body = np.hypot(dx / 0.028, (dy - 0.02) / 0.15)
    fur = 0.5 + 0.5 * np.cos(dy * 210 + side * 120)
    canvas.lay(part, edge((body - 1) * 0.03, 0.006), mix((0.12, 0.07, 0.05), (0.55, 0.4, 0.28), fur))
    for turn in (-1, 1):
        path = dx - turn * (0.012 + np.clip(-dy - 0.11, 0, 1) ** 0.6 * 0.28)
        reach = (dy < -0.11) & (dy > -0.26)
        canvas.lay(part, edge(np.abs(path) - 0.0022, 0.002) * reach, (0.45, 0.33, 0.22))


@painted_once
def lantern_row() -> NDArray[np.uint8]:
    """Paper lanterns over water at dusk: glow, reflections, hot reds."""
    canvas = Canvas(*SIZE)
    canvas.rgb[:] = mix((0.02, 0.03, 0.14), (0.42, 0.14, 0.13), canvas.y * 1.55)
    water = canvas.y > 0.66
    ripples = 0.5 + 0.5 * np.sin(canvas.y * 420 + 4 * cloud((SIZE[1], SIZE[0]), 9, 5))
    canvas.rgb[water] = mix((0.004, 0.012, 0.05), (0.16, 0.07, 0.1), ripples * (1.1 - canvas.y))[water]
    hills = 0.62 + 0.05 * np.sin(canvas.x * 3.1) + 0.02 * np.sin(canvas.x * 9 + 1)
    canvas.lay((slice(None), slice(None)), edge(hills - canvas.y, 0.002) * ~water, (0.012, 0.012, 0.035))
    lanterns = (
        (0.2, 0.36, 0.11, (0.95, 0.05, 0.02)),
        (0.5, 0.3, 0.13, (0.98, 0.36, 0.02)),
        (0.78, 0.37, 0.1, (0.9, 0.7, 0.05)),
        (1.03, 0.31, 0.125, (0.05, 0.58, 0.14)),
        (1.3, 0.37, 0.105, (0.08, 0.18, 0.92)),
    )
    rope = 0.13 + 0.07 * np.cos((canvas.x - 0.75) * 2.2)
    canvas.lay((slice(None), slice(None)), edge(np.abs(canvas.y - rope) - 0.0018, 0.0015), (0.008, 0.006, 0.008))
    for cx, cy, r, color in lanterns:
        _lantern(canvas, cx, cy, r, color)
        part = canvas.around(cx, 0.86, 0.24)
        sway = 0.012 * np.sin(canvas.y[part] * 210)
        column = np.exp(-(((canvas.x[part] - cx + sway) / (r * 0.55)) ** 2)) * np.clip(1.35 - canvas.y[part], 0, 1)
        lit = column * (0.25 + 0.75 * ripples[part]) * (canvas.y[part] > 0.67)
        canvas.rgb[part] += lit[..., None] * np.asarray(color, np.float32) * 0.75
    return np.asarray(_encode(canvas, 2.2, 255), np.uint8)


def _lantern(canvas: Canvas, cx: float, cy: float, r: float, color: tuple[float, float, float]) -> None:
    canvas.glow(cx, cy, r * 1.7, (0.28 * color[0], 0.28 * color[1], 0.28 * color[2]), 1.3)
    part = canvas.around(cx, cy, r * 2.2)
    dx, dy = (canvas.x[part] - cx) / r, (canvas.y[part] - cy) / (r * 1.18)
    canvas.lay(part, edge(np.abs(dx) - 0.012, 0.02) * ((dy < -0.9) & (dy > -1.9)), (0.01, 0.01, 0.01))
    ball = np.hypot(dx, dy)
    ribs = 0.5 + 0.5 * np.cos(dy * 32)
    light = np.exp(-((ball / 0.62) ** 2))
    paper = mix(color, (1.0, 0.93, 0.72), light * 0.85) * (0.62 + 0.24 * ribs + 0.3 * light)[..., None]
    canvas.lay(part, edge((ball - 1) * r, 2.5 * canvas.pixel), paper)
    for end in (-1, 1):
        cap = np.maximum(np.abs(dx) - 0.3, np.abs(dy - end * 0.98) - 0.07)
        canvas.lay(part, edge(cap * r, 2 * canvas.pixel), (0.03, 0.016, 0.012))
    tassel = np.maximum(np.abs(dx) - 0.05 - 0.03 * np.cos(dy * 30), np.abs(dy - 1.35) - 0.3)
    canvas.lay(part, edge(tassel * r, 3 * canvas.pixel), (0.6 * color[0], 0.6 * color[1], 0.6 * color[2]))


@painted_once
def seed_pouch_pattern() -> NDArray[np.uint8]:
    """A repeat of blossoms and seeds on cream, flat and clean, in a very wide space."""
    canvas = Canvas(*SIZE)
    paper = cloud((SIZE[1], SIZE[0]), 40, 8)
    canvas.rgb[:] = mix((0.74, 0.68, 0.5), (0.8, 0.75, 0.6), paper)
    palette = (
        ((0.45, 0.03, 0.05), (0.72, 0.16, 0.08)), ((0.05, 0.22, 0.2), (0.12, 0.5, 0.4)),
        ((0.2, 0.06, 0.28), (0.42, 0.2, 0.5)), ((0.6, 0.28, 0.02), (0.8, 0.55, 0.05)),
        ((0.04, 0.1, 0.35), (0.14, 0.3, 0.68)),
    )  # fmt: skip
    random = np.random.default_rng(17)
    step = 0.25
    for row in range(6):
        for column in range(8):
            cx, cy = column * step + (row % 2) * step / 2 - 0.1, row * step * 0.86 + 0.02
            inner, outer = palette[(row * 2 + column) % len(palette)]
            tone = 0.9 + 0.2 * random.random()
            for turn in (0.6, 2.4, 4.2):
                tip = cx + 0.12 * np.cos(turn + row), cy + 0.12 * np.sin(turn + row)
                leaf(canvas, cx, cy, *tip, 0.022, (0.03, 0.12, 0.04), (0.16 * tone, 0.42, 0.1))
            flower(
                canvas, cx, cy, 0.078, 5 + (row + column) % 4, random.random() * 6, inner, outer, (0.8, 0.6, 0.1), 0.3
            )
            for seed in range(5):
                a = seed * 1.256 + row
                x, y = cx + step / 2 + 0.028 * np.cos(a), cy + 0.028 * np.sin(a)
                part = canvas.around(x, y, 0.02)
                u = np.hypot((canvas.x[part] - x) / 0.007, (canvas.y[part] - y) / 0.011)
                canvas.lay(part, edge((u - 1) * 0.008, 0.0015), (0.1, 0.05, 0.03))
    return np.asarray(_encode(canvas, 1.8, 255), np.uint8)


def press_card() -> NDArray[np.uint8]:
    """Gray ramp and steps, hue ramps at three lightnesses, skin tones, primaries, fine lines; made in Lab."""
    width, height = SIZE
    rgb = np.full((height, width, 3), _srgb([[62.0, 0, 0]])[0], np.uint8)

    def block(x: int, y: int, w: int, h: int, lab: NDArray[np.float64]) -> None:
        """Lab (rows, columns, 3), stretched over the block."""
        colors = _srgb(lab.reshape(-1, 3)).reshape(lab.shape)
        across = np.arange(w) * lab.shape[1] // w
        down = np.arange(h) * lab.shape[0] // h
        rgb[y : y + h, x : x + w] = colors[down][:, across]

    ramp = np.zeros((1, 2240, 3))
    ramp[0, :, 0] = np.linspace(100, 0, 2240)
    block(80, 80, 2240, 150, ramp)
    steps = np.zeros((1, 21, 3))
    steps[0, :, 0] = np.linspace(100, 0, 21)
    block(80, 250, 2240, 110, steps)
    hue = np.linspace(0, 360, 2240)
    for index, (lightness, chroma) in enumerate(((82, 38), (62, 58), (40, 42))):
        hues = lch_to_lab(np.column_stack([np.full(2240, lightness), np.full(2240, chroma), hue]))
        block(80, 400 + index * 130, 2240, 110, hues[None])
    plane = np.stack(np.meshgrid(np.linspace(95, 10, 200), np.linspace(0, 100, 300), indexing="ij"), axis=-1)
    for index, angle in enumerate((40, 95, 150, 265, 330)):
        lch = np.concatenate([plane, np.full((200, 300, 1), angle)], axis=-1)
        block(80 + index * 456, 820, 416, 300, lch_to_lab(lch))
    skins = [
        [88, 8, 14],
        [81, 11, 17],
        [73, 15, 20],
        [64, 17, 22],
        [54, 18, 22],
        [44, 16, 19],
        [34, 12, 14],
        [25, 8, 9],
    ]
    block(80, 1160, 1100, 160, np.array([skins], np.float64))
    for index, code in enumerate(
        ((255, 0, 0), (0, 255, 0), (0, 0, 255), (0, 255, 255), (255, 0, 255), (255, 255, 0))
    ):
        rgb[1160:1320, 1220 + index * 184 : 1220 + index * 184 + 180] = code
    lines = np.arange(2240)
    for index, period in enumerate((2, 4, 8, 16)):
        on = (lines // (period // 2)) % 2 == 0
        rgb[1360 + index * 42 : 1396 + index * 42, 80:2320] = np.where(on[:, None], 20, 240)
    return rgb


def _srgb(lab: Field | NDArray[np.float64] | list[list[float]]) -> NDArray[np.uint8]:
    codes = np.clip(cmm.from_lab(rgb_profile("sRGB"), np.asarray(lab, np.float64)), 0, 1)
    return np.rint(codes * 255).astype(np.uint8)


PAINTINGS = (
    Painting("Night moth.tif", "opRGB", night_moth),
    Painting("Lantern row.png", "sRGB", lantern_row),
    Painting("Seed pouch pattern.tif", "ROMM", seed_pouch_pattern),
    Painting("Press card.tif", "sRGB", press_card),
)


def write_poster_layers(path: Path) -> None:
    """'Lantern poster.ora': the lanterns, a band and a moon as layers, one of them hidden; sRGB embedded."""
    from PIL import Image, ImageDraw

    picture = Image.fromarray(lantern_row()).resize((1200, 800))
    merged, layers, listed = picture.convert("RGBA"), [picture], ['<layer name="Lanterns" src="data/0.png"/>']
    for name, box, color, visible in (
        ("Moon", (930, 60, 1060, 190), (246, 240, 214), True),
        ("Band", (0, 690, 1200, 760), (24, 20, 52), True),
        ("Guides", (0, 396, 1200, 404), (255, 0, 255), False),
    ):
        layer = Image.new("RGBA", picture.size, (0, 0, 0, 0))
        draw = ImageDraw.Draw(layer)
        (draw.ellipse if name == "Moon" else draw.rectangle)(box, fill=(*color, 255))
        hidden = "" if visible else ' visibility="hidden"'
        # The list begins with the topmost layer.
        listed.insert(0, f'<layer name="{name}" src="data/{len(layers)}.png"{hidden}/>')
        layers.append(layer)
        if visible:
            merged = Image.alpha_composite(merged, layer)
    width, height = picture.size
    stack = f'<image version="0.0.6" w="{width}" h="{height}"><stack>{"".join(listed)}</stack></image>'
    with zipfile.ZipFile(path, "w") as archive:
        archive.writestr("mimetype", "image/openraster")
        archive.writestr("stack.xml", stack)
        pictures = {"mergedimage.png": merged.convert("RGB")}
        pictures |= {f"data/{at}.png": layer for at, layer in enumerate(layers)}
        for name, layer in pictures.items():
            stored = io.BytesIO()
            layer.save(stored, "PNG", icc_profile=rgb_profile("sRGB").raw, dpi=(RESOLUTION_PPI, RESOLUTION_PPI))
            archive.writestr(name, stored.getvalue())


def write_painting(painting: Painting, folder: Path) -> Path:
    """Paint, and write with the space's profile embedded; an existing file is left as it is."""
    path = folder / painting.file_name
    if path.exists():
        return path
    pixels = painting.paint()
    profile = rgb_profile(painting.space).raw
    if path.suffix == ".png":
        from PIL import Image

        image = Image.fromarray(pixels)
        image.save(path, icc_profile=profile, dpi=(RESOLUTION_PPI, RESOLUTION_PPI))
    else:
        tifffile.imwrite(
            path, pixels, photometric="rgb", compression="lzw", predictor=True, iccprofile=profile, rowsperstrip=64,
            resolution=(RESOLUTION_PPI, RESOLUTION_PPI), resolutionunit="inch", metadata=None, software="Plinto demo",
        )  # fmt: skip
    return path
