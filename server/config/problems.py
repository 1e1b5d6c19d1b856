"""Errors as RFC 9457 problem details with a stable code."""

from __future__ import annotations

import json
from http import HTTPStatus

from django.http import HttpResponse
from pydantic import BaseModel


class Problem(BaseModel):
    """What went wrong: `code` for programs, `detail` for people."""

    type: str = "about:blank"
    title: str
    status: int
    code: str
    detail: str


class ServiceError(Exception):
    """A request that cannot be carried out as asked."""

    def __init__(self, status: int, code: str, detail: str) -> None:
        super().__init__(detail)
        self.status = status
        self.code = code
        self.detail = detail


def not_found() -> ServiceError:
    """Not there, or somebody else's: the answer is the same."""
    return ServiceError(404, "not_found", "There is nothing here for you; it may have been deleted.")


def problem(status: int, code: str, detail: str) -> HttpResponse:
    """A problem+json answer."""
    body = Problem(title=HTTPStatus(status).phrase, status=status, code=code, detail=detail).model_dump()
    return HttpResponse(json.dumps(body, ensure_ascii=False), status=status, content_type="application/problem+json")
