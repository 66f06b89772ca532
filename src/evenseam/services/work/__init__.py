"""Kinds of long work, one file each: a file that defines `KIND` is all that a new one takes."""

from importlib import import_module
from pkgutil import iter_modules

from evenseam.jobs.kinds import JobKind
from evenseam.services.context import Context


def kinds_of_work(context: Context) -> dict[str, JobKind]:
    """Every kind, by name, for one application."""
    modules = (import_module(f"{__name__}.{found.name}") for found in iter_modules(__path__))
    kinds: list[JobKind] = [module.KIND(context) for module in modules]
    return {kind.name: kind for kind in kinds}
