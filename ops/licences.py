"""./run licences: under which licence everything stands that the application installs or sends to a browser."""

from __future__ import annotations

import json
import re
import subprocess
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from ops import setup
from ops.say import say

_READ = """
import importlib.metadata as metadata, json
found = []
for package in metadata.distributions():
    about = package.metadata
    classes = [c.split(" :: ")[-1] for c in about.get_all("Classifier", []) if c.startswith("License ::")]
    # A licence's whole text may stand where its name belongs; its first line tells it.
    named = (about.get("License-Expression") or "; ".join(classes) or about.get("License") or "").strip()
    found.append([about["Name"], package.version, named.splitlines()[0].strip("= ") if named else ""])
print(json.dumps(found))
"""


@dataclass(frozen=True)
class Licence:
    """What one package says of itself. where: python, web, font (sent to the browser as a file of its own)."""

    where: str
    name: str
    version: str
    licence: str


def _plain(name: str) -> str:
    return re.sub(r"[-_.]+", "-", name).lower()


def python_packages() -> Iterator[Licence]:
    """Of the application itself; what only tests and benchmarks use is not part of it."""
    listed = (setup.ROOT / "requirements" / "app.txt").read_text()
    own = {_plain(name) for name in re.findall(r"^([a-zA-Z0-9._-]+)(?:\[[^\]]*\])?==", listed, re.M)}
    told = subprocess.run([setup.PYTHON, "-c", _READ], capture_output=True, text=True, check=True).stdout
    for name, version, licence in sorted(json.loads(told), key=lambda row: row[0].lower()):
        if _plain(name) in own:
            yield Licence("python", name, version, licence)


def web_packages() -> Iterator[Licence]:
    """Of what is built into the page, by the lock file; fonts are named apart."""
    lock = json.loads((setup.WEB / "package-lock.json").read_text())
    for place, entry in sorted(lock["packages"].items()):
        about = setup.WEB / place / "package.json"
        if not place or entry.get("dev") or entry.get("devOptional") or not about.exists():
            continue
        found = json.loads(about.read_text())
        licence = found.get("license") or ""
        where = "font" if "fontsource" in place else "web"
        yield Licence(where, found["name"], found["version"], licence if isinstance(licence, str) else str(licence))


def licences(arguments: Sequence[str]) -> int:
    """Print the table, or JSON with --json; exit status 1 where a package says nothing."""
    setup.python()
    setup.front_end(build=False)
    rows = [*python_packages(), *web_packages()]
    if "--json" in arguments:
        print(json.dumps([vars(row) for row in rows], indent=1))
    else:
        for row in rows:
            say(f"{row.where:7} {row.name:48} {row.version:12} {row.licence or 'says nothing'}")
    return int(any(not row.licence for row in rows))
