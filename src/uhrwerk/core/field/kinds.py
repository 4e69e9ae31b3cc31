"""Kinds: models told apart by their `kind`, each registered by the module that defines it.

A field marked with `Kinds` takes any kind that is registered when it is read, so that a new one is one new file: nothing
else lists them.

>>> from typing import Annotated, Literal
>>> from uhrwerk.core.field.validation import Model
>>> SHAPES = Kinds("shape")
>>> @SHAPES.register
... class Ball(Model):
...     kind: Literal["ball"] = "ball"
>>> class Box(Model):
...     inside: Annotated[Model, SHAPES]
>>> Box(inside={"kind": "ball"}).inside
Ball(kind='ball')
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from typing import Any, Generic, TypeVar

from pydantic import GetCoreSchemaHandler, GetJsonSchemaHandler, SerializationInfo, ValidationError
from pydantic_core import PydanticCustomError, core_schema

from uhrwerk.core.field.validation import Model

#: beside a kind alone in plain data: the data of the other kind in whose place it comes
LIKE = "in place of"

M = TypeVar("M", bound=Model)
K = TypeVar("K", bound=type[Model])


class Kinds(Mapping[str, type[M]], Generic[M]):
    """Models by kind, in the order of registering; `what` they are, for a refusal."""

    def __init__(self, what: str) -> None:
        self.what = what
        self._models: dict[str, type[M]] = {}
        self._telling = False

    def register(self, model: K) -> K:
        """Takes up a model, as a decorator of its class. ValueError where its kind is taken."""
        kind = model.model_fields["kind"].default  # type: ignore[call-overload]
        if not isinstance(kind, str) or kind in self._models:
            raise ValueError(f"{self.what}: the kind {kind!r} of {model.__name__} is missing or taken")
        self._models[kind] = model  # type: ignore[assignment]
        return model

    def drop(self, kind: str) -> None:
        """Forgets a kind again, as a test does with what it made up."""
        del self._models[kind]

    def __getitem__(self, kind: str) -> type[M]:
        return self._models[kind]

    def __iter__(self) -> Iterator[str]:
        return iter(self._models)

    def __len__(self) -> int:
        return len(self._models)

    def __hash__(self) -> int:
        return id(self)

    def _read(self, data: Any) -> M:
        if isinstance(data, Model):
            if type(data) in self._models.values():
                return data  # type: ignore[return-value]
        elif isinstance(data, Mapping):
            kind = data.get("kind")
            if isinstance(kind, str) and kind in self._models:
                return self._like(self._models[kind], data) if LIKE in data else self._models[kind].model_validate(data)
            known = ", ".join(self._models)
            raise PydanticCustomError(
                "kind", "{words}", {"words": f"there is no {self.what} of kind {kind!r}: {known}"}
            )
        raise PydanticCustomError("kind", "{words}", {"words": f"must be an object with the kind of {self.what}"})

    @staticmethod
    def _like(model: type[M], data: Mapping[str, Any]) -> M:
        shared = model.from_other_kind(data[LIKE])
        try:
            return model.model_validate({"kind": data["kind"], **shared})
        except ValidationError:  # what both have by one name is not of one sort
            return model.model_validate({"kind": data["kind"]})

    def __get_pydantic_core_schema__(self, source: Any, handler: GetCoreSchemaHandler) -> core_schema.CoreSchema:
        def written(model: Model, info: SerializationInfo) -> dict[str, Any]:
            return model.model_dump(mode=info.mode)

        return core_schema.no_info_plain_validator_function(
            self._read,
            serialization=core_schema.plain_serializer_function_ser_schema(written, info_arg=True),
        )

    def __get_pydantic_json_schema__(
        self, schema: core_schema.CoreSchema, handler: GetJsonSchemaHandler
    ) -> dict[str, Any]:
        if self._telling:  # kinds that hold others of their own: below the first, a schema tells their kind alone
            return {"type": "object", "required": ["kind"], "properties": {"kind": {"enum": list(self._models)}}}
        self._telling = True
        try:
            members = {kind: handler(model.__pydantic_core_schema__) for kind, model in self._models.items()}
        finally:
            self._telling = False
        mapping = {kind: one["$ref"] for kind, one in members.items() if "$ref" in one}
        return {"oneOf": list(members.values()), "discriminator": {"propertyName": "kind", "mapping": mapping}}
