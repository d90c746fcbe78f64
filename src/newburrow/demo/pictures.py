"""The pictures of the demo site, drawn from a seed: the same seed gives the same bytes."""

from __future__ import annotations

import io
import math
import random

from PIL import Image, ImageDraw

WIDTH, HEIGHT = 640, 400
MOTIFS = (
    "tree",
    "graft",
    "hill",
    "bee",
    "blossom",
    "owl",
    "basket",
    "press",
    "apple",
    "lantern",
)

_SKIES = ("#cfe3ec", "#f3e3c7", "#dfe9d8", "#e8dfee", "#2f3a52")
_REDS = ("#b8402f", "#c9632f", "#d9a441", "#8f9e3a")


def draw(motif: str, seed: int) -> bytes:
    """One picture as PNG, WIDTH x HEIGHT pixels."""
    chance = random.Random(f"{motif} {seed}")
    picture = Image.new("RGB", (WIDTH, HEIGHT), chance.choice(_SKIES))
    pen = ImageDraw.Draw(picture)
    _hills(pen, chance)
    _DRAWERS[motif](pen, chance)
    buffer = io.BytesIO()
    picture.quantize(48).save(buffer, "PNG", optimize=True)
    return buffer.getvalue()


def _hills(pen: ImageDraw.ImageDraw, chance: random.Random) -> None:
    for level, colour in enumerate(("#9db58a", "#7f9c6c", "#66824f")):
        phase, base = chance.uniform(0, 6), 230 + level * 45
        points = [
            (x, base + 22 * math.sin(phase + x / (120 + 40 * level)))
            for x in range(0, WIDTH + 10, 10)
        ]
        pen.polygon([*points, (WIDTH, HEIGHT), (0, HEIGHT)], fill=colour)


def _disc(pen: ImageDraw.ImageDraw, x: float, y: float, radius: float, colour: str) -> None:
    pen.ellipse((x - radius, y - radius, x + radius, y + radius), fill=colour)


def _tree(
    pen: ImageDraw.ImageDraw, chance: random.Random, crown: str = "#4d7039", dots: str = ""
) -> None:
    for place in range(3):
        x, y = 120 + place * 200 + chance.randint(-30, 30), chance.randint(300, 340)
        pen.polygon(
            [(x - 12, y), (x + 12, y), (x + 6, y - 120), (x - 6, y - 120)], fill="#5b4632"
        )
        for _ in range(9):
            _disc(
                pen,
                x + chance.randint(-55, 55),
                y - 140 + chance.randint(-45, 40),
                chance.randint(26, 40),
                crown,
            )
        for _ in range(24 if dots else 0):
            _disc(pen, x + chance.randint(-75, 75), y - 140 + chance.randint(-60, 55), 6, dots)


def _blossom(pen: ImageDraw.ImageDraw, chance: random.Random) -> None:
    _tree(pen, chance, "#e9c9d1", "#fff6f3")


def _apple(pen: ImageDraw.ImageDraw, chance: random.Random) -> None:
    for place in range(4):
        x, y, colour = 100 + place * 145, 270 + chance.randint(-40, 40), chance.choice(_REDS)
        _disc(pen, x - 18, y, 46, colour)
        _disc(pen, x + 18, y, 46, colour)
        pen.line((x, y - 38, x + 8, y - 70), fill="#5b4632", width=6)
        pen.ellipse((x + 6, y - 78, x + 44, y - 58), fill="#6d8f45")


def _basket(pen: ImageDraw.ImageDraw, chance: random.Random) -> None:
    for _ in range(14):
        _disc(pen, chance.randint(220, 420), chance.randint(190, 240), 30, chance.choice(_REDS))
    pen.polygon([(180, 230), (460, 230), (430, 350), (210, 350)], fill="#a9793f")
    for y in range(245, 350, 18):
        pen.line((188, y, 452, y), fill="#7d5729", width=4)


def _bee(pen: ImageDraw.ImageDraw, chance: random.Random) -> None:
    for place in range(5):
        x, y = 90 + place * 120 + chance.randint(-20, 20), chance.randint(80, 230)
        pen.ellipse((x - 6, y - 34, x + 24, y - 4), fill="#f5f8fb")
        pen.ellipse((x - 30, y - 16, x + 30, y + 16), fill="#e0aa2e")
        for stripe in (-14, 2, 18):
            pen.line((x + stripe, y - 13, x + stripe, y + 13), fill="#33291c", width=6)


def _owl(pen: ImageDraw.ImageDraw, chance: random.Random) -> None:
    x = chance.randint(240, 400)
    pen.rectangle((0, 300, WIDTH, 330), fill="#5b4632")
    pen.ellipse((x - 80, 90, x + 80, 310), fill="#8a6f52")
    pen.ellipse((x - 50, 180, x + 50, 305), fill="#d9c7a8")
    for side in (-34, 34):
        _disc(pen, x + side, 150, 30, "#f4ead2")
        _disc(pen, x + side, 150, 13, "#2b241c")
    pen.polygon([(x - 8, 172), (x + 8, 172), (x, 194)], fill="#d28f2c")


def _graft(pen: ImageDraw.ImageDraw, chance: random.Random) -> None:
    x = chance.randint(280, 360)
    pen.polygon([(x - 26, 400), (x + 26, 400), (x + 26, 220), (x - 26, 170)], fill="#6b5137")
    pen.polygon([(x - 24, 160), (x + 26, 210), (x + 20, 30), (x - 16, 30)], fill="#88704f")
    for y in range(165, 250, 14):
        pen.line((x - 32, y, x + 32, y + 10), fill="#e8e2d2", width=8)
    for y in (60, 100):
        pen.ellipse((x + 14, y, x + 40, y + 20), fill="#7fa052")


def _press(pen: ImageDraw.ImageDraw, chance: random.Random) -> None:
    colour = chance.choice(("#8c6239", "#7a5a3c", "#96703f"))
    pen.rectangle((190, 80, 215, 350), fill=colour)
    pen.rectangle((425, 80, 450, 350), fill=colour)
    pen.rectangle((180, 70, 460, 100), fill=colour)
    pen.rectangle((308, 50, 332, 200), fill="#5f666b")
    for x in range(230, 410, 22):
        pen.rectangle((x, 200, x + 14, 320), fill="#b98f55")
    pen.rectangle((220, 320, 420, 340), fill="#5f666b")


def _lantern(pen: ImageDraw.ImageDraw, chance: random.Random) -> None:
    for place in range(3):
        x, y = 130 + place * 190 + chance.randint(-25, 25), chance.randint(90, 170)
        pen.line((x, 0, x, y), fill="#3a3128", width=3)
        _disc(pen, x, y + 40, 62, "#f6d98b")
        pen.rectangle((x - 26, y, x + 26, y + 80), fill="#f3b83f", outline="#3a3128", width=5)


def _plain_hill(pen: ImageDraw.ImageDraw, chance: random.Random) -> None:
    _disc(pen, chance.randint(80, 560), chance.randint(60, 120), 34, "#f2cf6b")
    for _ in range(7):
        x, y = chance.randint(30, 610), chance.randint(250, 360)
        _disc(pen, x, y - 22, 20, "#48683a")
        pen.rectangle((x - 3, y - 10, x + 3, y + 8), fill="#5b4632")


_DRAWERS = {
    "tree": _tree,
    "graft": _graft,
    "hill": _plain_hill,
    "bee": _bee,
    "blossom": _blossom,
    "owl": _owl,
    "basket": _basket,
    "press": _press,
    "apple": _apple,
    "lantern": _lantern,
}
