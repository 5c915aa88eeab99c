"""A list that has gone leaves nothing behind that another list could stumble over."""

from __future__ import annotations

import os
import subprocess
import sys

LISTS_COME_AND_GO = """
from PySide6.QtCore import QCoreApplication, QEvent
from PySide6.QtWidgets import QApplication, QListWidgetItem, QVBoxLayout, QWidget
from creekbed.window.shared.widgets import listing

app = QApplication([])
stays, held = listing("stays"), []
for turn in range(200):
    page = QWidget()
    box, goes = QVBoxLayout(page), listing("goes")
    box.addWidget(goes)
    for n in range(8):
        goes.addItem(f"{turn} {n}")
    goes.setCurrentRow(0)
    held.append([goes.currentItem(), *(goes.item(n) for n in range(8))])
    page.deleteLater()
    QCoreApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
    del page, box, goes
    for n in range(20):
        stays.addItem(QListWidgetItem(str(n)))
    if turn % 3 == 0:
        held.pop(0)
    stays.clear()
print("whole")
"""


def test_lists_come_and_go(qapp: object) -> None:
    """With items that Qt makes of texts the process ends with a segmentation fault; so it runs in one of its own."""
    done = subprocess.run(
        [sys.executable, "-c", LISTS_COME_AND_GO], capture_output=True, text=True, check=False,
        env={**os.environ, "QT_QPA_PLATFORM": "offscreen"},
    )  # fmt: skip
    assert done.returncode == 0 and done.stdout.strip() == "whole", done.stderr[-500:]
