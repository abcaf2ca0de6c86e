"""``python -m tonleiter.cli``."""

import sys

from tonleiter.cli.main import main

if __name__ == "__main__":
    sys.exit(main())
