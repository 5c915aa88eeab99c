"""Photographs: upright, without hidden data, whole on disk; 500 damaged, hostile or odd files do no harm."""

from __future__ import annotations

import random
import resource
import shutil
import struct
import zlib
from io import BytesIO
from pathlib import Path
from typing import Any

import pytest
from PIL import Image

from creekbed.core.errors import BadInput, StoreProblem
from creekbed.store.photos import LARGEST_BYTES, LONGEST_SIDE, THUMB_SIDE, PhotoStore, clean
from creekbed.store.sqlite.backup import back_up, mirror
from creekbed.store.sqlite.copies import find, restore
from creekbed.workshop.arrival import photos
from creekbed.workshop.arrival.condition_marks import add_mark
from creekbed.workshop.shop.shop import Shop
from tests.conftest import Hand


def picture(width: int = 160, height: int = 120, kind: str = "JPEG", **more: Any) -> bytes:
    image = Image.effect_mandelbrot((width, height), (-2, -1.2, 1, 1.2), 40).convert(more.pop("mode", "RGB"))
    out = BytesIO()
    image.save(out, kind, **more)
    return out.getvalue()


def opened(data: bytes) -> Image.Image:
    return Image.open(BytesIO(data))


@pytest.mark.parametrize("kind", ["JPEG", "PNG", "WEBP"])
def test_what_is_read(kind: str) -> None:
    found = clean(picture(kind=kind))
    assert (found.width, found.height) == (160, 120) and opened(found.jpeg).format == "JPEG"
    assert len(found.name) == 64 and max(opened(found.thumb).size) <= THUMB_SIDE


def test_place_time_and_maker_are_gone_and_it_stands_upright() -> None:
    exif = Image.Exif()
    exif[0x0112] = 6  # orientation: the top is at the right
    exif[0x010F] = "maker of cameras"
    exif.get_ifd(0x8825)[1] = "N"
    data = picture(200, 100, exif=exif.tobytes(), comment=b"where it was")
    assert b"maker of cameras" in data
    found = clean(data)
    assert (found.width, found.height) == (100, 200)
    for made in (found.jpeg, found.thumb):
        assert b"maker" not in made and b"where it was" not in made and b"Exif" not in made
        assert not dict(opened(made).getexif())


def test_transparency_becomes_paper_and_palettes_become_colours() -> None:
    image = Image.new("RGBA", (20, 20), (0, 0, 0, 0))
    out = BytesIO()
    image.save(out, "PNG")
    assert opened(clean(out.getvalue()).jpeg).getpixel((5, 5)) >= (250, 250, 250)  # type: ignore[operator]
    assert clean(picture(kind="PNG", mode="P")).width == 160 and clean(picture(kind="PNG", mode="1")).width == 160


def test_a_large_one_is_made_smaller() -> None:
    out = BytesIO()
    Image.new("L", (LONGEST_SIDE * 2, 100), 128).save(out, "JPEG")
    assert clean(out.getvalue()).width <= LONGEST_SIDE


def huge_png(width: int, height: int) -> bytes:
    """A few bytes that promise a picture of any size."""

    def chunk(name: bytes, body: bytes) -> bytes:
        return struct.pack(">I", len(body)) + name + body + struct.pack(">I", zlib.crc32(name + body))

    head = struct.pack(">IIBBBBB", width, height, 8, 2, 0, 0, 0)
    return (
        b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + chunk(b"IDAT", zlib.compress(b"\0" * 999)) + chunk(b"IEND", b"")
    )


@pytest.mark.parametrize(
    "data",
    [
        b"", b"\0", b"not a picture", b"\xff\xd8\xff", b"GIF89a" + b"\0" * 100, b"<svg xmlns='x'></svg>",
        b"%PDF-1.4", b"BM" + b"\0" * 80, huge_png(60_000, 60_000), huge_png(2**31 - 1, 2**31 - 1), huge_png(4, 4),
        huge_png(500, 500), picture()[:400], picture(kind="PNG")[:-40], b"MM\0*\0\0\0\x08" + b"\xff" * 200,
        b"RIFF\xff\xff\xff\xffWEBPVP8 ", b"\x7fELF" + b"\0" * 64, b"PK\x03\x04" + b"\0" * 64,
        b"\0" * (LARGEST_BYTES + 1),
    ],
    ids=range(19),
)  # fmt: skip
def test_what_is_refused(data: bytes) -> None:
    with pytest.raises(BadInput):
        clean(data)


def test_500_damaged_files_do_no_harm() -> None:
    """Each is refused with words or read; nothing else is raised, and memory does not grow with their number."""
    rng = random.Random(1912)
    sources = [picture(kind=k) for k in ("JPEG", "PNG", "WEBP")] + [
        picture(progressive=True),
        picture(kind="PNG", mode="P"),
    ]
    read = refused = 0
    grown = 0
    for n in range(500):
        data = bytearray(rng.choice(sources))
        way = n % 5
        if way == 0:
            del data[rng.randrange(len(data)) :]
        elif way == 1:
            for _ in range(rng.randint(1, 30)):
                data[rng.randrange(len(data))] = rng.randrange(256)
        elif way == 2:
            at = rng.randrange(len(data))
            data[at:at] = rng.randbytes(rng.randint(1, 400))
        elif way == 3:
            at = rng.randrange(min(64, len(data)))
            data[at : at + 4] = rng.choice([b"\xff\xff\xff\xff", b"\0\0\0\0", b"\x7f\xff\xff\xff"])
        else:
            data = bytearray(rng.randbytes(rng.randint(0, 600)))
        try:
            found = clean(bytes(data))
            assert found.width * found.height <= 80_000_000 and opened(found.jpeg).format == "JPEG"
            read += 1
        except BadInput:
            refused += 1
        if n == 250:
            grown = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
    assert read + refused == 500 and refused > 150 and read > 20
    assert resource.getrusage(resource.RUSAGE_SELF).ru_maxrss - grown < 64_000  # KiB, over the second half


def test_kept_once_private_and_whole(tmp_path: Path) -> None:
    store = PhotoStore(tmp_path)
    found = clean(picture())
    name = store.keep(found)
    assert store.keep(found) == name and store.read(name) == found.jpeg and store.read(name, True) == found.thumb
    files = [p for p in (tmp_path / "photos").rglob("*") if p.is_file()]
    assert len(files) == 2 and all(p.stat().st_mode & 0o077 == 0 for p in files)
    assert all(p.stat().st_mode & 0o077 == 0 for p in (tmp_path / "photos").rglob("*") if p.is_dir())
    store.path(name).write_bytes(b"x")
    with pytest.raises(StoreProblem, match="changed on disk"):
        store.read(name)
    store.path(name).unlink()
    with pytest.raises(StoreProblem, match="not in its place"):
        store.read(name)
    for wrong in ("../../etc/passwd", "A" * 64, ""):
        with pytest.raises(BadInput):
            store.path(wrong)


def test_a_full_disk_says_so(tmp_path: Path) -> None:
    (tmp_path / "photos").write_text("in the way")
    with pytest.raises(StoreProblem, match="could not be kept"):
        PhotoStore(tmp_path).keep(clean(picture()))


# --- with the job ---------------------------------------------------------------------------------------------------


def test_photographs_of_a_job(shop: Shop, hand: Hand) -> None:
    job = hand.book()
    assert photos.packing_photo(shop, "MH-0142") is None
    first = photos.add_photo(shop, job, picture())
    add_mark(shop, job, "bell", "dent", 6.0)
    mark = hand.view(job).marks[0].id
    photos.add_photo(shop, job, picture(100, 100), f"mark:{mark}")
    photos.add_photo(shop, job, clean(picture(80, 90)), "check:neck_cork")
    assert [p.about for p in photos.photos_of(shop, job)] == ["packing", f"mark:{mark}", "check:neck_cork"]
    assert photos.packing_photo(shop, "MH-0142") == first
    assert photos.store_of(shop).read(first.name)
    shop.undo()
    assert len(photos.photos_of(shop, job)) == 2
    for about in ("mark:999", "check:gong", "gong", "mark:"):
        with pytest.raises(BadInput):
            photos.add_photo(shop, job, picture(), about)
    with pytest.raises(BadInput):
        photos.add_photo(shop, job, b"none")
    assert len(photos.photos_of(shop, job)) == 2


def test_a_backup_holds_the_photographs_and_gives_them_back(shop: Shop, hand: Hand, monkeypatch: Any) -> None:
    first = photos.add_photo(shop, hand.book(), picture())
    back_up(shop.folder, "daily")
    again = shop.folder / "backups" / "photos"
    assert {p.name for p in again.glob("??/*.jpg")} == {f"{first.name}.jpg", f"{first.name}.small.jpg"}
    assert mirror(shop.folder / "photos", again, ending=".jpg") == 0
    shutil.rmtree(shop.folder / "photos")
    shop.close()
    restore(shop.folder, find(shop.folder))
    assert photos.store_of(shop).read(first.name)
    shutil.rmtree(again)

    def no_links(*args: object) -> None:
        raise OSError("this disk has no second names")

    monkeypatch.setattr("os.link", no_links)
    assert mirror(shop.folder / "photos", again, ending=".jpg") == 2
    assert all(p.stat().st_mode & 0o077 == 0 for p in again.rglob("*"))
