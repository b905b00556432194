"""The picture on the shop's reports: any common picture in, a small PNG kept; nothing of the file itself is stored."""

import base64
import io
import warnings

from django.db import transaction
from PIL import Image, ImageFile, UnidentifiedImageError

from lens.errors import BadInput
from server.accounts.policy import require
from server.profiles.actions import Person, keep_version
from server.shop.actions import the_shop
from server.shop.models import Shop

MOST_BYTES = 5_000_000
MOST_PIXELS = 40_000_000
WIDE_PX, HIGH_PX = 800, 240  # sharp at the size at which it is printed
KINDS = ("PNG", "JPEG", "WEBP")
NO_PICTURE = "This is no picture that can be printed: a PNG, JPEG or WebP file is expected."


def as_logo(data: bytes) -> bytes:
    """A small PNG of a picture. Raises BadInput for what is none, or far too large."""
    if len(data) > MOST_BYTES:
        raise BadInput("The logo's file is larger than 5 MB. Save it smaller.", "logo")
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("error", Image.DecompressionBombWarning)
            picture = Image.open(io.BytesIO(data), formats=KINDS)
            if picture.width * picture.height > MOST_PIXELS:
                raise BadInput("The logo has more than 40 million pixels. Save it smaller.", "logo")
            ImageFile.LOAD_TRUNCATED_IMAGES = False  # the library that makes PDFs sets it for the whole process
            small = picture.convert("RGBA")
    except (UnidentifiedImageError, OSError, ValueError, SyntaxError, Image.DecompressionBombWarning):
        raise BadInput(NO_PICTURE, "logo") from None
    small.thumbnail((WIDE_PX, HIGH_PX))
    out = io.BytesIO()
    small.save(out, "PNG", optimize=True)
    return out.getvalue()


@transaction.atomic
def set_logo(user: Person, data: bytes | None) -> Shop:
    """Print this picture on reports, or none; leads only. Reports that were made keep theirs."""
    person = require(user, "profile.change")
    kept = as_logo(data) if data is not None else None
    shop = Shop.objects.select_for_update().filter(pk=1).first() or Shop(pk=1)
    shop.logo, shop.version, shop.changed_by = kept, shop.version + 1, person
    shop.save()
    keep_version("shop", shop.version, {"logo": base64.b64encode(kept).decode() if kept else ""}, person)
    return shop


def logo_address() -> str:
    """The logo as a data address; empty where there is none."""
    logo = the_shop().logo
    return f"data:image/png;base64,{base64.b64encode(bytes(logo)).decode()}" if logo else ""
