"""A process that has imported Uhrwerk already and forks servers from itself: each is a process of its own, that can be killed
as any other, but need not read its modules again. `python -m tests.nursery`: one JSON line in a server, its pid a line out.
"""

from __future__ import annotations

import json
import os
import signal
import subprocess
import sys
from pathlib import Path

ROOT = Path(__file__).parent.parent


class Nursery:
    """Starts servers as forks of one process that is ready."""

    def __init__(self) -> None:
        command = [sys.executable, "-m", "tests.nursery"]
        self.process = subprocess.Popen(command, stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True, cwd=ROOT)

    def start(self, arguments: list[str], out: Path, log: Path) -> int:
        """The pid of a server; what it prints goes to `out`, what it logs to `log`."""
        assert self.process.stdin is not None
        assert self.process.stdout is not None
        self.process.stdin.write(json.dumps([arguments, str(out), str(log)]) + "\n")
        self.process.stdin.flush()
        return int(self.process.stdout.readline())

    def close(self) -> None:
        assert self.process.stdin is not None
        self.process.stdin.close()
        self.process.wait(10)


def _serve() -> None:
    import uhrwerk.cli
    import uhrwerk.web.server

    signal.signal(signal.SIGCHLD, signal.SIG_IGN)  # who has ended is gone at once
    for line in sys.stdin:
        arguments, out, log = json.loads(line)
        pid = os.fork()
        if pid:
            print(pid, flush=True)
            continue
        signal.signal(signal.SIGCHLD, signal.SIG_DFL)
        for stream, path in ((1, out), (2, log)):
            handle = os.open(path, os.O_WRONLY | os.O_CREAT | os.O_APPEND)
            os.dup2(handle, stream)
            os.close(handle)
        os.close(0)
        code = 1
        try:
            code = uhrwerk.cli.main(arguments)
        finally:
            sys.stdout.flush()
            os._exit(code or 0)


if __name__ == "__main__":
    _serve()
