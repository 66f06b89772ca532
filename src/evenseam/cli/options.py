"""The options of a command made from a model: one for every field, with its words and its default."""

from collections.abc import Callable
from inspect import Parameter, signature
from typing import Annotated, Any, get_origin

import typer
from pydantic import BaseModel, ValidationError
from pydantic.fields import FieldInfo

from evenseam.core.errors import BriefError


def with_options_of(model: type[BaseModel], command: Callable[..., None], one_of: dict[str, str]) -> Callable[..., None]:
    """A command that is handed a model as `asked` as one with an option for each of its fields, in place of that.

    `one_of`: what a single one of a list is called, where its option is not called as the field is. Raises, when it is called:
    BriefError for a value that is none.
    """

    def run(**given: Any) -> None:
        fields = {name: given.pop(name) for name in model.model_fields}
        said = {name: value for name, value in fields.items() if value is not None}
        command(asked=_read(model, said), **given)

    own = [p for p in signature(command, eval_str=True).parameters.values() if p.name != "asked"]
    options = [_option(name, field, one_of.get(name, name)) for name, field in model.model_fields.items()]
    first = [p for p in (*own, *options) if p.default is Parameter.empty]
    run.__signature__ = signature(command).replace(  # type: ignore[attr-defined]
        parameters=[p.replace(kind=Parameter.KEYWORD_ONLY) for p in (*first, *(p for p in (*options, *own) if p not in first))],
        return_annotation=None,
    )
    run.__doc__ = command.__doc__
    return run


def _option(name: str, field: FieldInfo, called: str) -> Parameter:
    kind: Any = list[str] | None if get_origin(field.annotation) is tuple else field.annotation
    default = Parameter.empty if field.is_required() else None if get_origin(field.annotation) is tuple else field.default
    option = typer.Option(f"--{called.replace('_', '-')}", help=field.description)
    return Parameter(name, Parameter.KEYWORD_ONLY, default=default, annotation=Annotated[kind, option])


def _read(model: type[BaseModel], said: dict[str, Any]) -> BaseModel:
    try:
        return model(**said)
    except ValidationError as error:
        told = error.errors()[0]
        raise BriefError(f"--{'.'.join(map(str, told['loc']))}: {told['msg']}.") from error
