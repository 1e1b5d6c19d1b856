"""The shared cache, where a broker that is away or does not answer is an empty cache."""

from __future__ import annotations

import time
from typing import Any

from django_redis.cache import RedisCache  # type: ignore[import-untyped]

ANSWERS_WITHIN_S = 0.3
LEFT_ALONE_S = 5.0


class OpenCache(RedisCache):  # type: ignore[misc]
    """django-redis answers None where it met an error. Of `add` that would mean that somebody else holds a lock, and
    nobody could sign in: what cannot be kept counts as added. A broker that hangs is asked once, then left alone for
    a while: a page asks a dozen times.
    """

    _asked_again_at = 0.0

    def add(self, *args: Any, **kwargs: Any) -> bool:
        """Whether it was not there before."""
        added = self._asked("add", *args, **kwargs)
        return True if added is None else bool(added)

    def get(self, key: Any, default: Any = None, version: Any = None, client: Any = None) -> Any:
        """The value, or the default."""
        found = self._asked("get", key, default=default, version=version, client=client)
        return default if found is None else found

    def set(self, *args: Any, **kwargs: Any) -> Any:
        """Keep a value, if that is possible."""
        return self._asked("set", *args, **kwargs)

    def delete(self, *args: Any, **kwargs: Any) -> Any:
        """Forget a value, if that is possible."""
        return self._asked("delete", *args, **kwargs)

    def _asked(self, name: str, *args: Any, **kwargs: Any) -> Any:
        began = time.monotonic()
        if began < OpenCache._asked_again_at:
            return None
        answer = getattr(super(), name)(*args, **kwargs)
        if answer is None and time.monotonic() - began > ANSWERS_WITHIN_S:
            OpenCache._asked_again_at = time.monotonic() + LEFT_ALONE_S
        return answer
