"""Days and times that can be meant: from 1970 to the end of next year."""

from __future__ import annotations

import datetime as dt
from typing import Annotated

from pydantic import AfterValidator

FIRST_YEAR = 1970


def _within(value: dt.date) -> dt.date:
    last = dt.datetime.now(dt.UTC).year + 1
    if not FIRST_YEAR <= value.year <= last:
        raise ValueError(f"give a date from {FIRST_YEAR} to {last}")
    return value


def _moment(value: dt.datetime) -> dt.datetime:
    _within(value)
    return value


Day = Annotated[dt.date, AfterValidator(_within)]
Moment = Annotated[dt.datetime, AfterValidator(_moment)]
