"""Drill cards: worked out by the core once a version, with what this studio's teachers say instead."""

from __future__ import annotations

import hashlib
from collections.abc import Sequence

from config.problems import ServiceError
from django.core.cache import cache
from django.db import transaction
from fortimetra import Drill as DrillContent
from fortimetra.card.card import MOST_LINE_CHARS, MOST_LINES, SECTION_NAMES, Card, SectionName, card, with_own
from fortimetra.model.guitar import Guitar as GuitarContent
from fortimetra.version import __version__

from apps.drills.models import CardText, Drill, DrillVersion
from apps.people.actor import require_teacher
from apps.people.models import Studio, User

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
    own = CardText.objects.filter(studio=drill.studio_id, place__in=_places(drill).values())
    return {("family" if t.drill_id is None else "drill", t.section): tuple(t.lines) for t in own}  # type: ignore[misc]


def _places(drill: Drill) -> dict[str, str]:
    return {"drill": f"drill {drill.pk}", "family": f"family {drill.family}"}


def tell_places(studio: Studio) -> None:
    """Work out anew what a studio's texts belong to, after they came from elsewhere."""
    for text in CardText.objects.filter(studio=studio).select_related("drill"):
        text.place = f"family {text.family}" if text.drill is None else f"drill {text.drill.pk}"
        text.save(update_fields=["place"])


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
            422, "card_too_long", f"At most {MOST_LINES} lines of {MOST_LINE_CHARS} characters: a card is read at the music stand."
        )  # fmt: skip
    place = _places(drill)[of]
    if not said:
        CardText.objects.filter(studio=actor.studio, place=place, section=section).delete()
        return
    CardText.objects.update_or_create(
        studio=actor.studio, place=place, section=section,
        defaults={
            "drill": drill if of == "drill" else None, "family": drill.family, "lines": said, "changed_by": actor,
        },
    )  # fmt: skip
