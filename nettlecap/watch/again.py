"""Trying a job again that failed or was set aside."""

from __future__ import annotations

from typing import Any

from django.db import transaction
from django_tasks_db.models import DBTaskResult

from nettlecap.classroom import policy
from nettlecap.classroom.models import Person
from nettlecap.errors import Conflict
from nettlecap.takes.look_again import start_again
from nettlecap.takes.models import Analysis, Take
from nettlecap.takes.tasks import analyse_take, read_arrival

GONE = "This job is not there any more. Load the page again."
READ = "What came in was refused and forgotten; its student was told to hand it in once more."


def try_again(keeper: Person, job_id: str) -> None:
    """Have a failed job done again. Raises NotAllowed, or Conflict where there is nothing to do any more."""
    with transaction.atomic():
        job = _failed(keeper, job_id)
        if job.task_path == read_arrival.module_path:
            raise Conflict(READ)
        if job.task_path == analyse_take.module_path:
            _look_again(job)
        else:
            job.task.enqueue(*job.args_kwargs["args"], **job.args_kwargs["kwargs"])
        job.delete()


def let_go(keeper: Person, job_id: str) -> None:
    """Take a failed job off the list; what it was about stays as it is."""
    with transaction.atomic():
        _failed(keeper, job_id).delete()


def _failed(keeper: Person, job_id: str) -> DBTaskResult[..., Any]:
    policy.require(policy.keeps_house(keeper), "look after the jobs of this installation")
    job = DBTaskResult.objects.select_for_update().failed().filter(pk=job_id).first()
    if job is None:
        raise Conflict(GONE)
    return job


def _look_again(job: DBTaskResult[..., Any]) -> None:
    take = Take.everything.select_related("brief", "student", "analysis").filter(pk=job.args_kwargs["args"][0]).first()
    if take is None:
        raise Conflict("This clip is not there any more. Take the job off the list.")
    if take.analysis.state == Analysis.State.FAILED:
        start_again(take)
