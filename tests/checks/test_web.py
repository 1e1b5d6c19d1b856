"""The front end's own unit tests, linter, type check, and that its types are those of the API."""

import json
import os
import re
import subprocess
from pathlib import Path

WEB = Path(__file__).parents[2] / "web"


def npm(*arguments):
    env = os.environ | {"CI": "true", "NO_COLOR": "1"}
    done = subprocess.run(["npx", "--no-install", *arguments], cwd=WEB, capture_output=True, text=True, env=env)
    assert done.returncode == 0, done.stdout + done.stderr
    return done.stdout


def test_types_hold():
    npm("tsc", "--noEmit")


def test_linter_and_formatter_find_nothing():
    npm("biome", "check", ".")


def test_unit_tests_pass(tmp_path):
    report = tmp_path / "vitest.json"
    npm("vitest", "run", "--reporter=json", f"--outputFile={report}")
    found = json.loads(report.read_text())
    assert found["numFailedTests"] == 0
    assert found["numPassedTests"] >= 38


def test_client_types_are_those_of_the_api(tmp_path):
    script = json.loads((WEB / "package.json").read_text())["scripts"]["types"]
    out = tmp_path / "schema.d.ts"
    npm(*script.replace("src/api/schema.d.ts", str(out)).split())
    assert out.read_text() == (WEB / "src/api/schema.d.ts").read_text(), "run ./run schema"


def test_no_file_of_the_client_comes_from_elsewhere():
    for path in (WEB / "src").rglob("*"):
        made = "schema.d.ts" in path.name or ".test." in path.name  # types, and addresses of tests, are not shipped
        if path.suffix in {".ts", ".tsx", ".css"} and not made:
            assert not re.search(r"https?://(?!www\.w3\.org)", path.read_text()), path
