"""What the files of shell commands share: how a command is added, and how its answer is printed."""

from __future__ import annotations

import argparse
import json
import math
import re
from collections.abc import Callable, Sequence
from typing import Any

Add = Callable[[str, Callable[[argparse.Namespace], int], str], argparse.ArgumentParser]
"""Makes a command from its name, what it runs, and its help."""


def plain_number(text: str) -> float:
    """A plain number of an option, also with a true minus sign; argparse makes a usage error of ``ValueError``."""
    value = float(text.replace("−", "-"))
    if not math.isfinite(value):
        raise ValueError(text)
    return value


def with_minus(arguments: Sequence[str]) -> list[str]:
    """Arguments in which a negative number begins with a true minus sign, so that nobody takes it for an option."""
    return ["−" + a[1:] if _NEGATIVE.match(a) else a for a in arguments]


_NEGATIVE = re.compile(r"-[0-9.,]")


def show(given: argparse.Namespace, facts: dict[str, Any], words: str, sure: str = "") -> int:
    """Print the facts as JSON where that is wanted, else the words, and how numbers without a unit were read.

    Args:
        sure: the kind of number, of ``core/trust``: how far it may be trusted is told too.

    Returns:
        The exit status.
    """
    if sure:
        from creekbed.core.trust import trust

        found = trust(sure)
        facts = facts | {"trust": {"basis": found.basis, "words": found.words}}
        words = f"{words}\nHow sure: {found.basis}. {found.words}"
    bare = list(dict.fromkeys(getattr(given, "bare", ())))
    if bare:
        facts, words = facts | {"read_as": bare}, "\n".join([words, *bare])
    print(json.dumps(facts, ensure_ascii=False, indent=1) if given.json else words)
    return 0
