"""Starts Uhrwerk with the made-up kinds: `python -m tests.kinds.serve ARGS`, as `uhrwerk ARGS`."""

import sys

from tests.kinds import collet, highest, names, swaying, turnstile
from uhrwerk.cli import main

for kind in (collet, turnstile, highest, swaying, names):
    kind.register()

if __name__ == "__main__":
    sys.exit(main())
