"""Drill cards: worked out by the core once a version, with what this studio's teachers say instead."""

from __future__ import annotations

import hashlib
from collections.abc import Sequence
from typing import Any

from config.problems import ServiceError
from django.core.cache import cache
from django.db import transaction
from django.db.models import Q
from django.utils import timezone
from fortimetra import Drill as DrillContent
from fortimetra import __version__
from fortimetra.card import MOST_LINE_CHARS, MOST_LINES, SECTION_NAMES, Card, SectionName, card, with_own
from fortimetra.model import Guitar as GuitarContent

from apps.drills.models import CardText, Drill, DrillVersion
from apps.people.actor import require_teacher
from apps.people.models import User

KEPT_S = 86_400


def card_of(drill: Drill, version: DrillVersion, *, guitar: GuitarContent | None = None) -> Card:
    """The card of a version of a drill, with what its studio says instead."""
    return with_own(_made(version, guitar), _texts(drill))


def _made(version: DrillVersion, guitar: GuitarContent | None) -> Card:
    described = "" if guitar is None else hashlib.sha256(guitar.model_dump_json().encode()).hexdigest()[:16]
    key = f"card:{__version__}:{version.pk}:{described}"
    kept = cache.get(key)
    if kept is not None:
        return Card.model_validate_json(kept)
    made = card(DrillContent.model_validate(version.content), guitar=guitar)
    cache.set(key, made.model_dump_json(), KEPT_S)
    return made


def _texts(drill: Drill) -> dict[tuple[str, SectionName], tuple[str, ...]]:
    own = CardText.objects.filter(Q(drill=drill) | Q(place=drill.family), studio=drill.studio_id)
    return {("family" if t.drill_id is None else "drill", t.section): tuple(t.lines) for t in own}  # type: ignore[misc]


@transaction.atomic
def write(actor: User, drill: Drill, *, section: str, of: str, lines: Sequence[str]) -> None:
    """Say a section differently, on this drill's card or on every card of its family; no lines: as the house says it.

    Raises ServiceError for a section that is none, or too much text.
    """
    require_teacher(actor)
    if section not in SECTION_NAMES:
        raise ServiceError(422, "card_section", f"A card has no section {section}.")
    said = [line for raw in lines if (line := " ".join(raw.split()))]
    if len(said) > MOST_LINES or any(len(line) > MOST_LINE_CHARS for line in said):
        raise ServiceError(
            422,
            "card_too_long",
            f"At most {MOST_LINES} lines of {MOST_LINE_CHARS} characters: a card is read at the music stand.",
        )
    whose: dict[str, Any] = {"drill": drill} if of == "drill" else {"place": drill.family}
    if not said:
        CardText.objects.filter(studio=actor.studio, section=section, **whose).delete()
        return
    CardText.objects.update_or_create(
        studio=actor.studio, section=section, **whose,
        defaults={"family": drill.family, "lines": said, "changed_by": actor, "changed_at": timezone.now()},
    )  # fmt: skip
