"""What is shipped for a server of its own: linted by the programs that will read it, and true to the settings."""

from __future__ import annotations

import configparser
import re
import shutil
import subprocess
import sys
from pathlib import Path

import pytest
import yaml

ROOT = Path(__file__).parents[2]
DEPLOY = ROOT / "deploy"
UNITS = sorted((DEPLOY / "systemd").iterdir())
TEMPORARY = ("client_body", "proxy", "fastcgi", "uwsgi", "scgi")
SERVICES = [u for u in UNITS if u.suffix == ".service"]


def unit(path):
    read = configparser.ConfigParser(strict=False, interpolation=None)
    read.optionxform = str
    read.read_string(path.read_text())
    return read


def test_every_setting_is_explained_and_none_that_is_not_there():
    settings = (ROOT / "server/config/settings.py").read_text()
    asked = set(re.findall(r'env\(\s*"([A-Z_]+)"', settings)) | {"DATA"}
    others = {"PROXIES", "BROKER_PASSWORD"}  # read by ./run start itself, and by compose.yaml
    named = set(re.findall(r"^#?FORTIMETRA_([A-Z_]+)=", (DEPLOY / "environment.example").read_text(), re.M))
    assert named == asked | others


def test_commented_settings_have_the_value_that_counts_without_them():
    settings = (ROOT / "server/config/settings.py").read_text()
    defaults = dict(re.findall(r'env\("([A-Z_]+)", "([^"]*)"\)', settings))
    text = (DEPLOY / "environment.example").read_text()
    for name, value in re.findall(r"^#FORTIMETRA_([A-Z_]+)=(.*)$", text, re.M):
        assert value in {defaults.get(name, ""), "0"}, name


@pytest.mark.parametrize("path", SERVICES, ids=lambda p: p.name)
def test_units_run_as_an_account_of_their_own_in_a_sandbox(path):
    service = unit(path)["Service"]
    assert (service["User"], service["NoNewPrivileges"], service["ProtectSystem"]) == ("fortimetra", "yes", "strict")
    assert service["EnvironmentFile"] == "/etc/fortimetra/environment"
    assert service["CapabilityBoundingSet"] == ""


@pytest.mark.skipif(shutil.which("systemd-analyze") is None, reason="systemd is not here")
def test_systemd_understands_the_units(tmp_path):
    for path in UNITS:
        text = path.read_text()
        # The programs are where the installation is, not here.
        text = re.sub(r"/opt/fortimetra/\S+", "/bin/true", text).replace("WorkingDirectory=/opt/fortimetra", "")
        name = path.name.replace("@.", "@measure.")
        (tmp_path / name).write_text(text.replace("file:/bin/true", "man:true(1)"))
    done = subprocess.run(
        ["systemd-analyze", "verify", "--man=no", *map(str, sorted(tmp_path.iterdir()))],
        capture_output=True, text=True, env={"SYSTEMD_UNIT_PATH": f"{tmp_path}:", "PATH": "/usr/bin:/bin"},
    )  # fmt: skip
    ours = [line for line in done.stderr.splitlines() if "fortimetra" in line and "Unit redis" not in line]
    assert not [line for line in ours if "not found" not in line], done.stderr


def test_the_commands_are_those_the_start_command_runs():
    """What was tried by ./run start and its tests is what a server runs: the same programs with the same parts."""
    started = (ROOT / "ops/services.py").read_text()
    web = unit(DEPLOY / "systemd/fortimetra-web.service")["Service"]["ExecStart"]
    worker = unit(DEPLOY / "systemd/fortimetra-worker@.service")["Service"]["ExecStart"]
    for part in ("gunicorn", "config.wsgi", "--workers", "--threads", "--timeout"):
        assert part in web, part
        assert part in started, part
    for part in ("celery", "-A", "config", "worker", "--without-gossip", "--without-mingle"):
        assert part in worker, part
        assert part in started, part


def test_commands_run_before_the_first_start():
    """Tables and the first account are made before any unit has made the folders of a running server."""
    lines = (DEPLOY / "environment.example").read_text().splitlines()
    given = dict(line.split("=", 1) for line in lines if line and not line.startswith("#"))
    given |= {"PYTHONPATH": f"{ROOT}/server:{ROOT}", "FORTIMETRA_SECRET_KEY": "x" * 50, "PATH": "/usr/bin:/bin"}
    assert not Path(given["PROMETHEUS_MULTIPROC_DIR"]).exists()
    command = [sys.executable, str(ROOT / "server/manage.py"), "create_teacher", "--help"]
    done = subprocess.run(command, capture_output=True, text=True, env=given)
    assert done.returncode == 0, done.stderr
    assert "first teacher" in done.stdout


def test_every_queue_has_workers():
    queues = set(re.search(r"QUEUES = \((.*?)\)", (ROOT / "server/config/settings.py").read_text())[1].split(", "))
    queues = {q.strip('"') for q in queues}
    target = unit(DEPLOY / "systemd/fortimetra.target")["Unit"]["Wants"]
    assert set(re.findall(r"worker@(\w+)\.service", target)) == queues
    services = yaml.safe_load((DEPLOY / "compose.yaml").read_text())["services"]
    served = set()
    for service in services.values():
        command = service.get("command", [])
        if "--queues" in command:
            served |= set(command[command.index("--queues") + 1].split(","))
    assert served == queues


def test_containers_write_nowhere_but_where_they_should():
    services = yaml.safe_load((DEPLOY / "compose.yaml").read_text())["services"]
    for name in ("tables", "web", "quick", "measure"):
        assert services[name]["read_only"], name
        assert services[name]["cap_drop"] == ["ALL"], name
        assert "no-new-privileges:true" in services[name]["security_opt"], name


@pytest.mark.skipif(not Path("/usr/sbin/nginx").exists(), reason="nginx is not here")
def test_nginx_understands_its_example(tmp_path):
    key, certificate = tmp_path / "privkey.pem", tmp_path / "fullchain.pem"
    subprocess.run(
        ["openssl", "req", "-x509", "-newkey", "ec", "-pkeyopt", "ec_paramgen_curve:prime256v1", "-nodes", "-days",
         "2", "-subj", "/CN=guitar.school.example", "-keyout", key, "-out", certificate],
        check=True, capture_output=True,
    )  # fmt: skip
    text = (DEPLOY / "nginx/fortimetra.conf").read_text()
    # This Debian's nginx is older than the word of its own for HTTP/2.
    text = text.replace("    http2 on;\n", "").replace("/etc/ssl/fortimetra", str(tmp_path))
    whole = (
        f"pid {tmp_path}/pid;\nerror_log {tmp_path}/log;\nevents {{}}\nhttp {{\naccess_log off;\n"
        + "".join(f"{kind}_temp_path {tmp_path}/{kind};\n" for kind in TEMPORARY)
        + text
        + "}\n"
    )
    (tmp_path / "nginx.conf").write_text(whole)
    done = subprocess.run(
        ["/usr/sbin/nginx", "-t", "-e", f"{tmp_path}/log", "-c", f"{tmp_path}/nginx.conf"],
        capture_output=True,
        text=True,
    )
    assert done.returncode == 0, done.stderr
