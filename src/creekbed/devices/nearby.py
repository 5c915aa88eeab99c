"""Which addresses a device may have: only what is on this machine or in the shop's own network is asked."""

from __future__ import annotations

import ipaddress
import urllib.parse


def is_near(address: str) -> bool:
    """Whether an http address is one of this machine or of a private network."""
    try:
        parts = urllib.parse.urlsplit(address)
        host = parts.hostname or ""
    except ValueError:
        return False
    try:
        near = host == "localhost" or ipaddress.ip_address(host).is_private
    except ValueError:
        near = host.endswith(".local")
    return parts.scheme == "http" and near


def path_of(address: str) -> str:
    """What to ask the host of an address for."""
    parts = urllib.parse.urlsplit(address)
    return f"{parts.path or '/'}{'?' + parts.query if parts.query else ''}"
