"""What a kind of long work is. The kinds themselves are in `services/work`, one file each."""

from abc import ABC, abstractmethod
from collections.abc import Callable
from typing import Any, ClassVar

from sqlalchemy.orm import Session

from evenseam.jobs.worker import MediaPlace
from evenseam.store.models import Job

Call = Callable[[], Any]
Afterwards = Callable[[], None]


def nothing() -> None:
    """Nothing is left to do."""


class JobKind(ABC):
    """One kind of job: what a worker is to run for it, and what becomes of what it returns.

    `prepare` runs when a job is handed out, `settle` when its work has come back, without holding anything. `keep` and
    `refuse` run in the transaction that ends the job, with its production held: what they write is there once, or not at
    all. They return what is to be done after the commit, which may be lost if the process ends: events, files to remove.
    """

    name: ClassVar[str]
    is_urgent: ClassVar[bool] = False  # somebody waits for it: it comes before others

    @abstractmethod
    def prepare(self, session: Session, job: Job, place: MediaPlace) -> Call:
        """The call for a worker: picklable, names and values only. Raises: NotFoundError when its subject is gone."""

    def settle(self, job_id: int, result: Any) -> Any:  # noqa: ARG002
        """What takes long and needs no row, before anything is held. Returns: what is to be kept."""
        return result

    @abstractmethod
    def keep(self, session: Session, job: Job, result: Any) -> Afterwards:
        """Keep what a worker returned. Raises: EvenSeamError when it is no use after all; the job fails with its words."""

    def refuse(self, session: Session, job: Job, reason: str) -> Afterwards:  # noqa: ARG002
        """Whatever follows from an input that is no use."""
        return nothing
