"""Which request or job a line of the log belongs to. No line names a person: takes, students and jobs are ids."""

from __future__ import annotations

import logging
import re
import uuid
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar

from django.http import HttpRequest, HttpResponse

HEADER = "X-Request-ID"
USABLE = re.compile(r"^[0-9A-Za-z_-]{8,64}$")
_request: ContextVar[str] = ContextVar("request", default="")
_job: ContextVar[str] = ContextVar("job", default="")


class TraceMiddleware:
    """Every request has an id: what a proxy before gives it, else one of its own; the answer says it."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        given = request.headers.get(HEADER, "")
        token = _request.set(given if USABLE.match(given) else uuid.uuid4().hex)
        try:
            response = self.get_response(request)
            response[HEADER] = _request.get()
            return response
        finally:
            _request.reset(token)


@contextmanager
def job_of(task: str, subject: str) -> Iterator[None]:
    """What is logged inside belongs to a job."""
    token = _job.set(f"{task} {subject}")
    try:
        yield
    finally:
        _job.reset(token)


class Traced(logging.Filter):
    """Adds the request and the job to a line; empty where there is none."""

    def filter(self, record: logging.LogRecord) -> bool:
        """Every line passes."""
        record.request = _request.get()
        record.job = _job.get()
        return True
