"""One instrument's serial number, bill and photographs, from the page of instruments."""

from __future__ import annotations

from collections.abc import Callable
from datetime import date

from PIL import Image
from PySide6.QtWidgets import QPushButton

from creekbed.window.fleet.details_dialog import DetailsDialog
from creekbed.workshop.arrival.photos import PACKING, add_photo
from creekbed.workshop.fleet.instrument_details import details_of
from creekbed.workshop.shop.shop import Shop
from tests.conftest import Hand
from tests.window.conftest import Driver, rest


def picture() -> bytes:
    from io import BytesIO

    written = BytesIO()
    Image.new("RGB", (640, 480), (90, 120, 60)).save(written, "JPEG")
    return written.getvalue()


def test_serial_bill_and_photographs(drive: Callable[[str], Driver], hand: Hand, shop: Shop) -> None:
    job = hand.book("MH-0142")
    add_photo(shop, job, picture(), PACKING)
    driver = drive("mouse")
    page = driver.frame.page("instruments")
    dialog = DetailsDialog(page, "MH-0142", "Alto saxophone")
    dialog.show()
    rest(driver.frame)
    (thumb,) = [b for b in dialog.findChildren(QPushButton) if b.objectName().startswith("detail_photo")]
    assert not thumb.icon().isNull() and thumb.accessibleName().startswith("Photograph, packing")
    assert not dialog.none.isVisible()
    dialog.serial.setText("23 762")
    dialog.bought.setText("3.9.2024")
    dialog.cost.setText("480,50")
    dialog.keep()
    found = details_of(shop, "MH-0142")
    assert (found.serial, found.bought_on, found.cost) == ("23 762", date(2024, 9, 3), 480.5)
    again = DetailsDialog(page, "MH-0142", "Alto saxophone")
    again.bought.setText("soon")
    again.show()
    again.keep()
    assert again.isVisible() and "soon" in driver.frame.words.text()
    assert details_of(shop, "MH-0142") == found
    again.close()


def test_new_stock_is_offered_to_be_commissioned(drive: Callable[[str], Driver], shop: Shop) -> None:
    from creekbed.store.records import Instrument

    with shop.act("made") as act:
        for tag in ("VLN-1", "VLN-2"):
            act.records.add(Instrument(tag=tag, family="violin", size="4/4", created_at=shop.now))
    driver = drive("keys")
    driver.frame.nav.open_instruments("VLN")
    page = driver.frame.page("instruments")
    driver.qtbot.waitUntil(lambda: not page.loading.busy and len(page.model.rows) == 2)
    page.table.selectAll()
    rest(driver.frame)
    assert page.new.text() == "Commission 2" and page.new.isVisible()
    driver.press("fleet_new")
    driver.qtbot.waitUntil(lambda: not page.loading.busy and {r.place for r in page.model.rows} == {"bench"})
    assert not page.new.isVisible() and "To commission 2" in driver.frame.words.text()
