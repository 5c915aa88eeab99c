"""What the window asks of its devices: off the interface thread, one at a time, what they said kept in words."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from creekbed.core.errors import CreekbedError
from creekbed.core.units import show


class Asking:
    """The part of the frame that speaks with devices; mixed into it.

    Attributes:
        devices: kind: port or address. last_readings: what each said last, with the time.
        listening: the thread that hears the code scanner, or ``None``.
    """

    devices: dict[str, str]
    last_readings: dict[str, str]
    shop: Any
    here: str
    say: Callable[..., None]
    could_not: Callable[[CreekbedError], None]
    do: Callable[..., bool]
    page: Callable[..., Any]
    scanned: Callable[..., None]
    listening: Any
    _second: Any
    _asking: Any
    _airing: Any
    _trying_scanner: bool

    def ask_device(
        self, kind: str, question: Callable[[], Any], then: Callable[[Any], None],
        leave: Callable[[], None] | None = None,
    ) -> None:  # fmt: skip
        """Ask a device off the interface thread; ``then`` gets the answer here, errors are said.

        A second press while one is being asked does nothing.

        Args:
            leave: gives the question up; called when the window closes meanwhile.
        """
        from creekbed.window.shared.background_task import Ask

        if self._asking is not None:
            return
        self._asking = Ask(question, leave)
        self._asking.answered.connect(lambda answer: self._device_said(kind, lambda: then(answer), answer))
        self._asking.failed.connect(lambda error: self._device_said(kind, lambda: self._raise(error), error))
        self.say(f"Asking the {kind} …")
        self._asking.start()

    def read_meter(self, kind: str, u_method: float, then: Callable[[Any], None]) -> None:
        """One reading of a meter, such as the caliper; ``then`` gets it."""
        from creekbed.devices.meter import KINDS, Meter

        port = self.devices.get(kind, "")
        self.ask_device(KINDS[kind].name, lambda: Meter(kind, port).reading(u_method), then)

    def take_picture(self, then: Callable[[bytes], None]) -> None:
        """One picture of the camera; ``then`` gets it as it came."""
        from creekbed.devices.camera import Camera

        camera = Camera(self.devices.get("camera", ""))
        self.ask_device("camera", camera.take, then, leave=camera.leave)

    def listen_to_scanner(self) -> None:
        """Listen to the code scanner on its port, where one is set; the one before is left alone from now on."""
        if self.listening is not None:
            self.listening.stop()
            self.listening = None
        port = self.devices.get("scanner", "")
        if port and self._second.isActive():  # a window that is closing listens to nothing
            from creekbed.window.frame.scanner_listener import Listening

            self.listening = Listening(port, self)
            self.listening.heard.connect(self._heard)
            self.listening.lost.connect(self._scanner_lost)
            self.listening.start()

    def try_scanner(self) -> None:
        """Have the code scanner look once; what it reads is shown and not followed."""
        if self.listening is not None:
            self._trying_scanner = True
            self.say("Hold a tag before the code scanner.")
            self.listening.scanner.look()

    def _heard(self, code: str) -> None:
        trying, self._trying_scanner = self._trying_scanner, False
        self._note_reading("code scanner", code)
        if trying:
            self.say(f"The code scanner read {code}.")
        else:
            self.scanned(code)

    def _scanner_lost(self, problem: CreekbedError) -> None:
        self._trying_scanner = False
        self._note_reading("code scanner", problem.happened)
        self.could_not(problem)

    def _note_reading(self, kind: str, words: str) -> None:
        self.last_readings[kind] = f"{self.shop.now.astimezone():%H:%M}  {words}"
        if self.here == "devices":
            self.page("devices").refresh()

    def _device_said(self, kind: str, act: Callable[[], None], answer: Any) -> None:
        asked, self._asking = self._asking, None
        asked.wait()
        if isinstance(answer, CreekbedError):
            words = answer.happened
        elif isinstance(answer, bytes):
            words = f"a picture, {len(answer) / 1000:.0f} kB"
        else:
            words = show(answer.value, answer.unit) if hasattr(answer, "unit") else str(answer)
        self.do(act)
        self._note_reading(kind, words)

    @staticmethod
    def _raise(error: CreekbedError) -> None:
        raise error

    def _note_air(self) -> None:
        """Once an hour, note the storage room's air where its devices are connected; silent when they do not answer."""
        if not (self.devices.get("thermometer") and self.devices.get("hygrometer")) or self._airing is not None:
            return
        from creekbed.devices.meter import Meter
        from creekbed.window.shared.background_task import Ask
        from creekbed.workshop.shop.room_climate import HOURLY, last_air, log_air

        last = last_air(self.shop)
        if last is not None and self.shop.now - last < HOURLY:
            return
        ports = self.devices["thermometer"], self.devices["hygrometer"]

        def noted(values: tuple[float, float] | None) -> None:
            asked, self._airing = self._airing, None
            asked.wait()
            if values is not None:
                self.do(lambda: log_air(self.shop, values[0], values[1] / 100, "devices"))

        self._airing = Ask(lambda: (Meter("thermometer", ports[0]).read(), Meter("hygrometer", ports[1]).read()))
        self._airing.answered.connect(noted)
        self._airing.failed.connect(lambda problem: noted(None))
        self._airing.start()
