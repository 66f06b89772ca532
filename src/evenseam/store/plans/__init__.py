"""Plans as they are kept and handed out: one serialisation, and every form a plan was ever kept in can still be read."""

from typing import Any

from pydantic import TypeAdapter, ValidationError

from evenseam.core.plan.model import PLAN_VERSION, Plan
from evenseam.store.errors import FitUnreadableError
from evenseam.store.plans.upgrades import UPGRADES

_plans = TypeAdapter(Plan)


def stored_plan(plan: Plan) -> dict[str, Any]:
    """A plan as JSON values, with its version; read back by `read_plan`."""
    return {"version": PLAN_VERSION, **_plans.dump_python(plan, mode="json")}


def read_plan(stored: dict[str, Any]) -> Plan:
    """A plan from what was kept of it by this version or an earlier one. Raises: FitUnreadableError."""
    version = stored.get("version")
    if not isinstance(version, int) or not 1 <= version <= PLAN_VERSION:
        raise FitUnreadableError("This fit was made by a later version. Fit the cue again.")
    try:
        for upgrade in UPGRADES[version - 1 :]:
            stored = upgrade(stored)
        return _plans.validate_python(stored)
    except (ValidationError, LookupError, TypeError, ValueError) as error:
        raise FitUnreadableError("This fit is damaged and cannot be opened. Fit the cue again.") from error
