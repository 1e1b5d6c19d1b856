"""The teacher's word on a take: what was meant, what does not count, what is judged otherwise. Values stay as
measured.
"""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, model_validator

from fortimetra.model.base import Model
from fortimetra.model.tolerance import Measure
from fortimetra.model.verdict import Verdict

MOST_PLACES = 2000
SaidKind = Literal["meant", "excluded", "verdict"]


class Place(Model):
    """An asked note; string None: every note of the event."""

    id: Annotated[str, Field(min_length=1, max_length=40)]
    repeat: Annotated[int, Field(ge=0, le=199)]
    string: Annotated[int, Field(ge=1, le=8)] | None = None


class Mark(Model):
    """One word. Of notes, of an extra sound (at_s), or, a comment, of any place or of the take.

    meant: what is off is so on purpose. excluded: does not count. verdict: counts as this. measure None: the note as
    a whole.
    """

    kind: Literal["meant", "excluded", "verdict", "comment"]
    notes: Annotated[tuple[Place, ...], Field(max_length=MOST_PLACES)] = ()
    at_s: Annotated[float, Field(ge=0, le=3600, description="Of an extra sound, or where a comment stands.")] | None = (
        None
    )
    measure: Measure | None = None
    verdict: Verdict | None = None
    text: Annotated[str, Field(max_length=1000)] = ""

    @model_validator(mode="after")
    def _complete(self) -> Mark:
        if (self.kind == "verdict") != (self.verdict is not None):
            raise ValueError("a verdict is given with kind verdict, and only there")
        if self.kind == "verdict" and not self.text.strip():
            raise ValueError("say why it is judged otherwise")
        if self.kind == "comment" and not self.text.strip():
            raise ValueError("the comment is empty")
        if self.kind != "comment" and not self.notes and self.at_s is None:
            raise ValueError("name the notes, or the moment of an extra sound")
        if self.kind == "excluded" and self.measure is not None:
            raise ValueError("a note is excluded as a whole")
        return self


class Pin(Model):
    """A correction of what was heard as what: the note begins at at_s, or (None) was not played. With to_s and without
    a note: what is heard from at_s to to_s is not of the drill.
    """

    id: Annotated[str, Field(min_length=1, max_length=40)] | None = None
    repeat: Annotated[int, Field(ge=0, le=199)] = 0
    at_s: Annotated[float, Field(ge=0, le=3600)] | None
    to_s: Annotated[float, Field(ge=0, le=3600, description="Of a stretch that is not of the drill.")] | None = None

    @model_validator(mode="after")
    def _complete(self) -> Pin:
        if (self.id is None) != (self.to_s is not None):
            raise ValueError("a pin names a note, or a stretch by at_s and to_s")
        if self.to_s is not None and (self.at_s is None or self.to_s <= self.at_s):
            raise ValueError("the stretch ends before it begins")
        return self
