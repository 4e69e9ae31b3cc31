"""Two tiers of tests: `./dev test` before every commit, `./dev prove` for what is long. Which are long stands in tests/long.txt.

python tests/tiers.py LOG    writes that list from what `pytest --durations=0 -vv` printed for all tests
"""

from __future__ import annotations

import re
import sys
from collections import defaultdict
from pathlib import Path

LONG = Path(__file__).parent / "long.txt"
#: seconds of one core that all tests of `./dev test` together may take
BUDGET = 600.0
_LINE = re.compile(r"^\s*(\d+\.\d+)s (?:call|setup|teardown)\s+(tests/\S+.*?)(?:@\w+)?\s*$")

HEAD = """# Tests that `./dev prove` runs and `./dev test` does not: the longest, but the shortest of each file, as they were measured on two
# cores. Written by tests/tiers.py from a run of all.
"""


def long_tests() -> frozenset[str]:
    return frozenset(
        line for line in LONG.read_text(encoding="utf-8").splitlines() if line and not line.startswith("#")
    )


def chosen(seconds: dict[str, float]) -> list[str]:
    """Tests that are long: all but the shortest of each file, and but the shortest that fit the budget together."""
    shortest: dict[str, str] = {}
    for test in sorted(seconds, key=lambda t: seconds[t]):
        shortest.setdefault(test.partition("::")[0], test)
    spent = sum(seconds[test] for test in shortest.values())
    rest = []
    for test in sorted(set(seconds) - set(shortest.values()), key=lambda t: seconds[t]):
        spent += seconds[test]
        if spent > BUDGET:
            rest.append(test)
    return sorted(rest)


def main() -> None:
    seconds: dict[str, float] = defaultdict(float)
    for line in Path(sys.argv[1]).read_text(encoding="utf-8").splitlines():
        if found := _LINE.match(line):
            seconds[found[2]] += float(found[1])
    LONG.write_text(HEAD + "".join(f"{test}\n" for test in chosen(seconds)), encoding="utf-8")


if __name__ == "__main__":
    main()
