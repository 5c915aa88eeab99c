"""``python -m creekbed``."""

import sys

from creekbed.cli import main

if __name__ == "__main__":
    sys.exit(main())
