"""A camera that hands out one picture when asked over HTTP, as cameras on a local network do.

Only addresses of this machine and of private networks are asked, and no redirection is followed: the address comes
from the shop's own settings, and nothing else shall be fetched.
"""

from __future__ import annotations

import http.client
import ipaddress
import urllib.error
import urllib.parse
import urllib.request
from email.message import Message
from typing import IO

from creekbed.core.errors import DeviceProblem

LARGEST_BYTES = 40_000_000


class _Stay(urllib.request.HTTPRedirectHandler):
    def redirect_request(
        self, req: urllib.request.Request, fp: IO[bytes], code: int, msg: str, headers: Message, newurl: str
    ) -> None:
        return None


class Camera:
    """The driver.

    Args:
        address: ``http://`` address of a still picture. timeout_s: how long to wait.
    """

    def __init__(self, address: str, timeout_s: float = 5.0):
        self.address = address
        self.timeout_s = timeout_s

    def take(self) -> bytes:
        """One picture as the camera sends it; it is not looked at here.

        Raises:
            DeviceProblem: an address that is not near, no answer, or more than a photograph.
        """
        self._need_near()
        opener = urllib.request.build_opener(urllib.request.ProxyHandler({}), _Stay())
        try:
            with opener.open(self.address, timeout=self.timeout_s) as answer:
                data = answer.read(LARGEST_BYTES + 1)
        except (urllib.error.URLError, http.client.HTTPException, OSError, ValueError) as error:
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
        return bytes(data)

    def _need_near(self) -> None:
        parts = urllib.parse.urlsplit(self.address)
        host = parts.hostname or ""
        try:
            near = host == "localhost" or ipaddress.ip_address(host).is_private
        except ValueError:
            near = host.endswith(".local")
        if parts.scheme != "http" or not near:
            raise DeviceProblem(
                "The camera's address is not one of this room.", safe="Nothing was asked.",
                todo="Use its http address in the shop's own network, such as http://192.168.0.20/still.jpg.",
            )  # fmt: skip
