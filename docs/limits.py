"""Writes docs/limits.md from the code: what Uhrwerk takes at most, and why there.

python docs/limits.py
"""

from __future__ import annotations

from pathlib import Path

from uhrwerk.core import context
from uhrwerk.core.document import command, document, extent, repeat
from uhrwerk.core.exchange import bundle, dxf, importing, meshes, three_mf
from uhrwerk.core.quantity import formula, interval
from uhrwerk.core.solids import edges
from uhrwerk.settings import Settings
from uhrwerk.store import store
from uhrwerk.web import connections, drag_socket, jobs, security, server, services

HEAD = """# Limits

Made from the code by `docs/limits.py`; a test holds it to that. What is larger is refused by name before it is begun, or stopped; nothing is lost
by that.

| what | at most | why there |
|---|---|---|
"""


def _mb(size: float) -> str:
    return f"{size / 1e6:,.0f} MB"


def rows() -> list[tuple[str, str, str]]:
    """What is limited, to what, and why."""
    return [
        ("body of a call", _mb(security.LARGEST_BODY), "commands are small; what is large comes as a file"),
        ("file that is sent", _mb(security.LARGEST_FILE), "STEP of some thousand faces; held in memory once"),
        ("calls of one address under way", f"{security.MOST_CALLS}", "one page has a few; each may wait for an evaluation"),
        ("connections", f"{connections.MOST}", "of more, that which has waited longest without a call is closed"),
        ("seconds in which a call must come whole", f"{connections.PATIENCE:.0f}", "a connection that says nothing is closed"),
        ("bytes of a message while a part is dragged", _mb(server.LARGEST_MESSAGE), "a message is a place and a few words"),
        ("text of a document", _mb(extent.MOST_TEXT), "it is parsed in one go, in a worker"),
        ("values in a document", f"{extent.MOST_VALUES:,}", "each that is wrong has its own words: below a second in all"),
        ("values in a command", f"{command.MOST_IN_COMMAND:,}", "the same, while others are served"),
        ("depth of a document", f"{extent.DEEPEST}", "sums of outlines in sums of outlines"),
        ("placed parts with their copies", f"{repeat.MOST_PLACED:,}", "equations and pairs of them fit into memory"),
        ("copies of one repeat", f"{repeat.MOST}", "as above"),
        ("parts made from one another in a row", f"{document.DEEPEST}", "each is made anew for the next"),
        ("build steps of a part with those that it takes", f"{document.MOST_STEPS:,}", "as above"),
        ("characters of a formula", f"{formula.LONGEST}", "a line that a person reads"),
        ("intervals in which corners of a formula are sought", f"{interval.MOST:,}", "beyond that they lie too close to be told apart"),
        ("flat faces of a part that has edges as datums", f"{edges.MOST_FACES}", "more cannot be chosen from"),
        ("seconds that one solid may take", f"{Settings.model_fields['build_limit'].default:.0f}", "setting `build_limit`; the kernel may hang"),
        ("seconds that a file may take", f"{importing.SECONDS:.0f}", "a reader may hang on a broken file"),
        ("memory that reading a file may take", _mb(importing.MEMORY), "in a process of its own"),
        ("files that are read at once", f"{context.AT_ONCE}", "two cores"),
        ("faults of a file that are told", f"{importing.MOST_FAULTS}", "a person reads them"),
        ("what an archive may unfold to", _mb(bundle.UNFOLDED), "bombs unfold to gigabytes"),
        ("files in an archive", f"{bundle.FILES:,}", "as above"),
        ("what a 3MF may unfold to", _mb(three_mf.UNFOLDED), "as above"),
        ("triangles of a file", f"{meshes.TRIANGLES:,}", "their flat and round faces are sought"),
        ("solids in a file", f"{meshes.USES}", "each becomes a placed part"),
        ("open edges that are mended", f"{meshes.MENDABLE:,}", "what has more is no solid with holes"),
        ("entities of a drawing", f"{dxf.ENTITIES:,}", "the reader makes an object of each"),
        ("closed lines of a drawing", f"{dxf.LOOPS:,}", "each is looked for in each"),
        ("corners of an outline from a drawing", f"{dxf.CORNERS:,}", "each is a face"),
        ("seconds that a call waits for an evaluation", f"{services.LONGEST_WAIT:.0f}", "it holds no thread meanwhile"),
        ("seconds until a failed evaluation is begun again", f"{jobs.AGAIN:.0f}", "what was missing may be there again"),
        ("seconds that a change waits for another to be written", f"{store.BUSY_SECONDS:.0f}", "then it is refused, unchanged"),
        ("metres that a hand may name", f"{drag_socket.FARTHEST:,}", "beyond that it is an error"),
    ]  # fmt: skip


def text() -> str:
    return HEAD + "".join(f"| {what} | {most} | {why} |\n" for what, most, why in rows())


if __name__ == "__main__":
    (Path(__file__).parent / "limits.md").write_text(text(), encoding="utf-8")
