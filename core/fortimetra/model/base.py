"""What all models of the contract share."""

from __future__ import annotations

from pathlib import Path
from typing import Self

from pydantic import BaseModel, ConfigDict, ValidationError

from fortimetra.errors import DrillError

MAX_FILE_BYTES = 4_000_000


class Model(BaseModel):
    """Immutable, strict about unknown fields, and never NaN or infinite."""

    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)


class Document(Model):
    """A model that is a file of its own."""

    @classmethod
    def read(cls, path: str | Path) -> Self:
        """Read and validate a JSON file.

        Raises DrillError(code="drill_invalid") naming the field.
        """
        name = Path(path).name
        try:
            file = Path(path)
            if file.stat().st_size > MAX_FILE_BYTES:
                raise DrillError(
                    "drill_invalid", f"{name} is larger than {MAX_FILE_BYTES // 1_000_000} MB; that is no drill."
                )
            return cls.parse(file.read_bytes())
        except OSError as error:
            raise DrillError("drill_invalid", f"{name} cannot be read: {error.strerror}.") from error

    @classmethod
    def parse(cls, text: str | bytes) -> Self:
        """Validate JSON text.

        Raises DrillError(code="drill_invalid") naming the field.
        """
        try:
            return cls.model_validate_json(text)
        except ValidationError as error:
            raise DrillError("drill_invalid", f"{cls.__name__} is not valid: {first_problem(error)}") from error


def first_problem(error: ValidationError) -> str:
    """The first problem pydantic found, as one line with the place in it."""
    first = error.errors(include_url=False, include_context=False)[0]
    place = ".".join(str(p) for p in first["loc"]) or "the file"
    message = str(first["msg"]).removeprefix("Value error, ")
    more = error.error_count() - 1
    return f"{place}: {message}" + (f" ({more} more)" if more else "")
