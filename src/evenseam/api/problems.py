"""Errors as application/problem+json (RFC 9457)."""

import errno
import logging
from typing import Any

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from pydantic import BaseModel
from sqlalchemy.exc import DBAPIError, InterfaceError, OperationalError
from starlette.exceptions import HTTPException

from evenseam.core.errors import DiskFullError, EvenSeamError

_log = logging.getLogger(__name__)
_STATUS = {
    "not_found": 404,
    "not_ready": 409,
    "conflict": 409,
    "stale": 409,
    "shots_unknown": 409,
    "fit_unreadable": 409,
    "nothing_to_undo": 409,
    "no_plan": 422,
    "brief_invalid": 422,
    "stretch_refused": 422,
    "correction_refused": 422,
    "time_unreadable": 422,
    "audio_unreadable": 415,
    "film_unreadable": 415,
    "spot_invalid": 422,
    "starts_elsewhere": 422,
    "too_large": 413,
    "disk_full": 507,
    "upload_broken": 400,
    "licence_refused": 403,
    "not_from_here": 403,
    "catalogue_failed": 502,
    "catalogue_slow": 504,
}
_MEDIA_TYPE = "application/problem+json"


class Problem(BaseModel):
    """What went wrong, for programs (`code`, `params`) and for people (`detail` says what to do)."""

    code: str
    title: str
    status: int
    detail: str
    params: dict[str, Any] = {}


PROBLEMS: dict[int | str, dict[str, Any]] = {
    "4XX": {"model": Problem, "description": "Refused, with the reason"},
    "5XX": {"model": Problem, "description": "Failed on our side"},
}


class UploadBrokenError(EvenSeamError):
    """An upload ended before its end."""

    code = "upload_broken"


def problem_of(error: EvenSeamError) -> Problem:
    """An error as a problem."""
    status = _STATUS.get(error.code, 422)
    return Problem(code=error.code, title=error.code.replace("_", " "), status=status, detail=error.detail, params=error.params)


def problem_answer(error: EvenSeamError) -> JSONResponse:
    """An error as it goes out."""
    return _answer(problem_of(error))


def _answer(problem: Problem) -> JSONResponse:
    return JSONResponse(problem.model_dump(mode="json"), problem.status, media_type=_MEDIA_TYPE)


def install(app: FastAPI) -> None:
    """One handler for each root of errors."""

    @app.exception_handler(EvenSeamError)
    async def refused(_: Request, error: EvenSeamError) -> JSONResponse:
        return _answer(problem_of(error))

    @app.exception_handler(OperationalError)
    @app.exception_handler(InterfaceError)
    async def database_away(_: Request, error: DBAPIError) -> JSONResponse:
        _log.warning("the database said no: %s", error.orig)
        answer = _answer(
            Problem(
                code="database_away",
                title="database away",
                status=503,
                detail="The database does not answer at the moment. Nothing was changed; try again in a few seconds.",
            )
        )
        answer.headers["Retry-After"] = "2"
        return answer

    @app.exception_handler(RequestValidationError)
    async def invalid(_: Request, error: RequestValidationError) -> JSONResponse:
        first = error.errors()[0]
        where = ".".join(str(part) for part in first["loc"] if part not in ("body", "query", "path"))
        detail = f"{where or 'The request'}: {first['msg']}."
        return _answer(Problem(code="request_invalid", title="request invalid", status=422, detail=detail))

    @app.exception_handler(HTTPException)
    async def plain(_: Request, error: HTTPException) -> JSONResponse:
        detail = "There is nothing at this address." if error.status_code == 404 else str(error.detail)
        return _answer(
            Problem(code=f"http_{error.status_code}", title="request refused", status=error.status_code, detail=detail)
        )

    @app.exception_handler(OSError)
    async def disk(_: Request, error: OSError) -> JSONResponse:
        if error.errno in (errno.ENOSPC, errno.EDQUOT):
            return _answer(problem_of(DiskFullError("The disk is full. Free some space and try again; nothing was lost.")))
        _log.error("unexpected system error", exc_info=error)
        return _answer(_our_fault())

    @app.exception_handler(Exception)
    async def unexpected(_: Request, error: Exception) -> JSONResponse:
        _log.error("unexpected error", exc_info=error)
        return _answer(_our_fault())


def _our_fault() -> Problem:
    detail = "Something went wrong inside Even Seam. Nothing was lost; try again. The log has the details."
    return Problem(code="internal", title="internal error", status=500, detail=detail)
