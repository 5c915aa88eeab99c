"""Requests to devices: off the interface thread, one at a time; the last answers are kept in words."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import TYPE_CHECKING, Any, Protocol

from creekbed.core.conventions import clock, number
from creekbed.core.errors import CreekbedError
from creekbed.core.units import show

if TYPE_CHECKING:
    from creekbed.window.frame.frame import Frame
    from creekbed.window.frame.scanner_listener import Listening
    from creekbed.window.shared.background_task import Ask


class Simulators(Protocol):
    """Simulated devices that hang on the bench.

    Attributes:
        addresses: kind: port or address.
    """

    addresses: dict[str, str]

    def put_before_microphone(self, family: str) -> None:
        """Have somebody play an instrument of a family."""

    def close(self) -> None:
        """Pull all plugs."""


class DeviceRequests:
    """Asks devices for one window.

    Attributes:
        ports: kind: port or address. given: those of the command line; they go before the shop's.
        last_readings: what each said last, with the time.
        listening: the thread that hears the code scanner, or ``None``.
    """

    def __init__(self, frame: Frame, given: Mapping[str, str]):
        self.frame, self.given = frame, dict(given)
        self.ports = dict(given)
        self.last_readings: dict[str, str] = {}
        self.listening: Listening | None = None
        self.asking: Ask | None = None
        self.airing: Ask | None = None
        self._trying_scanner = False
        self._simulators: Simulators | None = None

    def plug_in(self, simulators: Simulators) -> None:
        """Ask simulated devices from now on, but for those that the command line named; they go with the window."""
        self._simulators = simulators
        self.given = {**simulators.addresses, **self.given}
        self.ports = {**self.ports, **self.given}
        self.listen_to_scanner()

    def about_to_play(self, family: str) -> None:
        """Tell simulated devices what lies before them; real ones hear for themselves."""
        if self._simulators is not None:
            self._simulators.put_before_microphone(family)

    def stop(self) -> None:
        """The window closes: nothing is asked or heard any more."""
        if self.asking is not None:
            self.asking.give_up()
        if self.airing is not None:
            self.airing.wait()
        if self.listening is not None:
            self.listening.stop()
        if self._simulators is not None:
            self._simulators.close()

    def ask(
        self, kind: str, question: Callable[[], Any], then: Callable[[Any], None],
        leave: Callable[[], None] | None = None,
    ) -> None:  # fmt: skip
        """Ask a device off the interface thread; ``then`` gets the answer here, errors are said.

        A second press while one is being asked does nothing.

        Args:
            leave: gives the question up; called when the window closes meanwhile.
        """
        from creekbed.window.shared.background_task import Ask

        if self.asking is not None:
            return
        self.asking = Ask(question, leave)
        self.asking.answered.connect(lambda answer: self._device_said(kind, lambda: then(answer), answer))
        self.asking.failed.connect(lambda error: self._device_said(kind, lambda: self._raise(error), error))
        self.frame.say(f"Asking the {kind} …")
        self.asking.start()

    def read_meter(self, kind: str, u_method: float, then: Callable[[Any], None]) -> None:
        """One reading of a meter, such as the caliper; ``then`` gets it."""
        from creekbed.devices.meter import KINDS, Meter

        port = self.ports.get(kind, "")
        self.ask(KINDS[kind].name, lambda: Meter(kind, port).reading(u_method), then)

    def take_picture(self, then: Callable[[bytes], None]) -> None:
        """One picture of the camera; ``then`` gets it as it came."""
        from creekbed.devices.camera import Camera

        camera = Camera(self.ports.get("camera", ""))
        self.ask("camera", camera.take, then, leave=camera.leave)

    def listen_to_scanner(self) -> None:
        """Listen to the code scanner on its port, where one is set; the one before is left alone from now on."""
        if self.listening is not None:
            self.listening.stop()
            self.listening = None
        port = self.ports.get("scanner", "")
        if port and self.frame.ticking.timer.isActive():  # a window that is closing listens to nothing
            from creekbed.window.frame.scanner_listener import Listening

            self.listening = Listening(port, self.frame)
            self.listening.heard.connect(self._heard)
            self.listening.lost.connect(self._scanner_lost)
            self.listening.start()

    def try_scanner(self) -> None:
        """Have the code scanner look once; what it reads is shown and not followed."""
        if self.listening is not None:
            self._trying_scanner = True
            self.frame.say("Hold a tag before the code scanner.")
            self.listening.scanner.look()

    def _heard(self, code: str) -> None:
        trying, self._trying_scanner = self._trying_scanner, False
        self._note_reading("code scanner", code)
        if trying:
            self.frame.say(f"The code scanner read {code}.")
        else:
            self.frame.scans.scanned(code)

    def _scanner_lost(self, problem: CreekbedError) -> None:
        self._trying_scanner = False
        self._note_reading("code scanner", problem.happened)
        self.frame.could_not(problem)

    def _note_reading(self, kind: str, words: str) -> None:
        self.last_readings[kind] = f"{clock(self.frame.shop.now)}  {words}"
        if self.frame.here == "devices":
            self.frame.page("devices").refresh()

    def _device_said(self, kind: str, act: Callable[[], None], answer: Any) -> None:
        asked, self.asking = self.asking, None
        if asked is not None:
            asked.wait()
        if isinstance(answer, CreekbedError):
            words = answer.happened
        elif isinstance(answer, bytes):
            words = f"a picture, {number(len(answer) / 1000, 0)} kB"
        else:
            words = show(answer.value, answer.unit) if hasattr(answer, "unit") else str(answer)
        self.frame.do(act)
        self._note_reading(kind, words)

    @staticmethod
    def _raise(error: CreekbedError) -> None:
        raise error

    def note_air(self) -> None:
        """Once an hour, note the storage room's air where its devices are connected; silent when they do not answer."""
        if not (self.ports.get("thermometer") and self.ports.get("hygrometer")) or self.airing is not None:
            return
        from creekbed.devices.meter import Meter
        from creekbed.window.shared.background_task import Ask
        from creekbed.workshop.shop.room_climate import HOURLY, last_air, log_air

        last = last_air(self.frame.shop)
        if last is not None and self.frame.shop.now - last < HOURLY:
            return
        ports = self.ports["thermometer"], self.ports["hygrometer"]

        def noted(values: tuple[float, float] | None) -> None:
            asked, self.airing = self.airing, None
            if asked is not None:
                asked.wait()
            if values is not None:
                self.frame.do(lambda: log_air(self.frame.shop, values[0], values[1] / 100, "devices"))

        self.airing = Ask(lambda: (Meter("thermometer", ports[0]).read(), Meter("hygrometer", ports[1]).read()))
        self.airing.answered.connect(noted)
        self.airing.failed.connect(lambda problem: noted(None))
        self.airing.start()
