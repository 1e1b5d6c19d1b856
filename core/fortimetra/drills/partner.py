"""Balanced partners: the same figure the other way, to be practised in equal shares."""

from __future__ import annotations

from collections.abc import Mapping

from fortimetra.drills.generator import Generator

# What the other way of a field is (common practice, no source: up and down, down- and up-strokes first).
OTHER_WAY: dict[str, dict[str, str]] = {
    "way": {"up": "down", "down": "up"},
    "kind": {"hammer-ons alone": "pull-offs alone", "pull-offs alone": "hammer-ons alone"},
    "comes": {"one fret below": "one fret above", "one fret above": "one fret below"},
}


def partner_values(generator: Generator, given: Mapping[str, str]) -> dict[str, str] | None:
    """The form's values for the partner of a drill; None where its figure has no other way.

    A figure that goes only one way has one in its first stroke.
    """
    for field in generator.inputs:
        value = given.get(field.name, str(field.default))
        other = OTHER_WAY.get(field.name, {}).get(value)
        if other is not None:
            return {**given, field.name: other}
    return None
