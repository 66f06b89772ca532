"""Documents made from declarations: what the core says of a field becomes one of Pydantic, with its range, words and unit."""

from collections.abc import Mapping
from typing import Any

from pydantic import BaseModel, ConfigDict, Field, create_model

from evenseam.core.plan.asks import Declared


class Document(BaseModel):
    """Base of what is kept as JSON: nothing else than its fields, and never changed."""

    model_config = ConfigDict(extra="forbid", frozen=True)


def document_of(name: str, declared: Mapping[str, Declared]) -> Any:
    """A base for a document that has the declared fields. Numbers are numbers there, and no text that looks like one."""
    fields: dict[str, Any] = {field: (one.kind, _field(one)) for field, one in declared.items()}
    return create_model(name, __base__=Document, **fields)


def _field(one: Declared) -> Any:
    ask, is_number = one.ask, one.ask.low is not None
    more = {"unit": ask.unit, "after": ask.after, "usual": ask.usual, "choices": dict(ask.choices)}
    said: dict[str, Any] = {f"x-{key}": value for key, value in more.items() if value}
    limits: dict[str, Any] = {"ge": ask.low, "le": ask.high, "strict": True} if is_number else {}
    return Field(one.default, title=ask.label, description=f"{ask.words}.", json_schema_extra=said, **limits)
