"""``python -m creekbed``."""

import sys

from creekbed.cli.main import main

if __name__ == "__main__":
    sys.exit(main())
