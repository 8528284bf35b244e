"""Good files damaged by seeded chance: whatever comes of them, nothing but our own errors leaves the readers."""

import base64
import io
import random
import re
import struct
import time
import unittest
from importlib.resources import files

from PIL import Image, ImageCms

from avelt.core.edits.clip import from_bytes, to_bytes
from avelt.core.edits.frames import add_frames
from avelt.core.edits.project import new_project
from avelt.core.errors import AveltError
from avelt.core.formats.checked import check
from avelt.core.formats.pictures_in import read_picture
from avelt.core.formats.svg_in import read_svg
from avelt.core.timing.compile import compile_still
from avelt.core.timing.items import items
from tests.core.test_svg_in import EmbeddedPictures

RICH = f"""<?xml version="1.0"?><svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" viewBox="0 0 120 90" width="240">
<style>.a{{fill:var(--t,#f00);stroke:currentColor}} g > .b, #c{{opacity:.5;mix-blend-mode:screen}}</style>
<defs><linearGradient id="g" x1="0" x2="1" gradientTransform="rotate(30)"><stop offset="10%" stop-color="red"/><stop offset="1" stop-color="blue" stop-opacity=".2"/></linearGradient>
<radialGradient id="r" xlink:href="#g" fx=".2" spreadMethod="reflect"/><pattern id="p" width="4" height="4" patternUnits="userSpaceOnUse"><path d="M0 0L4 4"/></pattern>
<filter id="f"><feOffset dy="2" in="SourceAlpha"/><feGaussianBlur stdDeviation="2"/><feFlood flood-color="#00f"/><feComposite in2="b" operator="in"/><feMerge><feMergeNode/><feMergeNode in="SourceGraphic"/></feMerge></filter>
<clipPath id="k" clipPathUnits="objectBoundingBox"><circle cx=".5" cy=".5" r=".5"/></clipPath><mask id="m"><rect width="50" height="50" fill="white"/></mask>
<marker id="w" orient="auto" refX="2"><path d="M0 0L4 2L0 4z"/></marker><symbol id="s" viewBox="0 0 10 10"><ellipse cx="5" cy="5" rx="4" ry="3"/></symbol></defs>
<g class="b" transform="translate(3,4) rotate(20 5 5) skewX(3)"><rect class="a" x="1%" y="2mm" width="40" height="30" rx="5" filter="url(#f)" clip-path="url(#k)"/>
<path id="c" d="M10 10c5-5 10 0 20 5s3 4 5 5a4 6 30 1 0 9 9Q1 2 3 4T6 7H9V2z" fill="url(#g)" mask="url(#m)" stroke-dasharray="4 2 1" marker-mid="url(#w)"/></g>
<text x="5 9" y="40" font-size="1.2em" text-anchor="middle">Skerry <tspan dx="3" fill="url(#r)">Line</tspan><tspan x="5" dy="12">12:40</tspan></text>
<use href="#s" x="50" width="20" height="20"/><polyline points="1,2 3,4 5,6" fill="url(#p)" vector-effect="non-scaling-stroke"/>
<image width="9" height="9" xlink:href="data:image/png;base64,{EmbeddedPictures.PIXEL}"/></svg>""".encode()
#: Pieces that go where others were.
PIECES = [
    b"",
    b"0",
    b"-1",
    b"1e9",
    b"1e999",
    b"NaN",
    b"url(#",
    b"url(#f)",
    b"100%",
    b"<",
    b"&#0;",
    b"</g>",
    b"\xff\xfe",
    b"M",
    b"z",
    b"matrix(0 0 0 0 0 0)",
    b'"',
    b"calc(1px)",
    b"#g",
    b"var(--t)",
    b"inherit",
    b"9" * 40,
    b"userSpaceOnUse",
]


def damaged(data: bytes, chance: random.Random) -> bytes:
    """A copy with a few bytes or pieces exchanged, cut out, doubled or swapped."""
    made = bytearray(data)
    for _ in range(chance.randint(1, 5)):
        at = chance.randrange(len(made))
        how = chance.randrange(5)
        if how == 0:
            made[at] = chance.randrange(256)
        elif how == 1:
            del made[at : at + chance.randint(1, 30)]
        elif how == 2:
            end = at + chance.randint(1, 12)
            made[at:end] = chance.choice(PIECES)
        elif how == 3:
            piece = made[at : at + chance.randint(1, 80)]
            made[at:at] = piece
        else:
            made[at : at + 4] = struct.pack("<f", chance.uniform(-1e12, 1e12)).hex().encode()[:4]
        if not made:
            made = bytearray(data)
    return bytes(made)


VALUES = [
    "",
    "0",
    "-1",
    "1e9",
    "1e999",
    "NaN",
    "url(#f)",
    "url(#k)",
    "url(#p)",
    "#c",
    "100%",
    "auto",
    "matrix(0 0 0 0 0 0)",
    "rotate(1e7)",
    "scale(1e-9)",
    "M0 0",
    "M1 1A0 0 0 0 0 1e7 1",
    "var(--t)",
    "inherit",
    "none",
    "1 2 3",
    "objectBoundingBox",
    "linear",
    "out",
    "SourceAlpha",
    "0 0 0 0 0 0 0 0 0 0 0 0 0 0 0 0 0 0 1 0",
    "blur(1e5px)",
    "9" * 30,
    "é😀",
    "px",
    "-5 -5 0 0",
]


def odd_values(data: bytes, chance: random.Random) -> bytes:
    """A copy with a few attributes' values exchanged for each other's, or for odd ones: good XML still."""
    text = data.decode()
    spots = [found.span(1) for found in re.finditer(r'="([^"]*)"', text)]
    for start, end in sorted(chance.sample(spots, chance.randint(1, 6)), reverse=True):
        other = chance.choice(spots)
        value = chance.choice(VALUES) if chance.random() < 0.7 else data.decode()[slice(*other)]
        text = text[:start] + value + text[end:]
    return text.encode()


class Fuzz(unittest.TestCase):
    def survive(self, data: bytes) -> bool:
        """Read it; what is read can be laid out and is sound in a project. Gives whether it was read."""
        try:
            imported = read_svg(data, "damaged", path="damaged.svg")
        except AveltError as error:
            text = str(error)
            self.assertTrue(text.startswith("damaged.svg") and "\n" not in text, text)
            return False
        check(add_frames(new_project("P"), [imported.frame], imported.assets))
        items(compile_still(imported.frame).at(0.0))
        return True

    def test_the_rich_file_itself_is_read(self) -> None:
        self.assertTrue(self.survive(RICH))

    def test_damaged_drawings(self) -> None:
        chance = random.Random(20261123)
        sailings = files("avelt.demo").joinpath("Sailings.svg").read_bytes()
        started, read = time.perf_counter(), 0
        for k in range(600):
            data = (odd_values if k % 3 else damaged)(RICH if k % 4 else sailings, chance)
            with self.subTest(k):
                read += self.survive(data)
            if time.perf_counter() - started > 40:
                break
        self.assertGreater(read, 250)

    def test_damaged_pictures(self) -> None:
        chance = random.Random(7)
        kept = []
        for kind in ("PNG", "JPEG", "WEBP", "GIF"):
            buffer = io.BytesIO()
            Image.radial_gradient("L").convert("RGB").resize((24, 18)).save(buffer, kind)
            kept.append(buffer.getvalue())
        for k in range(240):
            with self.subTest(k):
                try:
                    asset = read_picture(damaged(kept[k % 4], chance), "picture")
                except AveltError as error:
                    self.assertIn("picture", str(error))
                else:
                    self.assertGreater(asset.w * asset.h, 0)

    def test_damaged_clips(self) -> None:
        chance = random.Random(11)
        frame = read_svg(RICH, "rich").frame
        from avelt.core.edits.clip import Clip

        data = to_bytes(Clip(frame.layers[:1]))
        for k in range(200):
            with self.subTest(k):
                try:
                    from_bytes(damaged(data, chance))
                except AveltError as error:
                    self.assertNotIn("\n", str(error))


class Profiles(unittest.TestCase):
    def test_another_colour_profile_is_brought_to_srgb(self) -> None:
        picture = Image.new("RGB", (4, 4), (200, 100, 50))
        lab = ImageCms.createProfile("LAB")
        plain = io.BytesIO()
        picture.save(plain, "PNG", icc_profile=ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes())
        self.assertEqual(read_picture(plain.getvalue(), "p").data, plain.getvalue())
        # A profile that cannot be used for these pixels changes nothing and breaks nothing.
        odd = io.BytesIO()
        picture.save(odd, "PNG", icc_profile=ImageCms.ImageCmsProfile(lab).tobytes())
        self.assertEqual(read_picture(odd.getvalue(), "p").data, odd.getvalue())

    def test_a_swapped_profile_changes_the_colours(self) -> None:
        profile = bytearray(ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes())
        count = struct.unpack(">I", profile[128:132])[0]
        tags = {profile[132 + 12 * k : 136 + 12 * k].decode(): 132 + 12 * k for k in range(count)}
        red, blue = tags["rXYZ"] + 4, tags["bXYZ"] + 4
        profile[red : red + 8], profile[blue : blue + 8] = profile[blue : blue + 8], profile[red : red + 8]
        name = profile.find("sRGB".encode("utf-16-be"))
        while name >= 0:
            profile[name : name + 8] = "swap".encode("utf-16-be")
            name = profile.find("sRGB".encode("utf-16-be"))
        buffer = io.BytesIO()
        Image.new("RGB", (4, 4), (250, 10, 10)).save(buffer, "PNG", icc_profile=bytes(profile))
        asset = read_picture(buffer.getvalue(), "p")
        r, _, b, _ = Image.open(io.BytesIO(asset.data)).convert("RGBA").getpixel((1, 1))
        self.assertGreater(b, r + 100)
        self.assertNotEqual(base64.b64encode(asset.data), base64.b64encode(buffer.getvalue()))
