"""Pictures of packs: whatever comes is drawn anew as a small square PNG, so that nothing hidden in it is handed out."""

import hashlib
import io

from django.core.files.base import ContentFile
from django.core.files.storage import storages
from PIL import Image, ImageOps, UnidentifiedImageError

from ..access import Refusal

MAX_BYTES = 5 * 1024**2
MAX_PIXELS = 40_000_000
SIDE = 256


def take_picture(data: bytes) -> str:
    """Keeps a picture and gives its checksum. Raises Refusal with a sentence if it is none, or far too large."""
    if len(data) > MAX_BYTES:
        raise Refusal(413, "size", "A picture may have up to 5 MB. It was not taken.")
    try:
        with Image.open(io.BytesIO(data), formats=("PNG", "JPEG", "WEBP")) as given:
            if given.width * given.height > MAX_PIXELS:
                raise Refusal(413, "size", "The picture has far more dots than a screen. It was not taken.")
            square = ImageOps.fit(ImageOps.exif_transpose(given).convert("RGBA"), (SIDE, SIDE))
    except (UnidentifiedImageError, OSError, SyntaxError, ValueError, Image.DecompressionBombError):
        raise Refusal(
            400, "picture", "This is not a PNG, JPEG or WebP picture, or it is broken. It was not taken."
        ) from None
    out = io.BytesIO()
    square.save(out, "PNG", optimize=True)
    drawn = out.getvalue()
    name = hashlib.sha256(drawn).hexdigest()
    if not storages["blobs"].exists(f"{name}.png"):
        storages["blobs"].save(f"{name}.png", ContentFile(drawn))
    return name
