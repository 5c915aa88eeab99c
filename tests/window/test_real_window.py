"""One run of the real window on a real X server (in memory): keys and a scan by xcb, a picture taken, closed."""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
from pathlib import Path

import pytest

SCRIPT = """
import sys
from pathlib import Path
from PySide6.QtCore import QTimer, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QPushButton
from creekbed.demo.folder import demo_clock
from creekbed.window.shared import theme
from creekbed.window.frame.frame import Frame
from creekbed.workshop.shop.shop import Shop

folder, picture = Path(sys.argv[1]), sys.argv[2]
app = QApplication([])
app.setStyle("Fusion")
theme.load_fonts()
theme.apply(app)
frame = Frame(lambda: Shop(folder, demo_clock(folder)))
frame.show()
assert frame.open_shop()
assert QTest.qWaitForWindowExposed(frame, 10000)
frame.activateWindow()
QTest.qWaitForWindowActive(frame, 10000)
print("platform", app.platformName(), "screen", app.primaryScreen().size().width())
QTest.keyClick(frame.windowHandle(), Qt.Key.Key_F7)
print("page", frame.here)
for letter in "MH-0142":
    QTest.keyClick(frame.windowHandle(), letter)
QTest.keyClick(frame.windowHandle(), Qt.Key.Key_Return)
print("page", frame.here, frame.page("job").view.tag)
app.processEvents()
app.primaryScreen().grabWindow(0).save(picture)
frame.close()
"""


@pytest.mark.xvfb
@pytest.mark.skipif(shutil.which("Xvfb") is None, reason="Xvfb is not installed; ./run-tests installs it when root")
def test_under_a_real_x_server(demo_folder: Path, tmp_path: Path) -> None:
    read, write = os.pipe()
    server = subprocess.Popen(
        ["Xvfb", "-displayfd", str(write), "-screen", "0", "1280x800x24", "-nolisten", "tcp"],
        pass_fds=[write], stderr=subprocess.DEVNULL,
    )  # fmt: skip
    os.close(write)
    try:
        with os.fdopen(read) as line:
            display = line.readline().strip()  # the server writes its number when it is ready
        environment = {**os.environ, "DISPLAY": f":{display}", "QT_QPA_PLATFORM": "xcb"}
        picture = tmp_path / "screen.png"
        done = subprocess.run(
            [sys.executable, "-c", SCRIPT, str(demo_folder), str(picture)],
            env=environment, capture_output=True, text=True, timeout=120, check=False,
        )  # fmt: skip
    finally:
        server.terminate()
        server.wait()
    assert done.returncode == 0, done.stderr
    assert done.stdout.splitlines() == ["platform xcb screen 1280", "page stock", "page job MH-0142"]
    from PIL import Image

    with Image.open(picture) as shown:
        colours = {shown.convert("RGB").getpixel((x, y)) for x in range(0, 1280, 16) for y in range(0, 800, 16)}
        assert shown.size == (1280, 800)
    assert (0xF2, 0xF0, 0xE8) in colours and len(colours) > 8  # the paper of the day theme, and something on it
