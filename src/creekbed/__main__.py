"""``python -m creekbed``."""

import sys

from creekbed.cli import main

sys.exit(main())
