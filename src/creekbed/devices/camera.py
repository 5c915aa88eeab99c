"""A camera that hands out one picture when asked over HTTP, as cameras on a local network do.

Only addresses of this machine and of private networks are asked, and no redirection is followed: the address comes
from the shop's own settings, and nothing else shall be fetched.
"""

from __future__ import annotations

import http.client
import socket
import threading
import urllib.parse

from creekbed.core.errors import DeviceProblem
from creekbed.devices.nearby import is_near, path_of

LARGEST_BYTES = 40_000_000
WHOLE_S = 10.0
"""A picture is there in so many seconds, from the first to the last byte, or it is given up: house default."""


class Camera:
    """The driver.

    Args:
        address: ``http://`` address of a still picture. timeout_s: how long it may be silent.
        whole_s: how long the whole picture may take.
    """

    def __init__(self, address: str, timeout_s: float = 5.0, whole_s: float = WHOLE_S):
        self.address = address
        self.timeout_s = timeout_s
        self.whole_s = whole_s
        self._line: socket.socket | None = None
        self._left = False

    def take(self) -> bytes:
        """One picture as the camera sends it; it is not looked at here.

        Raises:
            DeviceProblem: an address that is not near, no answer, none in time, or more than a photograph.
        """
        self._need_near()
        parts = urllib.parse.urlsplit(self.address)
        try:
            host = http.client.HTTPConnection(parts.hostname or "", parts.port, timeout=self.timeout_s)
            host.connect()
            self._line, self._left = host.sock, False
            deadline = threading.Timer(self.whole_s, self.leave)
            deadline.daemon = True
            deadline.start()
            try:
                data = self._read(host, path_of(self.address))
            finally:
                deadline.cancel()
                self._line = None
                host.close()
        except (http.client.HTTPException, OSError, ValueError) as error:
            raise DeviceProblem(
                "The camera does not answer.", safe="Nothing was recorded.",
                todo="Look at its plug and address, or take the picture from a file.", detail=str(error),
            ) from error  # fmt: skip
        if len(data) > LARGEST_BYTES:
            raise DeviceProblem(
                "The camera sent more than a photograph.",
                safe="Nothing was recorded.",
                todo="Set it to still pictures.",
            )
        return data

    def _read(self, host: http.client.HTTPConnection, what: str) -> bytes:
        host.request("GET", what)
        answer = host.getresponse()
        if answer.status != 200:  # also a redirection, which is not followed
            raise http.client.HTTPException(f"status {answer.status}")
        data = answer.read(LARGEST_BYTES + 1)
        if self._left or (answer.length and len(data) <= LARGEST_BYTES):
            raise http.client.HTTPException(f"{len(data)} bytes of it came")
        return data

    def leave(self) -> None:
        """Give up what is being read; may be called from another thread."""
        line, self._left = self._line, True
        if line is not None:
            try:
                line.shutdown(socket.SHUT_RDWR)
            except OSError:
                return  # it is closed already

    def _need_near(self) -> None:
        if not is_near(self.address):
            raise DeviceProblem(
                "The camera's address is not one of this room.", safe="Nothing was asked.",
                todo="Use its http address in the shop's own network, such as http://192.168.0.20/still.jpg.",
            )  # fmt: skip
