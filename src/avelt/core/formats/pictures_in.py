"""Picture files as assets: checked, limited, and kept as they are."""

from __future__ import annotations

import base64
import binascii
import io
import re
import warnings
from typing import TYPE_CHECKING
from urllib.parse import unquote_to_bytes

from avelt.core.errors import FormatError
from avelt.core.model.limits import MAX_PICTURE_BYTES, MAX_PICTURE_PIXELS
from avelt.core.model.values import Asset
from avelt.core.words import tr

if TYPE_CHECKING:
    from PIL import Image

#: Pillow's names of the formats that are read, and the ending they are kept under.
FORMATS = {"PNG": "png", "JPEG": "jpg", "WEBP": "webp", "GIF": "gif"}


def read_picture(data: bytes, name: str) -> Asset:
    """The picture as an asset; ``FormatError`` when it is none.

    JPEG, PNG and WebP keep their bytes unless they must be turned upright or brought to sRGB from another colour
    profile; the first picture of a GIF is kept as PNG.
    """
    from PIL import Image, ImageOps  # a window opens faster when it has no picture to read

    if len(data) > MAX_PICTURE_BYTES:
        raise FormatError(
            tr("The picture is larger than {max_picture_bytes} MB.", max_picture_bytes=MAX_PICTURE_BYTES // 2**20), name
        )
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("error")
            with Image.open(io.BytesIO(data), formats=tuple(FORMATS)) as picture:
                if picture.width * picture.height > MAX_PICTURE_PIXELS:
                    raise FormatError(
                        tr(
                            "The picture has more than {max_picture_pixels} million pixels.",
                            max_picture_pixels=MAX_PICTURE_PIXELS // 10**6,
                        ),
                        name,
                    )
                kind = picture.format or ""
                picture.load()
                upright = ImageOps.exif_transpose(picture)
                turned = picture.getexif().get(0x0112, 1) != 1
                profile = picture.info.get("icc_profile") or b""
                flat = _in_srgb(upright, profile) if profile else None
                if turned or kind == "GIF" or flat is not None:
                    kept = io.BytesIO()
                    (flat or upright).convert("RGBA").save(kept, "PNG")
                    data, kind = kept.getvalue(), "PNG"
                width, height = upright.size
    except FormatError:
        raise
    except Exception as error:  # Pillow's decoders raise many kinds; all mean the same here
        raise FormatError(
            tr("This is not a picture that can be read ({name__}).", name__=type(error).__name__), name
        ) from None
    import hashlib

    return Asset(hashlib.sha256(data).hexdigest(), FORMATS[kind], width, height, data)


def _in_srgb(picture: Image.Image, profile: bytes) -> Image.Image | None:
    """The picture's colours in sRGB; ``None`` when they are, or when the profile cannot be used."""
    from PIL import ImageCms

    try:
        own = ImageCms.ImageCmsProfile(io.BytesIO(profile))
        if "srgb" in ImageCms.getProfileDescription(own).lower():
            return None
        alpha = picture.getchannel("A") if "A" in picture.getbands() else None
        mode = picture.mode if picture.mode in ("RGB", "CMYK", "L") else "RGB"
        made = ImageCms.profileToProfile(picture.convert(mode), own, ImageCms.createProfile("sRGB"), outputMode="RGB")
    except (ImageCms.PyCMSError, ValueError, OSError):
        return None
    if made is not None and alpha is not None:
        made.putalpha(alpha)
    return made


def data_link(link: str) -> bytes:
    """The bytes inside a ``data:`` link; ``FormatError`` when they cannot be read."""
    head, _, body = link.partition(",")
    try:
        plain = unquote_to_bytes(body)
        return base64.b64decode(re.sub(rb"\s", b"", plain)) if ";base64" in head else plain
    except (binascii.Error, ValueError):
        raise FormatError(tr("Its data cannot be read.")) from None
