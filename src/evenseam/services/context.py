"""What every use case is handed."""

from dataclasses import dataclass

from evenseam.jobs.events import EventBus
from evenseam.jobs.runner import JobRunner
from evenseam.services.catalogue_client import CatalogueClient
from evenseam.services.planners import PlannerPool
from evenseam.services.playing import Previews
from evenseam.settings import Settings
from evenseam.store.database import Database
from evenseam.store.media import MediaStore


@dataclass(frozen=True, slots=True)
class Context:
    """The parts of a running application."""

    settings: Settings
    database: Database
    media: MediaStore
    events: EventBus
    jobs: JobRunner
    planners: PlannerPool
    previews: Previews
    catalogue: CatalogueClient
