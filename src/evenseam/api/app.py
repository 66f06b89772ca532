"""The application: everything is opened in its lifespan and closed after it."""

import asyncio
import logging
import threading
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from pathlib import Path

from fastapi import FastAPI
from fastapi.responses import FileResponse, HTMLResponse
from fastapi.staticfiles import StaticFiles
from starlette.exceptions import HTTPException

from evenseam import __version__
from evenseam.api import problems
from evenseam.api.documentation import documentation
from evenseam.api.doors import Doors, names_of
from evenseam.api.routers import catalogue as catalogue_router
from evenseam.api.routers import corrections, cues, fits, jobs, pictures, productions, programmes, sheets, tempo_maps, tracks
from evenseam.api.routers import tempi as tempo
from evenseam.jobs.events import EventBus, Relay
from evenseam.jobs.instance import clear_scratch, instance_id
from evenseam.jobs.runner import JobRunner
from evenseam.services.catalogue_client import CatalogueClient
from evenseam.services.context import Context
from evenseam.services.fitting import warm_up
from evenseam.services.planners import PlannerPool
from evenseam.services.playing import Previews
from evenseam.services.sweeping import sweep
from evenseam.services.tracks import listen_to_outdated
from evenseam.services.work import kinds_of_work
from evenseam.settings import Settings
from evenseam.store.database import Database
from evenseam.store.media import MediaStore

_log = logging.getLogger(__name__)
_FIRST_SWEEP_AFTER_S, _SWEEP_EVERY_S = 600.0, 6 * 3600.0  # not beside the work of a start


def create_app(settings: Settings, database_url: str) -> FastAPI:
    """Build the application; nothing is opened yet."""

    @asynccontextmanager
    async def lifespan(app: FastAPI) -> AsyncIterator[None]:
        clear_scratch(settings)
        events, database = EventBus(), Database(database_url)
        events.bind(asyncio.get_running_loop())
        media = MediaStore(settings.media_location, settings.scratch_dir / "cache")
        process = instance_id(settings)
        relay = Relay(database, events, process)
        runner = JobRunner(settings, database, events, process)
        catalogue = CatalogueClient(settings.catalogue_location, settings.catalogue_wait_s)
        previews = Previews(settings.scratch_dir)
        context = app.state.context = Context(
            settings, database, media, events, runner, PlannerPool(media), previews, catalogue
        )
        await asyncio.to_thread(relay.start)
        await runner.start(kinds_of_work(context))
        await asyncio.to_thread(listen_to_outdated, app.state.context)
        threading.Thread(target=warm_up, args=(app.state.context,), daemon=True).start()
        sweeping = asyncio.create_task(_sweep_now_and_then(context))
        yield
        sweeping.cancel()
        await runner.stop()
        await asyncio.to_thread(relay.close)
        await context.catalogue.close()
        await asyncio.to_thread(previews.close)
        database.dispose()

    app = FastAPI(
        title="Even Seam",
        version=__version__,
        lifespan=lifespan,
        responses=problems.PROBLEMS,
        docs_url=None,
        redoc_url=None,
        openapi_url="/api/openapi.json",
    )
    problems.install(app)
    app.add_middleware(Doors, names=names_of(settings), who_header=settings.who_header)
    for part in (
        productions,
        pictures,
        sheets,
        tempo,
        tempo_maps,
        cues,
        fits,
        programmes,
        tracks,
        corrections,
        catalogue_router,
        jobs,
    ):
        app.include_router(part.router)

    @app.get("/api/health", operation_id="health", tags=["service"])
    def health() -> dict[str, str]:
        """Whether the server runs."""
        return {"status": "ok", "version": __version__}

    @app.get("/api/docs", include_in_schema=False)
    def docs() -> HTMLResponse:
        return HTMLResponse(documentation(app.openapi()))

    _serve_front_end(app, settings.web_dir)
    return app


async def _sweep_now_and_then(context: Context) -> None:
    """Free what nobody uses, beside everything else."""
    await asyncio.sleep(_FIRST_SWEEP_AFTER_S)
    while True:
        try:
            await asyncio.to_thread(sweep, context)
        except Exception:  # a file that cannot be removed today can be tomorrow
            _log.exception("what nobody uses could not be removed")
        await asyncio.sleep(_SWEEP_EVERY_S)


def _serve_front_end(app: FastAPI, web_dir: Path) -> None:
    """The built front end: files as they are, every other path is a page of it."""
    if (web_dir / "assets").is_dir():
        app.mount("/assets", StaticFiles(directory=web_dir / "assets"), name="assets")

    @app.get("/{path:path}", include_in_schema=False)
    def page(path: str) -> FileResponse:
        if path.startswith("api/") or not (web_dir / "index.html").is_file():
            raise HTTPException(404)
        try:
            wanted = (web_dir / path).resolve()
            is_file = bool(path) and wanted.is_file() and wanted.is_relative_to(web_dir.resolve())
        except (OSError, ValueError):  # no file can be called this
            raise HTTPException(404) from None
        if is_file:
            return FileResponse(wanted)
        return FileResponse(web_dir / "index.html", headers={"Cache-Control": "no-cache"})
