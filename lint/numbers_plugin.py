"""A plugin of the type checker: `Numbers[Pin]` has the fields of `Pin` and no others, so that a misspelt one is an error."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from mypy.errorcodes import ATTR_DEFINED
from mypy.nodes import TypeInfo, Var
from mypy.plugin import AttributeContext, Plugin
from mypy.types import AnyType, Instance, LiteralType, Type, TypeOfAny, get_proper_type

NUMBERS, MODEL = "uhrwerk.core.field.numbers.Numbers", "uhrwerk.core.field.validation.Model"
#: plain types of fields, which stay as they are
PLAIN = ("builtins.bool", "builtins.int")


class NumbersPlugin(Plugin):
    def get_attribute_hook(self, fullname: str) -> Callable[[AttributeContext], Type] | None:
        owner, _, name = fullname.rpartition(".")
        return partial(_field, name) if owner == NUMBERS else None


def _field(name: str, context: AttributeContext) -> Type:
    numbers = get_proper_type(context.type)
    model = get_proper_type(numbers.args[0]) if isinstance(numbers, Instance) and numbers.args else None
    if not isinstance(model, Instance) or model.type.fullname == MODEL:
        return context.default_attr_type
    kind = model.type.get("kind")
    if kind is not None and isinstance(kind.node, Var) and not isinstance(get_proper_type(kind.node.type), LiteralType):
        return context.default_attr_type  # the base of several kinds: which one is known when it runs
    symbol = model.type.get(name)
    if symbol is None or not isinstance(symbol.node, Var):
        context.api.fail(f'"{model.type.name}" has no field "{name}"', context.context, code=ATTR_DEFINED)
        return AnyType(TypeOfAny.from_error)
    return _numbers_of(symbol.node.type, numbers) or context.default_attr_type


def _numbers_of(stated: Type | None, numbers: Type) -> Type | None:
    """What a field of a type becomes: numbers of a model for the model; None where it is a formula, text or one of several kinds."""
    kind = get_proper_type(stated)
    if not isinstance(kind, Instance) or not isinstance(numbers, Instance):
        return None
    if kind.type.fullname in PLAIN:
        return kind
    if _is_model(kind.type):
        return numbers.copy_modified(args=[kind])
    if kind.type.fullname == "builtins.dict" and (inner := _numbers_of(kind.args[1], numbers)) is not None:
        return kind.copy_modified(args=[kind.args[0], inner])
    return None


def _is_model(info: TypeInfo) -> bool:
    return any(base.fullname == MODEL for base in info.mro)


def plugin(version: str) -> type[Plugin]:
    return NumbersPlugin
