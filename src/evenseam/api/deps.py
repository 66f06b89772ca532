"""What handlers are handed."""

from typing import Annotated

from fastapi import Depends, Request

from evenseam.services.context import Context


def _context(request: Request) -> Context:
    found: Context = request.app.state.context
    return found


ContextDep = Annotated[Context, Depends(_context)]
