"""Couplings: elements that fit each other, one file a family."""

from uhrwerk.core.elements.couplings.jaws import JawHub, JawStar

COUPLINGS = (JawHub, JawStar)

__all__ = ["COUPLINGS", "JawHub", "JawStar"]
