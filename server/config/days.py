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


def _of_the_wall(value: dt.time) -> dt.time:
    if value.tzinfo is not None:
        raise ValueError("give the time without a zone; it is that of the studio")
    return value


Day = Annotated[dt.date, AfterValidator(_within)]
Moment = Annotated[dt.datetime, AfterValidator(_moment)]
TimeOfDay = Annotated[dt.time, AfterValidator(_of_the_wall)]
