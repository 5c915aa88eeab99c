"""Starting the window."""

from __future__ import annotations

import gc
import os
import sys
import time
from collections.abc import Callable
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from PySide6.QtWidgets import QApplication

    from creekbed.window.frame.device_requests import Simulators


def run(
    open_shop: Callable[[], Any], *, title: str = "Creekbed", plug: Callable[[], Simulators] | None = None,
    offscreen: bool = False, quit_when_shown: bool = False, port: str = "", greeting: str = "",
) -> int:  # fmt: skip
    """Show the window and work until it is closed.

    Args:
        open_shop: gives the shop, or raises StoreProblem.
        plug: makes simulated devices once the bench is drawn; they are closed at the end.
        offscreen: draw into memory instead of onto a screen.
        quit_when_shown: leave as soon as the bench is drawn; prints how long window and bench took.
        port: serial port of the caliper. greeting: said when the bench is drawn.

    Returns:
        The exit status.
    """
    started = time.perf_counter()
    gc.disable()  # until the bench is drawn; see creekbed.window.frame.garbage
    if offscreen:
        os.environ["QT_QPA_PLATFORM"] = "offscreen"
    _load_before_qt()
    import shiboken6
    from PySide6.QtCore import QTimer

    from creekbed.window.frame.frame import Frame
    from creekbed.window.frame.garbage import Tidying

    app = _application()
    stays = not quit_when_shown
    frame = Frame(open_shop, port, title, greeting, thinking=stays, ahead=stays, upkeep=stays)
    sys.excepthook = frame.something_broke
    frame.show()
    app.processEvents()
    visible, visible_at = time.perf_counter() - started, time.time()
    tidying = Tidying(frame, lambda: frame.idle)

    def fill() -> None:
        opened = frame.open_shop()
        tidying.start()
        if plug is not None and opened and not quit_when_shown:
            QTimer.singleShot(0, lambda: frame.devices.plug_in(plug()))
        if quit_when_shown:
            app.processEvents()
            _tell_times(visible, time.perf_counter() - started, visible_at)
            QTimer.singleShot(0, lambda: app.exit(0 if opened else 1))

    QTimer.singleShot(0, fill)
    status = app.exec()
    tidying.stop()
    sys.excepthook = sys.__excepthook__
    frame.close()
    shiboken6.delete(frame)  # before the application, whatever still refers to it
    return status


def _load_before_qt() -> None:
    """Load what the first bench is made of beside Qt.

    Once Qt is there, PySide reads the source of every module that is loaded, to see whether it uses Qt. For these,
    which do not, that would make a start a tenth longer.
    """
    import creekbed.store.maintenance
    import creekbed.workshop.bench.batch
    import creekbed.workshop.bench.bench_view
    import creekbed.workshop.bench.job_steps
    import creekbed.workshop.bench.schedule_view
    import creekbed.workshop.bench.tuning
    import creekbed.workshop.inspection.playing
    import creekbed.workshop.shop.room_climate  # noqa: F401


def _tell_times(visible: float, drawn: float, visible_at: float) -> None:
    """Print how long after the start window and bench were there, s; for measuring from outside the clock times too."""
    print(f"window visible after {visible:.3f} s, bench drawn after {drawn:.3f} s")
    if os.environ.get("CREEKBED_TELL_TIMES"):
        print(visible_at, time.time())


def _application() -> QApplication:
    """The one application, dressed."""
    from PySide6.QtWidgets import QApplication

    from creekbed.window.shared import theme

    app = QApplication.instance() or QApplication(sys.argv[:1])
    assert isinstance(app, QApplication)
    app.setApplicationName("Creekbed")
    app.setStyle("Fusion")
    theme.load_fonts()
    theme.apply(app)
    return app
