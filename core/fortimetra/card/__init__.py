"""The drill card: how a drill is practised, in plain words, from its family, its notes and its tolerances."""

from fortimetra.card.card import MOST_LINE_CHARS, MOST_LINES, SECTION_NAMES, Card, SectionName, card, in_short, with_own

__all__ = ["MOST_LINES", "MOST_LINE_CHARS", "SECTION_NAMES", "Card", "SectionName", "card", "in_short", "with_own"]
