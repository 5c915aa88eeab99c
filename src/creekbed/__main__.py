"""``python -m creekbed``, and the command ``creekbed``."""

import gc
import os
import sys


def start() -> int:
    """Run what the command line asks for.

    While the modules are loaded nothing becomes garbage, so nobody looks for any: that makes a start quicker.
    """
    gc.disable()
    os.environ.setdefault("PYDANTIC_DISABLE_PLUGINS", "__all__")  # there are none; looking for them takes long
    os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")  # small matrices; the other core is the planner's
    sys.modules["greenlet"] = None  # type: ignore[assignment]  # where it is, SQLAlchemy loads asyncio, unused here
    from creekbed.cli.main import main

    gc.freeze()
    gc.enable()
    return main()


if __name__ == "__main__":
    sys.exit(start())
