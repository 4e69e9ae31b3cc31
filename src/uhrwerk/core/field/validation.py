"""What a designer states: plain, immutable models, and the refusal of what cannot be accepted."""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import Annotated, Any

from pydantic import BaseModel, BeforeValidator, ConfigDict, StringConstraints

Id = Annotated[str, StringConstraints(pattern=r"^[a-z][a-z0-9_]{0,39}$")]
#: characters that no file format of text can hold (XML 1.0, section 2.2), and line ends: a name is one line
_UNWRITABLE = re.compile(r"\s*[\x00-\x1f\x7f\ud800-\udfff\ufffe\uffff\u2028\u2029]+\s*")


def _clean(text: Any) -> Any:
    return _UNWRITABLE.sub(" ", text) if isinstance(text, str) else text


Name = Annotated[str, BeforeValidator(_clean), StringConstraints(min_length=1, max_length=80, strip_whitespace=True)]


@dataclass(frozen=True)
class ShownAsWritten:
    """Marks text that is shown and changed as it is written."""


class SeveralLines:
    """Marks a text of several lines."""


class ValidationFailed(ValueError):
    """A document or command that cannot be accepted: the path of each field at fault and the reason."""

    def __init__(self, *faults: tuple[str, str]) -> None:
        self.faults = list(faults)
        super().__init__("; ".join(f"{path}: {reason}" for path, reason in faults))


class Model(BaseModel):
    """Base of everything a designer states, without fields that we do not know."""

    model_config = ConfigDict(extra="forbid", frozen=True, str_max_length=2000)

    def conflicts(self) -> Iterable[tuple[str, str]]:
        """Fields that contradict one another whatever else the document says, and why."""
        return ()

    @classmethod
    def from_other_kind(cls, other: Mapping[str, Any]) -> dict[str, Any]:
        """What is kept of the data of another kind in whose place this one comes: fields that both have by one name."""
        return {name: other[name] for name in cls.model_fields if name in other and name != "kind"}
