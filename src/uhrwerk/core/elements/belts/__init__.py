"""Pulleys and sprockets, one file each."""

from uhrwerk.core.elements.belts.pulley import Pulley
from uhrwerk.core.elements.belts.sprocket import Sprocket
from uhrwerk.core.elements.belts.toothed_pulley import ToothedPulley

BELTS = (Pulley, ToothedPulley, Sprocket)

__all__ = ["BELTS", "Pulley", "Sprocket", "ToothedPulley"]
