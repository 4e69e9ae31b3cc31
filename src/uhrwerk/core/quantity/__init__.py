"""Numbers with units: formulas, named parameters and their order of dependency. SI inside."""

from uhrwerk.core.quantity.formula import FormulaError, is_plain, names_in, quantity, value
from uhrwerk.core.quantity.parameters import Scope, order
from uhrwerk.core.quantity.units import DIMENSIONS, SI, display, in_unit, length_text, ureg

__all__ = [
    "DIMENSIONS",
    "SI",
    "FormulaError",
    "Scope",
    "display",
    "in_unit",
    "is_plain",
    "length_text",
    "names_in",
    "order",
    "quantity",
    "ureg",
    "value",
]
