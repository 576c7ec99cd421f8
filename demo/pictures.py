"""Pictures drawn and sounds made by the program: a case on a bench, a drive that spins up. No camera was there."""

import io
import math
import random
import struct
import wave

from PIL import Image, ImageDraw, ImageFilter

VIEWS = ("front", "back", "top", "label")
PLASTIC = ((226, 217, 196), (214, 208, 192), (203, 188, 150), (190, 186, 176))


def draw(seed: str, form_factor: str, size: tuple[int, int, int], view: str) -> bytes:
    """A JPEG of 800 x 600 of one view; the same seed draws the same picture."""
    dice = random.Random(f"{seed} {view}")
    picture = Image.new("RGB", (800, 600), (96 + dice.randrange(10), 104, 98))
    pen = ImageDraw.Draw(picture)
    for _ in range(240):
        x, y = dice.randrange(800), dice.randrange(600)
        shade = 90 + dice.randrange(20)
        pen.line((x, y, x + dice.randrange(40), y), fill=(shade, shade + 6, shade))
    plastic = dice.choice(PLASTIC)
    width, height, depth = size
    across, up = (width, depth) if view == "top" else (width, height)
    scale = min(560 / across, 380 / max(up, 90))
    w, h = across * scale, max(up, 90) * scale
    x0, y0 = 400 - w / 2, 310 - h / 2
    pen.rounded_rectangle((x0 + 14, y0 + 18, x0 + w + 14, y0 + h + 18), 12, fill=(60, 66, 62))
    pen.rounded_rectangle((x0, y0, x0 + w, y0 + h), 10, fill=plastic, outline=(70, 66, 58), width=3)
    _details(pen, dice, form_factor, view, (x0, y0, w, h))
    return _jpeg(picture.filter(ImageFilter.GaussianBlur(0.6)))


def _details(pen, dice, form_factor, view, box):
    x0, y0, w, h = box
    dark, mid = (58, 62, 60), (150, 142, 124)
    if view == "front" and form_factor in {"all_in_one", "monitor", "luggable"}:
        wide = 0.45 if form_factor == "luggable" else 0.74
        pen.rounded_rectangle((x0 + w * 0.12, y0 + h * 0.12, x0 + w * (0.12 + wide), y0 + h * 0.62), 14, fill=dark)
    if view in {"front", "top"} and form_factor in {"keyboard", "laptop"}:
        for row in range(4):
            for key in range(13):
                kx, ky = x0 + w * (0.06 + key * 0.068), y0 + h * (0.25 + row * 0.16)
                pen.rectangle((kx, ky, kx + w * 0.055, ky + h * 0.12), fill=dark if row % 3 else mid)
    if view == "front":
        pen.rectangle((x0 + w * 0.58, y0 + h * 0.72, x0 + w * 0.92, y0 + h * 0.77), fill=dark)
    if view == "back":
        for port in range(5):
            px = x0 + w * (0.08 + port * 0.17)
            pen.rectangle((px, y0 + h * 0.4, px + w * 0.12, y0 + h * 0.62), fill=dark, outline=mid, width=3)
    if view == "label":
        pen.rectangle((x0 + w * 0.25, y0 + h * 0.3, x0 + w * 0.75, y0 + h * 0.7), fill=(238, 236, 228), outline=dark)
        for line in range(4):
            ly = y0 + h * (0.38 + line * 0.08)
            pen.line((x0 + w * 0.3, ly, x0 + w * (0.4 + dice.random() * 0.3), ly), fill=dark, width=4)


def _jpeg(picture) -> bytes:
    out = io.BytesIO()
    picture.save(out, "JPEG", quality=85)
    return out.getvalue()


def whine(seconds: float, pitch: float = 0.5, rate: int = 8000) -> bytes:
    """A WAV of a spindle that comes up to speed: a tone rising to its pitch, then steady."""
    out, phase = io.BytesIO(), 0.0
    with wave.open(out, "wb") as file:
        file.setparams((1, 2, rate, 0, "NONE", "not compressed"))
        frames = bytearray()
        for i in range(int(seconds * rate)):
            up = min(1.0, i / (0.6 * seconds * rate))
            phase += 2 * math.pi * (120 + (300 + 200 * pitch) * up) / rate
            frames += struct.pack("<h", int(6000 * up * math.sin(phase)))
        file.writeframes(bytes(frames))
    return out.getvalue()
