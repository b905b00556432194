"""Work in the background that is never forgotten.

A thing that wants work (a run, a touch session) counts how often it was asked and up to which of these it was settled. Asking queues a job; one is
queued at most, and while one runs another may wait and will see what came meanwhile. A job whose worker died is taken up by another worker (see
``server.upkeep``), and what was asked for and is neither settled nor queued, for whatever reason, is queued again by the watchdog. Results are
written by value, so doing one thing twice changes nothing.
"""

import logging
from collections.abc import Callable, Iterable
from typing import Any, ClassVar, TypeVar

from django.db import InterfaceError, OperationalError, connection, transaction
from django.db.models import F, Model
from django.utils import timezone
from procrastinate.exceptions import AlreadyEnqueued
from procrastinate.tasks import Task

from lens.errors import BadInput

T = TypeVar("T")
log = logging.getLogger("clear_lens.tasks")
FILE_MISSING = "A photo's file is missing from the store. Send the same photo again, or restore it from a backup."
FAILED = "failed"  # an error that nobody expected; the log and the queue have it
MOST_TRIES = 5
# five of these are a quarter of an hour: what a bad one ends in a row is not given up, what ends its process by itself is
TRY_COUNTS_EVERY_S = 180
# the database went away or the disk is full: nothing is wrong with the thing itself, it is done again
PASSING = (OperationalError, InterfaceError, OSError)


class Work:
    """One kind of work: which model wants it, and which task does it. Of what waits, the higher ``priority`` comes first."""

    kinds: ClassVar[list["Work"]] = []

    def __init__(self, model: type[Model], prefix: str, argument: str, priority: int = 0) -> None:
        self.model, self.prefix, self.argument, self.priority = model, prefix, argument, priority
        self.task: Task[Any, Any, Any] | None = None
        Work.kinds.append(self)

    def _lock(self, pk: int) -> str:
        return f"{self.prefix}-{pk}"

    def ask(self, pk: int) -> None:
        """Ask for the work once more. Call it inside the action's transaction: what is acknowledged is asked for."""
        self._rows.filter(pk=pk).update(asked=F("asked") + 1)
        self.queue(pk)

    def queue(self, pk: int) -> None:
        """Queue a job; does nothing when one waits already."""
        assert self.task is not None
        try:
            with transaction.atomic():  # a refused second row must not break the action's own transaction
                lock = self._lock(pk)
                task = self.task.configure(lock=lock, queueing_lock=lock, priority=self.priority)
                task.defer(**{self.argument: pk})
        except AlreadyEnqueued:
            pass

    @property
    def _rows(self) -> Any:
        return self.model._default_manager

    def begin(self, pk: int) -> int:
        """What is asked for as the work begins."""
        return int(self._rows.values_list("asked", flat=True).get(pk=pk))

    def may_try(self, pk: int) -> bool:
        """Call it right before the part that could end its process. False when that happened too often: then the work is given up."""
        row, now = self._rows.filter(pk=pk), timezone.now()
        tries, tried_at = row.values_list("tries", "tried_at").get()
        if tried_at is None or abs((now - tried_at).total_seconds()) >= TRY_COUNTS_EVERY_S:
            row.update(tries=tries + 1, tried_at=now)
        return bool(tries < MOST_TRIES)

    def attempt(self, pk: int, name: str, given_up: str, make: Callable[[], T]) -> tuple[T | None, str]:
        """What ``make`` gives and no words, or nothing and the problem in words.

        A problem of what was asked for is told as it is; of an error that nobody expected, and of work that ended its process too often, the log
        has it under ``name`` and a person is told ``given_up``. What passes by itself (`PASSING`) is raised: the work is done again.
        """
        if not self.may_try(pk):
            log.error("%s %s has ended its process %s times and is given up", name, pk, MOST_TRIES)
            return None, given_up
        try:
            return make(), ""
        except FileNotFoundError:
            log.exception("%s %s: a file is missing from the store", name, pk)
            return None, FILE_MISSING
        except PASSING:
            raise
        except BadInput as error:
            return None, error.message
        except Exception:
            log.exception("%s %s failed", name, pk)
            return None, given_up

    def settle(self, pk: int, asked: int) -> None:
        """The work that was asked for up to ``asked`` is done."""
        self._rows.filter(pk=pk, settled__lt=asked).update(settled=asked)
        self.survived(pk)

    def survived(self, pk: int) -> None:
        """A part that could have ended its process is through: the tries before it count no more."""
        self._rows.filter(pk=pk).update(tries=0, tried_at=None)

    def forgotten(self) -> list[int]:
        """What was asked for and is neither settled, nor queued, nor being done."""
        wanting = list(self._rows.filter(asked__gt=F("settled")).values_list("pk", flat=True)[:1000])
        at_work = _at_work(self._lock(pk) for pk in wanting) if wanting else set()
        return [pk for pk in wanting if self._lock(pk) not in at_work]


def _at_work(locks: Iterable[str]) -> set[str]:
    with connection.cursor() as cursor:
        cursor.execute(
            "select lock from procrastinate_jobs where status in ('todo', 'doing') and lock = any(%s)", (list(locks),)
        )
        return {row[0] for row in cursor.fetchall()}
