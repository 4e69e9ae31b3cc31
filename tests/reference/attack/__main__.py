"""python -m tests.reference.attack [count]: the whole of the attack, with what it tried."""

from __future__ import annotations

import sys

from tests.reference.attack.assemblies import attacked
from uhrwerk import Evaluator

count = int(sys.argv[1]) if len(sys.argv) > 1 else 5000
evaluator = Evaluator()
try:
    found = attacked(range(count), evaluator)
finally:
    evaluator.workshop.close()
for kind, times in sorted(found.kinds.items()):
    print(f"{times:6} {kind}")
print(f"{found.tried} mechanisms, {found.skipped} that cannot be assembled, {len(found.wrong)} wrong")
print("\n".join(found.wrong[:40]))
sys.exit(bool(found.wrong))
