"""The front end's own unit tests, linter, type check, and that its types are those of the API."""

import json
import os
import re
import subprocess
from pathlib import Path

WEB = Path(__file__).parents[2] / "web"


def run(*command):
    env = os.environ | {"CI": "true", "NO_COLOR": "1"}
    return subprocess.run(command, cwd=WEB, capture_output=True, text=True, env=env)


def npx(*arguments):
    holds(run("npx", "--no-install", *arguments))


def holds(done):
    assert done.returncode == 0, done.stdout + done.stderr


def test_types_hold():
    holds(run("npm", "run", "typed"))


def test_linter_and_formatter_find_nothing():
    npx("biome", "check", ".")


def test_unit_tests_pass(tmp_path):
    report = tmp_path / "vitest.json"
    done = run("npx", "--no-install", "vitest", "run", "--reporter=json", f"--outputFile={report}")
    assert report.exists(), done.stdout + done.stderr
    found = json.loads(report.read_text())
    assert not list(failures(found)), "\n\n".join(failures(found))
    assert done.returncode == 0, done.stdout + done.stderr
    assert found["numPassedTests"] >= 38


def failures(report):
    """What went wrong in a report of the unit tests: file, test, what it says."""
    for file in report["testResults"]:
        if file["status"] != "passed" and file.get("message"):
            yield f"{file['name']}: {file['message']}"
        for test in file["assertionResults"]:
            if test["status"] == "failed":
                yield f"{file['name']}: {test['fullName']}\n" + "\n".join(test["failureMessages"])


def test_client_types_are_those_of_the_api(tmp_path):
    script = json.loads((WEB / "package.json").read_text())["scripts"]["types"]
    out = tmp_path / "schema.d.ts"
    npx(*script.replace("src/api/schema.d.ts", str(out)).split())
    assert out.read_text() == (WEB / "src/api/schema.d.ts").read_text(), "run ./run schema"


def test_no_file_of_the_client_comes_from_elsewhere():
    for path in (WEB / "src").rglob("*"):
        made = "schema.d.ts" in path.name or ".test." in path.name  # types, and addresses of tests, are not shipped
        if path.suffix in {".ts", ".tsx", ".css"} and not made:
            assert not re.search(r"https?://(?!www\.w3\.org)", path.read_text()), path
