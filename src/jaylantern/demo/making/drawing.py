"""The demo's picture, drawn frame by frame: a harbour, a storm, a workshop, wheels, hands, a boat, noon."""

from __future__ import annotations

import math

from PIL import Image, ImageDraw

from jaylantern.demo.making.story import LENGTH_S, SCENES

WIDTH, HEIGHT, OVER = 960, 540, 2
W, H = WIDTH * OVER, HEIGHT * OVER
BRASS, CREAM, INK, DEEP = (201, 146, 66), (243, 233, 208), (28, 38, 52), (20, 29, 42)


def frame(at_s: float) -> Image.Image:
    """The picture at a time, 960 × 540; scenes melt into each other over 0.8 s."""
    now = max(i for i, scene in enumerate(SCENES) if scene.start_s <= at_s)
    image = _draw(now, at_s)
    since = at_s - SCENES[now].start_s
    if now and since < 0.8:
        image = Image.blend(_draw(now - 1, at_s), image, since / 0.8)
    if at_s > LENGTH_S - 2:
        image = Image.blend(image, Image.new("RGB", image.size, (8, 11, 16)), (at_s - LENGTH_S + 2) / 2)
    return image


def _draw(scene: int, at_s: float) -> Image.Image:
    kind, t = SCENES[scene].kind, at_s - SCENES[scene].start_s
    image = Image.new("RGB", (W, H))
    SCENE[kind](ImageDraw.Draw(image), t)
    return image.reduce(OVER)


def _sky(d: ImageDraw.ImageDraw, top: tuple[int, int, int], low: tuple[int, int, int], until: float = 0.66) -> None:
    rows = int(H * until)
    for y in range(0, rows, 4):
        k = y / rows
        d.rectangle((0, y, W, y + 4), fill=tuple(int(a + (b - a) * k) for a, b in zip(top, low, strict=True)))


def _sea(
    d: ImageDraw.ImageDraw, t: float, near: tuple[int, int, int], glint: tuple[int, int, int], rough: float
) -> None:
    for band in range(7):
        y0 = H * (0.64 + 0.055 * band)
        shade = tuple(int(c * (1 - 0.09 * band)) for c in near)
        wave = [
            (x, y0 + rough * (4 + 3 * band) * math.sin(x / (90 + 25 * band) + t * (0.9 + 0.13 * band) + band * 1.7))
            for x in range(0, W + 41, 40)
        ]
        d.polygon([*wave, (W, H), (0, H)], fill=shade)
        for i in range(9):
            x = (i * 263 + band * 97 + t * (8 + 5 * band)) % (W + 200) - 100
            d.line((x, y0 + 22, x + 34 + 10 * band, y0 + 22), fill=glint, width=3)


def _face(
    d: ImageDraw.ImageDraw, x: float, y: float, r: float, minutes: float, glow: tuple[int, int, int] = CREAM
) -> None:
    d.ellipse((x - r * 1.12, y - r * 1.12, x + r * 1.12, y + r * 1.12), fill=BRASS)
    d.ellipse((x - r, y - r, x + r, y + r), fill=glow)
    for i in range(12):
        a = i * math.pi / 6
        inner = 0.78 if i % 3 == 0 else 0.86
        d.line((x + r * inner * math.sin(a), y - r * inner * math.cos(a), x + r * 0.94 * math.sin(a),
                y - r * 0.94 * math.cos(a)), fill=INK, width=max(2, int(r / 28)))  # fmt: skip
    for turn, reach, width in ((minutes / 720, 0.52, 16), (minutes / 60, 0.8, 24)):
        a = turn * 2 * math.pi
        d.line((x - r * 0.12 * math.sin(a), y + r * 0.12 * math.cos(a), x + r * reach * math.sin(a),
                y - r * reach * math.cos(a)), fill=INK, width=max(3, int(r / width)))  # fmt: skip
    d.ellipse((x - r / 18, y - r / 18, x + r / 18, y + r / 18), fill=BRASS)


def _tower(
    d: ImageDraw.ImageDraw, x: float, minutes: float, stone: tuple[int, int, int], glow: tuple[int, int, int]
) -> None:
    dark = tuple(int(c * 0.8) for c in stone)
    d.rectangle((x - 130, H * 0.24, x + 130, H * 0.78), fill=stone)
    d.rectangle((x + 60, H * 0.24, x + 130, H * 0.78), fill=dark)
    d.polygon(((x - 165, H * 0.24), (x + 165, H * 0.24), (x, H * 0.07)), fill=(86, 58, 52))
    d.rectangle((0, H * 0.76, W * 0.7, H * 0.9), fill=tuple(int(c * 0.62) for c in stone))
    for i in range(9):
        d.line((i * 160 - 20, H * 0.76, i * 160 - 20, H * 0.9), fill=dark, width=3)
    _face(d, x, H * 0.37, 104, minutes, glow)


def _boat(d: ImageDraw.ImageDraw, x: float, y: float, size: float, lean: float) -> None:
    tip = lean * size
    d.polygon(
        ((x - size, y), (x + size, y), (x + size * 0.7, y + size * 0.4), (x - size * 0.75, y + size * 0.4)),
        fill=(120, 60, 48),
    )
    d.line((x, y, x + tip, y - size * 1.7), fill=(70, 52, 44), width=7)
    d.polygon(
        ((x + tip, y - size * 1.6), (x + size * 0.85 + tip, y - size * 0.2), (x, y - size * 0.2)), fill=(232, 222, 200)
    )


def _dusk(d: ImageDraw.ImageDraw, t: float) -> None:
    _sky(d, (44, 58, 92), (224, 158, 118))
    d.ellipse((1270, 560 + 4 * t, 1450, 740 + 4 * t), fill=(250, 214, 150))
    for i in range(5):
        x = (i * 520 + t * 14) % (W + 500) - 250
        d.ellipse((x, 120 + 52 * i, x + 420, 152 + 52 * i), fill=(150, 122, 134))
    _sea(d, t, (62, 86, 116), (236, 190, 140), 0.7)
    _boat(d, 1500 - 10 * t, 806 + 6 * math.sin(t), 110, 0.05 * math.sin(t * 0.9))
    _tower(d, 470, 978 + t / 6, (122, 108, 104), (250, 226, 168))


def _storm(d: ImageDraw.ImageDraw, t: float) -> None:
    flash = 46 if 6.0 < t < 6.12 or 6.3 < t < 6.38 else 0
    _sky(d, (18 + flash, 24 + flash, 36 + flash), (46 + flash, 56 + flash, 70 + flash))
    _sea(d, t * 2.2, (34, 48, 62), (96, 112, 124), 2.6)
    _tower(d, 470, 252, (66, 66, 74), (156, 150, 132))
    for i in range(120):
        x, y = (i * 389 + t * 900) % (W + 200) - 100, (i * 211 + t * 2300) % H
        d.line((x, y, x + 16, y + 46), fill=(112, 128, 142), width=2)


def _wheel(
    d: ImageDraw.ImageDraw, x: float, y: float, r: float, turn: float, teeth: int, colour: tuple[int, int, int]
) -> None:
    outline = []
    for i in range(teeth * 4):
        reach = r * (1.1 if i % 4 < 2 else 0.97)
        a = turn + i * math.pi / teeth / 2
        outline.append((x + reach * math.cos(a), y + reach * math.sin(a)))
    d.polygon(outline, fill=colour)
    d.ellipse((x - r * 0.76, y - r * 0.76, x + r * 0.76, y + r * 0.76), fill=DEEP)
    for i in range(5):
        a = turn + i * 2 * math.pi / 5
        d.line((x, y, x + r * 0.8 * math.cos(a), y + r * 0.8 * math.sin(a)), fill=colour, width=int(r / 8))
    d.ellipse((x - r * 0.2, y - r * 0.2, x + r * 0.2, y + r * 0.2), fill=colour)


def _bench(d: ImageDraw.ImageDraw, t: float) -> None:
    d.rectangle((0, 0, W, H), fill=(52, 48, 50))
    d.polygon(((160, 90), (760, 90), (760, 560), (160, 560)), fill=(150, 170, 182))
    for x in (160, 360, 560, 760):
        d.line((x, 90, x, 560), fill=(60, 52, 48), width=14)
    swing = 60 * math.sin(t * 0.8)
    d.line((1240, 0, 1240 + swing, 250), fill=(30, 28, 30), width=6)
    d.polygon(((1150 + swing, 330), (1330 + swing, 330), (1270 + swing, 240), (1210 + swing, 240)), fill=BRASS)
    d.polygon(((1150 + swing, 330), (1330 + swing, 330), (1620 + swing, 780), (860 + swing, 780)), fill=(92, 78, 58))
    d.rectangle((0, 770, W, H), fill=(98, 70, 50))
    d.rectangle((0, 770, W, 792), fill=(136, 98, 66))
    for i in range(9):
        x = 150 + i * 205
        _wheel(
            d, x, 746 - (i % 3) * 8, 38 + 9 * (i % 4), 0.1 * t * (1 if i % 2 else -1), 14, (150 + 8 * (i % 5), 112, 60)
        )
    lift = max(0.0, math.sin(t * 4.4)) * 70
    d.line((1080, 690 - lift, 1240, 640 - lift), fill=(70, 50, 40), width=18)
    d.rectangle((1050, 660 - lift, 1096, 730 - lift), fill=(150, 152, 156))


def _wheels(d: ImageDraw.ImageDraw, t: float) -> None:
    d.rectangle((0, 0, W, H), fill=DEEP)
    _wheel(d, 560, 560, 380, t * 0.20, 40, (164, 118, 56))
    _wheel(d, 1120, 360, 190, -t * 0.40, 20, (190, 142, 74))
    _wheel(d, 1420, 700, 260, t * 0.29, 28, (140, 98, 48))
    _wheel(d, 1010, 840, 120, -t * 0.63, 14, (208, 164, 92))


def _hands(d: ImageDraw.ImageDraw, t: float) -> None:
    d.rectangle((0, 0, W, H), fill=(38, 50, 68))
    _face(d, W / 2, H / 2, 440 + 2 * t, 252 + t * t * 0.8)


def _crossing(d: ImageDraw.ImageDraw, t: float) -> None:
    _sky(d, (120, 168, 206), (222, 232, 226))
    _sea(d, t, (70, 122, 146), (214, 232, 232), 0.9)
    x = 420 + 70 * t
    _boat(d, x, 800 + 8 * math.sin(t * 1.1), 170, 0.06 * math.sin(t))
    _face(d, x - 90, 764 + 8 * math.sin(t * 1.1), 48, 252)
    for i in range(4):
        gx, gy = 700 + 190 * i + 60 * t, 260 + 60 * (i % 2) + 20 * math.sin(t * 1.3 + i)
        flap = 22 * math.sin(t * 6 + i)
        d.line((gx - 46, gy - flap, gx, gy, gx + 46, gy - flap), fill=(250, 250, 246), width=8)


def _noon(d: ImageDraw.ImageDraw, t: float) -> None:
    _sky(d, (92, 152, 206), (206, 226, 232))
    for i in range(4):
        x = (i * 610 + t * 10) % (W + 500) - 250
        d.ellipse((x, 130 + 66 * i, x + 460, 176 + 66 * i), fill=(240, 244, 242))
    _sea(d, t, (58, 116, 150), (226, 240, 240), 0.6)
    _boat(d, 1420, 800 + 6 * math.sin(t), 120, 0.04 * math.sin(t))
    _tower(d, 470, 719.3 + t / 9, (176, 158, 138), CREAM)


SCENE = {"dusk": _dusk, "storm": _storm, "bench": _bench, "wheels": _wheels, "hands": _hands, "crossing": _crossing,
         "noon": _noon}  # fmt: skip
