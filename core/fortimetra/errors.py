"""One root error. Each error has a stable snake_case code and a sentence that says what to do."""

from __future__ import annotations


class FortimetraError(Exception):
    """Base of everything this package raises on purpose.

    code: stable, snake_case, for programs.
    detail: one sentence, for people: what is wrong, with the value, and what would work.
    """

    def __init__(self, code: str, detail: str) -> None:
        super().__init__(detail)
        self.code = code
        self.detail = detail

    def __reduce__(self) -> tuple[type[FortimetraError], tuple[str, str]]:
        # Errors cross process boundaries; the default would leave the code behind.
        return type(self), (self.code, self.detail)


class TakeError(FortimetraError):
    """The recording cannot be used."""


class DrillError(FortimetraError):
    """The drill, click, set-up or fault description is invalid; `detail` names the field."""


class SignalError(FortimetraError):
    """A value handed to a function of the core is outside its domain."""
