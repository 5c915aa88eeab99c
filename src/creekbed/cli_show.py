"""What the files of shell commands share: how a command is added, and how its answer is printed."""

from __future__ import annotations

import argparse
import json
from collections.abc import Callable
from typing import Any

Add = Callable[[str, Callable[[argparse.Namespace], int], str], argparse.ArgumentParser]
"""Makes a command from its name, what it runs, and its help."""


def show(given: argparse.Namespace, facts: dict[str, Any], words: str) -> int:
    """Print the facts as JSON where that is wanted, else the words; the exit status."""
    print(json.dumps(facts, ensure_ascii=False, indent=1) if given.json else words)
    return 0
