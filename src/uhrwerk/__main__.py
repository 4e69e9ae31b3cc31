"""`python -m uhrwerk`."""

import sys

from uhrwerk.cli import main

if __name__ == "__main__":
    sys.exit(main())
