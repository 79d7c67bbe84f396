"""Background work, done at once where a test wants it."""

from django.db import connection
from procrastinate.contrib.django import app
from procrastinate.contrib.django.models import ProcrastinateJob


def run_jobs() -> list[object]:
    """Do what waits, in the order it was asked for, as the worker would; what each came to."""
    done = []
    for job in ProcrastinateJob.objects.filter(status="todo").order_by("pk"):
        done.append(app.tasks[job.task_name].func(**job.args))
        with connection.cursor() as cursor:
            cursor.execute("DELETE FROM procrastinate_jobs WHERE id = %s", [job.pk])
    return done


def forget_jobs() -> None:
    """Leave no job behind, the worker's own of each minute neither: a test with transactions of its
    own empties the tables of Django's models alone."""
    with connection.cursor() as cursor:
        cursor.execute("DELETE FROM procrastinate_jobs")
