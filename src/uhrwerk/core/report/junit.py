"""Verdicts as JUnit XML, for a team's own continuous integration.

The format has no standard; written is what the widely used schema of the Jenkins xUnit plugin (junit-10.xsd) permits.
"""

from __future__ import annotations

from xml.etree.ElementTree import Element, SubElement, indent, tostring

from uhrwerk.core.report.plain import plain
from uhrwerk.core.stages.evaluation import Evaluation


def as_junit(e: Evaluation) -> bytes:
    """A suite for the mechanism, a case for each requirement and one for the motion: a failure where it fails, an error where it is
    undecided or the mechanism cannot be solved."""
    suite = Element("testsuite", name=plain(e.document.name))
    cases = list(e.verdicts.values())
    motion = SubElement(suite, "testcase", classname="mechanism", name="Motion over the whole cycle")
    counts = {"failures": 0, "errors": 0}

    def result(case: Element, tag: str, words: str) -> None:
        SubElement(case, tag, message=plain(words)).text = plain(words)
        counts["failures" if tag == "failure" else "errors"] += 1

    if e.motion is None:
        result(motion, "error", "; ".join(p.words for p in e.problems) or "there is no part yet")
    elif not e.whole_cycle:
        result(motion, "failure", e.dead_point.words if e.dead_point is not None else "the cycle is not completed")
    for v in cases:
        case = SubElement(suite, "testcase", classname=v.kind, name=plain(v.name))
        if v.holds is not True:
            result(case, "error" if v.holds is None else "failure", v.words)
        elif v.words:
            SubElement(case, "system-out").text = plain(v.words)
    suite.set("tests", str(len(cases) + 1))
    for key, count in counts.items():
        suite.set(key, str(count))
    suite.set("time", f"{e.seconds:.3f}")
    root = Element("testsuites")
    root.append(suite)
    indent(root)
    text: bytes = tostring(root, encoding="utf-8")
    return b'<?xml version="1.0" encoding="UTF-8"?>\n' + text + b"\n"
