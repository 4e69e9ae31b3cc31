"""python -m tests.reference.attack [count] [first seed]: the whole of the attack, on all cores, with what it tried."""

from __future__ import annotations

import multiprocessing
import os
import sys
from concurrent.futures import ProcessPoolExecutor

from tests.reference.attack.run import Tally, share

#: seeds that one evaluator is required
SHARE = 50


def main() -> int:
    stated = [int(x) for x in sys.argv[1:]]
    count, first = (*stated, *(5000, 0)[len(stated) :])
    whole, seeds = Tally(), [range(k, min(k + SHARE, first + count)) for k in range(first, first + count, SHARE)]
    spawn = multiprocessing.get_context("spawn")
    with ProcessPoolExecutor(os.cpu_count(), mp_context=spawn) as pool:
        for done, tally in enumerate(pool.map(share, seeds), 1):
            whole.take(tally)
            print(
                f"{done * SHARE} of {count}: {whole.tried} tried, {whole.skipped} not, {len(whole.wrong)} wrong",
                flush=True,
            )
            print("\n".join(tally.wrong), end="\n" * bool(tally.wrong), flush=True)
    for kind, times in sorted(whole.kinds.items()):
        seconds = whole.seconds.get(kind.removeprefix("case "), 0.0)
        print(f"{times:6} {kind}" + (f", {seconds / times:.2f} s each" if kind.startswith("case ") else ""))
    print(f"{whole.tried} mechanisms, {whole.skipped} that cannot be assembled or are none, {len(whole.wrong)} wrong")
    return int(bool(whole.wrong))


if __name__ == "__main__":
    sys.exit(main())
