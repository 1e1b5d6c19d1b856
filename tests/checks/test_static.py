"""Linters, type checks, and that everything generated or locked is what it claims to be."""

import ast
import re
import subprocess
from pathlib import Path

import pytest
from fortimetra.formats.library_page import library_page
from fortimetra.formats.schemas import schemas
from fortimetra.formats.settings_page import settings_page

ROOT = Path(__file__).parents[2]
BIN = ROOT / ".venv" / "bin"
SOURCES = ["core", "server", "ops", "tests", "benchmarks", "run"]


def run(*command, cwd=ROOT):
    done = subprocess.run([str(c) for c in command], cwd=cwd, capture_output=True, text=True)
    assert done.returncode == 0, done.stdout + done.stderr


def tracked(*patterns):
    listed = subprocess.run(
        ["git", "ls-files", "-z", "--", *patterns], cwd=ROOT, capture_output=True, text=True, check=True
    )
    return [ROOT / name for name in listed.stdout.split("\0") if name and (ROOT / name).exists()]


def test_ruff_finds_nothing():
    run(BIN / "ruff", "check", *[s for s in SOURCES if (ROOT / s).exists()])


def test_python_is_formatted():
    run(BIN / "ruff", "format", "--check", *[s for s in SOURCES if (ROOT / s).exists()])


def test_python_types_hold():
    run(BIN / "mypy")


def test_schemas_are_those_of_the_models():
    for name, text in schemas().items():
        assert (ROOT / "docs/formats" / name).read_text() == text, "run ./run schema"


def test_the_page_of_the_library_is_that_of_the_drills():
    assert (ROOT / "docs/drills.md").read_text() == library_page(), "run ./run schema"


def test_the_page_of_settings_is_that_of_the_code():
    assert (ROOT / "docs/settings.md").read_text() == settings_page(), "run ./run schema"


def test_openapi_is_that_of_the_code():
    import django

    django.setup()
    from apps.people.management.commands.write_openapi import openapi_text

    assert (ROOT / "web/openapi.json").read_text() == openapi_text(), "run ./run schema"


@pytest.mark.parametrize("path", tracked("requirements/*.txt", "web/package-lock.json"), ids=lambda p: p.name)
def test_lock_files_carry_no_host(path):
    text = path.read_text()
    assert not re.search(
        r"https?://(?!(opencollective|github|www|paulmillr|dotenvx|eslint|tidelift|.*fund))[^\"\s]*(registry|pypi|files\.)",
        text,
    )
    if path.suffix == ".txt":
        names = re.findall(r"^[a-zA-Z0-9._-]+(?:\[[^\]]*\])?==", text, re.M)
        assert len(names) > 0
        assert text.count("--hash=sha256:") >= len(names)


def test_pictures_are_few_and_linked():
    pictures = tracked("docs/screenshots/*.png")
    readme = (ROOT / "README.md").read_text()
    assert 0 < len(pictures) < 20
    for picture in pictures:
        assert f"docs/screenshots/{picture.name}" in readme


def test_readme_shows_the_two_commands():
    readme = (ROOT / "README.md").read_text()
    assert "./run start" in readme
    assert "./run test" in readme


def recorded_actions():
    """What the server writes into the record of who did what: names, and beginnings of names that are put together."""
    for path in (ROOT / "server" / "apps").rglob("*.py"):
        for node in ast.walk(ast.parse(path.read_text())):
            if not (isinstance(node, ast.Call) and ast.unparse(node.func) in {"audit.changed", "audit.saw"}):
                continue
            chosen = node.args[1]
            for action in [chosen.body, chosen.orelse] if isinstance(chosen, ast.IfExp) else [chosen]:
                first = action.values[0] if isinstance(action, ast.JoinedStr) else action
                if isinstance(first, ast.Constant):
                    yield first.value, isinstance(action, ast.JoinedStr)


def test_every_recorded_action_has_its_words():
    shown = re.findall(r"^  (\w+): \"", (ROOT / "web/src/ui/AuditList.tsx").read_text(), re.M)
    found = list(recorded_actions())
    assert len(found) > 25
    for action, put_together in found:
        assert action in shown or (put_together and any(name.startswith(action) for name in shown)), action
