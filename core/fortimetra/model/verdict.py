"""Inside a tolerance, outside, or cannot tell."""

from __future__ import annotations

from typing import Literal

Verdict = Literal["inside", "outside", "unclear"]
