"""What the camera saw: one function a take, from a moment of it to a picture. Needs Pillow (authoring only)."""

import math
import random
from collections.abc import Callable

from PIL import Image, ImageDraw, ImageFont
from PIL.ImageDraw import ImageDraw as Draw

WIDTH_PX, HEIGHT_PX = 960, 540
_FELL = (17, 24, 32)
_INK = (8, 11, 16)
_LAMP = (244, 186, 92)
_PALE = (232, 222, 200)

Colour = tuple[int, int, int]


def _blend(a: Colour, b: Colour, share: float) -> Colour:
    return tuple(round(x + (y - x) * share) for x, y in zip(a, b, strict=True))  # type: ignore[return-value]


def _sky(top: Colour, bottom: Colour) -> Image.Image:
    column = Image.new("RGB", (1, HEIGHT_PX))
    for y in range(HEIGHT_PX):
        column.putpixel((0, y), _blend(top, bottom, y / HEIGHT_PX))
    return column.resize((WIDTH_PX, HEIGHT_PX))


def _stars(draw: Draw, seed: int, count: int, brightness: float, shift: float = 0.0, lowest: float = 0.8) -> None:
    field = random.Random(seed)
    if brightness < 0.2:
        return  # the sky is still brighter
    for _ in range(count):
        x = (field.random() * WIDTH_PX + shift * (0.4 + field.random())) % WIDTH_PX
        y, size = field.random() * HEIGHT_PX * lowest, 0.6 + 1.6 * field.random() ** 3
        glow = round(255 * brightness * (0.35 + 0.65 * field.random()))
        draw.ellipse((x - size, y - size, x + size, y + size), fill=(glow, glow, min(255, round(glow * 1.06))))


def _dot(draw: Draw, x: float, y: float, radius: float, colour: Colour) -> None:
    draw.ellipse((x - radius, y - radius, x + radius, y + radius), fill=colour)


def _hill(draw: Draw, top: float, colour: Colour, phase: float) -> None:
    ridge = [(x, top + 34 * math.sin(x / 210 + phase) + 13 * math.sin(x / 67 + 2 * phase)) for x in range(0, WIDTH_PX + 20, 20)]
    draw.polygon([*ridge, (WIDTH_PX, HEIGHT_PX), (0, HEIGHT_PX)], fill=colour)


def _dome(draw: Draw, x: float, y: float, size: float, colour: Colour, slit: float = 0.0, turn: float = 0.0) -> None:
    draw.rectangle((x - size, y - size * 0.05, x + size, y + size * 0.75), fill=_blend(colour, _INK, 0.3))
    draw.pieslice((x - size * 1.08, y - size * 1.08, x + size * 1.08, y + size * 1.08), 180, 360, fill=colour)
    if slit > 0:
        middle, half = x + turn * size * 0.6, size * 0.17 * slit
        draw.polygon(
            [(middle - half, y), (middle - half * 0.7, y - size), (middle + half * 0.7, y - size), (middle + half, y)],
            fill=_LAMP,
        )


def _person(draw: Draw, x: float, ground: float, tall: float, colour: Colour, arm: float = 0.0) -> None:
    head = tall * 0.11
    draw.ellipse((x - head, ground - tall, x + head, ground - tall + 2 * head), fill=colour)
    draw.rounded_rectangle((x - tall * 0.13, ground - tall * 0.8, x + tall * 0.13, ground), tall * 0.1, fill=colour)
    if arm:
        shoulder = (x, ground - tall * 0.72)
        hand = (x + tall * 0.42 * math.cos(arm), shoulder[1] - tall * 0.42 * math.sin(arm))
        draw.line((shoulder, hand), fill=colour, width=max(3, round(tall * 0.07)))


def dusk(t: float) -> Image.Image:
    """The dome on its hill, evening going."""
    image = _sky(_blend((42, 50, 96), (12, 16, 40), t), _blend((232, 128, 72), (70, 58, 92), t))
    draw = ImageDraw.Draw(image)
    _stars(draw, 1, 130, max(0.0, t * 1.4 - 0.4), lowest=0.55)
    _hill(draw, 400 - 10 * t, (48, 44, 66), 0.4)
    _dome(draw, 610 - 26 * t, 372, 74, (126, 118, 132))
    _hill(draw, 452 - 16 * t, _FELL, 1.9)
    return image


def lanterns(t: float) -> Image.Image:
    """Visitors come up the path with lamps."""
    image = _sky((10, 14, 30), (38, 40, 56))
    draw = ImageDraw.Draw(image)
    _stars(draw, 2, 90, 0.8, lowest=0.5)
    draw.polygon([(430, 300), (500, 300), (820, 540), (120, 540)], fill=(58, 52, 50))
    for k in range(7):
        along = (t * 0.55 + k / 7) % 1
        x, y = 465 + (1 - along) * (k % 3 - 1) * 220, 540 - along * 230
        tall = 150 * (1 - along) + 26
        glow = tall * 0.55
        hand = (x + tall * 0.2, y - tall * 0.4)
        _dot(draw, *hand, glow, (84, 66, 46))
        _person(draw, x, y, tall, _INK)
        _dot(draw, *hand, tall * 0.08, _LAMP)
    return image


def slit(t: float) -> Image.Image:
    """The slit of the dome opens, from near."""
    image = _sky((18, 26, 52), (44, 52, 84))
    draw = ImageDraw.Draw(image)
    _stars(draw, 3, 160, 0.9)
    _dome(draw, 480, 470, 400, (150, 146, 150), slit=max(0.03, min(1.0, (t - 0.2) * 1.7)), turn=0.18 * math.sin(t * 2))
    for k in range(-3, 4):
        draw.line((480 + k * 110, 470, 480 + k * 62, 110), fill=(112, 108, 116), width=3)
    return image


def telescope(t: float) -> Image.Image:
    """The tube turns inside."""
    image = _sky((64, 44, 34), (24, 18, 18))
    draw = ImageDraw.Draw(image)
    draw.polygon([(380, 0), (620, 0), (560, 210), (430, 210)], fill=(26, 34, 70))
    tilt = math.radians(28 + 38 * (0.5 - 0.5 * math.cos(math.pi * t)))
    x, y, length = 470, 380, 250
    ahead = (math.cos(tilt), -math.sin(tilt))
    across = (ahead[1], -ahead[0])
    ends = [(x - ahead[0] * length * 0.55, y - ahead[1] * length * 0.55), (x + ahead[0] * length, y + ahead[1] * length)]
    body = [
        (p[0] + s * across[0] * 44, p[1] + s * across[1] * 44)
        for p, s in ((ends[0], 1), (ends[1], 1), (ends[1], -1), (ends[0], -1))
    ]
    draw.polygon([(420, 540), (520, 540), (488, 380), (452, 380)], fill=(62, 60, 62))
    draw.polygon(body, fill=(196, 190, 176))
    draw.line((*body[1], *body[2]), fill=(88, 84, 80), width=12)
    draw.ellipse((442, 352, 498, 408), fill=(120, 114, 106))
    wheel = t * 5
    for k in range(6):
        a = wheel + k * math.pi / 3
        draw.line((760, 430, 760 + 74 * math.cos(a), 430 + 74 * math.sin(a)), fill=(150, 110, 70), width=9)
    draw.ellipse((686, 356, 834, 504), outline=(150, 110, 70), width=12)
    return image


def eyepiece(t: float) -> Image.Image:
    """A face at the eyepiece."""
    image = _sky((30, 20, 24), (72, 46, 38))
    draw = ImageDraw.Draw(image)
    lean = 26 * t
    draw.ellipse((250 + lean, 110, 560 + lean, 500), fill=(168, 118, 88))
    draw.pieslice((236 + lean, 80, 574 + lean, 420), 150, 350, fill=(56, 38, 34))
    shut = 1 if 0.55 < t < 0.6 else 18
    draw.ellipse((470 + lean, 270 - shut, 520 + lean, 270 + shut), fill=(244, 238, 226))
    draw.ellipse((488 + lean, 270 - min(shut, 13), 512 + lean, 270 + min(shut, 13)), fill=(40, 60, 86))
    draw.rectangle((560 + lean * 0.4, 234, 900, 306), fill=(120, 116, 110))
    draw.rectangle((540 + lean * 0.4, 244, 580 + lean * 0.4, 296), fill=(30, 30, 32))
    return image


def drift(t: float) -> Image.Image:
    """Stars go by."""
    image = _sky((4, 6, 16), (10, 14, 34))
    draw = ImageDraw.Draw(image)
    for k in range(60):
        y = 270 + 120 * math.sin(k / 9 + 0.6)
        x = k * 17 + 60 * t
        draw.ellipse((x - 70, y - 50, x + 70, y + 50), fill=(13, 17, 38))
    _stars(draw, 5, 420, 1.0, shift=150 * t, lowest=1.0)
    return image


def moon(t: float) -> Image.Image:
    """The moon, craters and all."""
    image = Image.new("RGB", (WIDTH_PX, HEIGHT_PX), (6, 6, 10))
    draw = ImageDraw.Draw(image)
    x, y, r = 560 - 90 * t, 300 - 20 * t, 300
    draw.ellipse((x - r, y - r, x + r, y + r), fill=(206, 202, 192))
    field = random.Random(8)
    for _ in range(46):
        a, d, c = field.random() * 6.28, field.random() ** 0.6 * 250, 8 + 40 * field.random() ** 2
        cx, cy = x + d * math.cos(a), y + d * math.sin(a)
        draw.ellipse((cx - c, cy - c, cx + c, cy + c), fill=(166, 162, 154), outline=(226, 222, 210), width=2)
    draw.ellipse((x - r + 190, y - r - 60, x + r + 330, y + r + 60), fill=(6, 6, 10))
    return image


def pointing(t: float) -> Image.Image:
    """A child shows where."""
    image = _sky((24, 34, 78), (110, 92, 118))
    draw = ImageDraw.Draw(image)
    _stars(draw, 9, 150, 0.9, lowest=0.6)
    _hill(draw, 470, _INK, 0.2)
    _person(draw, 340, 500, 250, _INK)
    _person(draw, 520, 500, 170, _INK, arm=0.3 + 0.75 * min(1.0, t * 2.2))
    _person(draw, 660, 500, 228, _INK)
    if 0.45 < t < 0.75:
        s = (t - 0.45) / 0.3
        draw.line((620 + 220 * s, 60 + 90 * s, 560 + 220 * s, 36 + 90 * s), fill=(250, 246, 230), width=4)
    return image


def spiral(t: float) -> Image.Image:
    """A galaxy turns."""
    image = Image.new("RGB", (WIDTH_PX, HEIGHT_PX), (5, 4, 12))
    draw = ImageDraw.Draw(image)
    _stars(draw, 10, 120, 0.5, lowest=1.0)
    field = random.Random(11)
    for k in range(1500):
        r = 300 * math.sqrt(k / 1500)
        a = r / 46 + math.pi * (k % 2) + field.gauss(0, 0.32) - t * 1.1
        x, y = 480 + r * math.cos(a), 270 + 0.55 * r * math.sin(a)
        colour = _blend((255, 226, 170), (120, 140, 232), min(1, r / 260))
        draw.ellipse((x - 1.6, y - 1.6, x + 1.6, y + 1.6), fill=colour)
    draw.ellipse((440, 246, 520, 294), fill=(255, 238, 204))
    return image


def round_dome(t: float) -> Image.Image:
    """People around the open dome, from above."""
    image = Image.new("RGB", (WIDTH_PX, HEIGHT_PX), (30, 38, 34))
    draw = ImageDraw.Draw(image)
    draw.ellipse((230, 20, 730, 520), fill=(60, 60, 58))
    draw.ellipse((300, 90, 660, 450), fill=(176, 168, 158))
    a = 0.5 + 0.8 * t
    draw.polygon([(480, 270), (480 + 180 * math.cos(a - 0.2), 270 + 180 * math.sin(a - 0.2)),
                  (480 + 180 * math.cos(a + 0.2), 270 + 180 * math.sin(a + 0.2))], fill=_LAMP)  # fmt: skip
    for k in range(16):
        b = k * math.pi / 8 + 0.35 * t * (1 if k % 2 else -1)
        x, y = 480 + 216 * math.cos(b), 270 + 216 * math.sin(b)
        draw.ellipse((x - 13, y - 13, x + 13, y + 13), fill=(20, 22, 26))
        draw.ellipse((x + 8, y - 4, x + 16, y + 4), fill=_LAMP)
    return image


def trails(t: float) -> Image.Image:
    """Stars draw circles over the dome."""
    image = _sky((8, 10, 30), (30, 26, 52))
    draw = ImageDraw.Draw(image)
    field = random.Random(13)
    for _ in range(120):
        r, a = 20 + 620 * field.random(), field.random() * 360
        glow = round(90 + 150 * field.random())
        draw.arc((480 - r, 150 - r, 480 + r, 150 + r), a, a + 6 + 34 * t, fill=(glow, glow, min(255, glow + 14)), width=2)
    _hill(draw, 468, _INK, 2.4)
    _dome(draw, 360, 448, 96, (70, 68, 84), slit=1.0, turn=-0.2)
    return image


def title(t: float) -> Image.Image:
    """The title card."""
    image = Image.new("RGB", (WIDTH_PX, HEIGHT_PX), (14, 18, 24))
    draw = ImageDraw.Draw(image)
    _stars(draw, 14, 90, 0.55, lowest=1.0)
    seen = min(1.0, t * 5)
    large, small = ImageFont.load_default(74), ImageFont.load_default(30)
    draw.text((480, 230), "Open Night", font=large, anchor="mm", fill=_blend((14, 18, 24), _PALE, seen))
    later = max(0.0, min(1.0, t * 5 - 1))
    draw.text((480, 312), "Harrow Fell Observatory", font=small, anchor="mm", fill=_blend((14, 18, 24), _LAMP, later))
    draw.line((480 - 170 * later, 352, 480 + 170 * later, 352), fill=_LAMP, width=2)
    return image


TAKE_PICTURES: dict[str, Callable[[float], Image.Image]] = {
    "Dusk on the fell": dusk, "Lantern path": lanterns, "The slit opens": slit, "Telescope turns": telescope,
    "At the eyepiece": eyepiece, "Stars drift": drift, "Moon": moon, "Pointing up": pointing, "Spiral": spiral,
    "Round the dome": round_dome, "Star trails": trails, "Title": title,
}  # fmt: skip


def burn_in(image: Image.Image, text: str) -> None:
    """A window with the timecode at the foot of a picture."""
    draw = ImageDraw.Draw(image)
    draw.rectangle((380, 496, 580, 530), fill=(0, 0, 0))
    draw.text((480, 513), text, font=ImageFont.load_default(24), anchor="mm", fill=(255, 255, 255))
