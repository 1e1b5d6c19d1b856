"""JSON Schemas of the formats, derived from the models."""

from __future__ import annotations

import json

from fortimetra.model.analysis import Analysis
from fortimetra.model.base import Document
from fortimetra.model.context import Click, Setup
from fortimetra.model.drill import Drill
from fortimetra.model.guitar import Guitar
from fortimetra.player.faults import Faults, Truth

FORMATS: dict[str, type[Document]] = {
    "drill": Drill,
    "click": Click,
    "setup": Setup,
    "guitar": Guitar,
    "analysis": Analysis,
    "faults": Faults,
    "truth": Truth,
}


def schemas() -> dict[str, str]:
    """File name → text of its JSON Schema (draft 2020-12)."""
    found: dict[str, str] = {}
    for name, model in FORMATS.items():
        schema = {"$schema": "https://json-schema.org/draft/2020-12/schema"} | model.model_json_schema(by_alias=True)
        found[f"{name}.schema.json"] = json.dumps(schema, indent=1, ensure_ascii=False) + "\n"
    return found
