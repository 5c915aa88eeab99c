"""Photographs beside the records: content-addressed, never changed, readable by their owner only.

What comes in is decoded and written anew as plain JPEG: upright, without the data that cameras hide in files (place,
time, maker). A file that is no picture, or pretends to be a huge one, is refused before it is decoded.
"""

from __future__ import annotations

import struct
import warnings
import zlib
from io import BytesIO
from pathlib import Path

from creekbed.core.errors import BadInput
from creekbed.core.quick_dataclasses import dataclass
from creekbed.store.kept_files import KeptFiles, name_of
from creekbed.store.layout import PHOTOS

LARGEST_BYTES = 40_000_000
LARGEST_PIXELS = {"JPEG": 50_000_000, "PNG": 25_000_000, "WEBP": 25_000_000}
"""A JPEG is made smaller while it is decoded; the others must be decoded whole, four bytes for each point."""
LONGEST_SIDE = 6_000
THUMB_SIDE = 360
QUALITY = 90
FORMATS = ("JPEG", "PNG", "WEBP")
"""What is read; everything else is refused."""


@dataclass(frozen=True)
class Clean:
    """A picture made safe: its JPEG, a small one, and its size in pixels."""

    jpeg: bytes
    thumb: bytes
    width: int
    height: int

    @property
    def name(self) -> str:
        """What it is called by: SHA-256 of its JPEG, hex."""
        return name_of(self.jpeg)


def clean(data: bytes) -> Clean:
    """Decode a picture and write it anew.

    Args:
        data: the file as it came, JPEG, PNG or WebP.

    Returns:
        The picture upright, in plain RGB, at most 6000 px long, without metadata.

    Raises:
        BadInput: too large, of another kind, cut off or damaged.
    """
    from PIL import Image, ImageOps, UnidentifiedImageError

    warnings.filterwarnings("ignore", category=Image.DecompressionBombWarning)  # sizes are looked at here
    if len(data) > LARGEST_BYTES:
        raise BadInput(
            f"That file is {len(data) / 1e6:.0f} MB, more than a photograph.",
            todo="Take a smaller picture, up to 40 MB.",
        )
    unreadable = BadInput("That file is no picture that can be read.", todo="Take JPEG, PNG or WebP, or take it again.")
    try:
        with Image.open(BytesIO(data), formats=FORMATS) as opened:
            width, height = opened.size
            if width < 8 or height < 8:
                raise BadInput("That picture is too small to show anything.", todo="Take it again.")
            if width * height > LARGEST_PIXELS.get(opened.format or "", 0):
                raise BadInput(f"{width} × {height} points are more than a photograph.", todo="Take a smaller picture.")
            opened.draft("RGB", (LONGEST_SIDE, LONGEST_SIDE))
            picture = ImageOps.exif_transpose(opened)
            if picture.mode in ("RGBA", "LA", "PA") or "transparency" in picture.info:
                picture = picture.convert("RGBA")
                paper = Image.new("RGB", picture.size, "white")
                paper.paste(picture, mask=picture.getchannel("A"))
                picture = paper
            picture = picture.convert("RGB")
            picture.info = {}  # comments and colour profiles stay behind too
            picture.thumbnail((LONGEST_SIDE, LONGEST_SIDE))
            small = picture.copy()
            small.thumbnail((THUMB_SIDE, THUMB_SIDE))
            return Clean(_jpeg(picture), _jpeg(small), *picture.size)
    except BadInput:
        raise
    except (
        UnidentifiedImageError, Image.DecompressionBombError, OSError, SyntaxError, ValueError, TypeError, KeyError,
        IndexError, EOFError, OverflowError, MemoryError, struct.error, zlib.error,
    ) as error:  # fmt: skip
        raise unreadable from error


def decoded(jpeg: bytes, side: int = 0) -> tuple[bytes, tuple[int, int]]:
    """The pixels of a JPEG that this store made: three bytes each, rows without gaps, and its width and height.

    Args:
        jpeg: from :func:`clean`. side: longest side wanted, px; 0 for all of it.
    """
    from PIL import Image

    with Image.open(BytesIO(jpeg), formats=("JPEG",)) as opened:
        if side:
            opened.draft("RGB", (side, side))
            opened.thumbnail((side, side))
        return opened.tobytes(), opened.size


def _jpeg(picture: object) -> bytes:
    out = BytesIO()
    picture.save(out, "JPEG", quality=QUALITY, exif=b"", optimize=False)  # type: ignore[attr-defined]
    return out.getvalue()


class PhotoStore(KeptFiles):
    """The folder of photographs.

    Args:
        folder: the shop's data folder; photographs lie in ``photos/`` there.
    """

    def __init__(self, folder: Path):
        super().__init__(folder / PHOTOS, "photograph", ".jpg")

    def path(self, name: str, thumb: bool = False) -> Path:
        """Where a picture lies, or its small one.

        Raises:
            BadInput: not a name that this store gave.
        """
        whole = super().path(name)
        return whole.with_name(f"{name}.small{self.ending}") if thumb else whole

    def keep(self, picture: Clean) -> str:
        """Write a picture and its small one; on disk when this returns. One that is there already is left alone.

        Returns:
            Its name.

        Raises:
            StoreProblem: it cannot be written.
        """
        for content, thumb in ((picture.thumb, True), (picture.jpeg, False)):
            self.write(self.path(picture.name, thumb), content)
        return picture.name

    def read(self, name: str, thumb: bool = False) -> bytes:
        """The JPEG of a picture.

        Raises:
            StoreProblem: it is not there any more, or was changed.
        """
        return self.contents(self.path(name, thumb), "" if thumb else name)
