"""What every use case is handed."""

from dataclasses import dataclass
from typing import TYPE_CHECKING

from evenseam.jobs.events import EventBus
from evenseam.jobs.runner import JobRunner
from evenseam.services.planners import PlannerPool
from evenseam.services.playing import Previews
from evenseam.settings import Settings
from evenseam.store.database import Database
from evenseam.store.media import MediaStore

if TYPE_CHECKING:
    from evenseam.services.catalogue import CatalogueClient


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
    catalogue: "CatalogueClient"
