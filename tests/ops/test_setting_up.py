"""What the commands say where a machine lacks something: each a sentence, and what to do."""

import os
import socket
import subprocess
from pathlib import Path

import pytest

from ops import commands, licences, say, setup
from ops.say import StartError


@pytest.fixture(autouse=True)
def _quiet(monkeypatch, tmp_path):
    monkeypatch.setattr(say, "quiet", True)
    monkeypatch.setattr(setup, "LOGS", tmp_path / "log")


def program(folder: Path, name: str, text: str) -> None:
    """A stand-in on the search path."""
    file = folder / name
    file.write_text(f"#!/bin/sh\n{text}\n")
    file.chmod(0o755)


@pytest.fixture
def bin_folder(tmp_path, monkeypatch):
    """A search path on which only what a test puts there is found, and sh."""
    folder = tmp_path / "bin"
    folder.mkdir()
    (folder / "sh").symlink_to("/bin/sh")
    (folder / "env").symlink_to("/usr/bin/env")
    monkeypatch.setenv("PATH", str(folder))
    monkeypatch.setattr(os, "geteuid", lambda: 0)
    return folder


@pytest.fixture
def policy(monkeypatch):
    """Installing must not touch what this machine says of services."""
    calls = []
    monkeypatch.setattr(setup, "no_system_services", lambda sudo: calls.append(list(sudo)) or _nothing())
    return calls


class _nothing:
    def __enter__(self):
        return None

    def __exit__(self, *_error):
        return False


def test_what_is_there_is_not_installed(bin_folder):
    setup.debian({"some-package": "/bin/sh"})  # no apt-get on the path: it would have failed


def test_a_machine_without_apt_is_told_what_to_install_by_hand(bin_folder):
    with pytest.raises(StartError, match="not a Debian machine") as caught:
        setup.debian({"some-package": "/nowhere/file"})
    assert "/nowhere/file" in caught.value.do


def test_without_a_network_the_packages_command_says_so(bin_folder, policy, tmp_path):
    program(bin_folder, "apt-get", "echo 'Temporary failure resolving the archive' >&2; exit 100")
    with pytest.raises(StartError, match="Could not refresh Debian's package list") as caught:
        setup.debian({"some-package": "/nowhere/file"})
    assert "Temporary failure resolving" in str(caught.value)
    assert "reaches its package registries" in caught.value.do
    assert policy == [[]]


def test_an_account_that_may_not_install_is_told_the_command(bin_folder, monkeypatch):
    program(bin_folder, "apt-get", "exit 0")
    program(bin_folder, "sudo", "exit 1")
    monkeypatch.setattr(os, "geteuid", lambda: 1000)
    with pytest.raises(StartError, match="may not install them: some-package") as caught:
        setup.debian({"some-package": "/nowhere/file"})
    assert caught.value.do == "run once: sudo apt-get install some-package"


def test_an_account_with_sudo_installs_through_it(bin_folder, policy, monkeypatch, tmp_path):
    marker = tmp_path / "asked"
    program(bin_folder, "apt-get", "exit 0")
    program(bin_folder, "sudo", f'echo "$@" >> {marker}')
    monkeypatch.setattr(os, "geteuid", lambda: 1000)
    setup.debian({"some-package": "/nowhere/file"})
    asked = marker.read_text()
    assert "install --no-install-recommends some-package" in asked
    assert policy == [["sudo", "-n"]]


def test_services_of_installed_packages_are_kept_from_starting(tmp_path, monkeypatch):
    policy = tmp_path / "policy-rc.d"
    monkeypatch.setattr(setup, "POLICY", policy)
    with setup.no_system_services([]):
        assert subprocess.run([policy], check=False).returncode == 101
    assert not policy.exists()
    policy.write_text("the machine's own")
    with setup.no_system_services([]):
        assert policy.read_text() == "the machine's own"
    assert policy.exists()


def test_a_full_disk_is_named_whatever_failed(tmp_path):
    log = tmp_path / "x.log"
    with pytest.raises(StartError) as caught:
        say.call(
            ["sh", "-c", "echo 'cp: error writing: No space left on device'; exit 1"],
            log=log, what="Could not copy", do="look at the lines above",
        )  # fmt: skip
    assert "the disk is full" in caught.value.do
    assert "exit status 1" in str(caught.value)
    assert log.read_text() in str(caught.value) + "\n"


def test_a_program_that_is_missing_is_a_sentence(tmp_path):
    with pytest.raises(StartError, match=r"Could not run it: .*No such file") as caught:
        say.call([tmp_path / "nothing"], log=tmp_path / "x.log", what="Could not run it", do="install it")
    assert caught.value.do == "install it"


def test_little_room_is_said_before_anything_starts(tmp_path, monkeypatch, capsys):
    usage = type("Usage", (), {"free": 299_000_000})
    monkeypatch.setattr(commands.shutil, "disk_usage", lambda _folder: usage)
    assert commands.main(["start", "--data", str(tmp_path / "d")], usage="") == 1
    told = capsys.readouterr().err
    assert "Less than 300 MB are free" in told
    assert "What to do: free some space" in told


@pytest.mark.parametrize("port", ["0", "65536", "-3"])
def test_a_port_that_is_none_is_refused(port, tmp_path, capsys):
    with pytest.raises(SystemExit):
        commands.main(["start", "--data", str(tmp_path), "--port", port], usage="")
    assert "is no port" in capsys.readouterr().err


def test_an_unknown_command_shows_the_usage(capsys):
    assert commands.main(["strat"], usage="  the usage") == 2
    assert commands.main([], usage="  the usage") == 0
    assert capsys.readouterr().out == "the usage\nthe usage\n"


def test_an_unknown_benchmark_names_the_known(capsys):
    assert commands.main(["bench", "pich"], usage="") == 1
    assert "choose from: " in (told := capsys.readouterr().err)
    assert "pitch" in told


def test_management_needs_a_running_application(tmp_path, capsys, monkeypatch):
    monkeypatch.setattr(setup, "python", lambda **_: None)
    assert commands.main(["manage", "--data", str(tmp_path), "migrate"], usage="") == 1
    assert "start it first" in capsys.readouterr().err


def test_management_says_so_where_the_application_was_cut_off(tmp_path, capsys, monkeypatch):
    monkeypatch.setattr(setup, "python", lambda **_: None)
    with socket.socket() as once:
        once.bind(("127.0.0.1", 0))
        port = once.getsockname()[1]
    (tmp_path / "run").mkdir()
    (tmp_path / "run" / "environment").write_text(f"FORTIMETRA_DB_HOST=127.0.0.1\nFORTIMETRA_DB_PORT={port}\n")
    assert commands.main(["manage", "--data", str(tmp_path), "migrate"], usage="") == 1
    assert "is just being stopped, or was cut off" in capsys.readouterr().err


def test_a_digest_tells_names_and_contents_apart(tmp_path, monkeypatch):
    monkeypatch.setattr(setup, "ROOT", tmp_path)
    one, two = tmp_path / "one", tmp_path / "two"
    one.write_text("x")
    two.write_text("")
    first = setup.digest([one, two])
    assert setup.digest([two, one]) == first
    one.write_text("")
    two.write_text("x")
    assert setup.digest([one, two]) != first


def test_other_sources_are_compiled_anew_and_old_results_go(tmp_path, monkeypatch):
    monkeypatch.setattr(setup, "ROOT", tmp_path)
    monkeypatch.setattr(setup, "VAR", tmp_path / "var")
    source = tmp_path / "core" / "fortimetra" / "kernel.py"
    source.parent.mkdir(parents=True)
    (source.parent / "plain.py").write_text("x = 1")
    folders = []
    for number in range(setup.COMPILED_KEPT + 3):
        source.write_text(f"@njit\ndef f(): return {number}")
        folders.append(Path(setup.compiled()))
        folders[-1].mkdir(parents=True)
        os.utime(folders[-1], (number, number))
    assert len(set(folders)) == len(folders)
    (source.parent / "plain.py").write_text("x = 2")
    assert Path(setup.compiled()) == folders[-1]
    assert [f.exists() for f in folders] == [False, False] + [True] * (setup.COMPILED_KEPT + 1)


def test_a_lock_file_that_npm_changes_is_put_back_and_said(tmp_path, monkeypatch):
    web = tmp_path / "web"
    (web / "src").mkdir(parents=True)
    (web / "node_modules").mkdir()
    for name in ("package.json", "package-lock.json"):
        (web / name).write_text("{}")
    monkeypatch.setattr(setup, "ROOT", tmp_path)
    monkeypatch.setattr(setup, "WEB", web)
    monkeypatch.setattr(setup, "VAR", tmp_path / "var")
    folder = tmp_path / "bin"
    folder.mkdir()
    program(folder, "npm", f"echo changed > {web}/package-lock.json")
    monkeypatch.setenv("PATH", f"{folder}:{os.environ['PATH']}")
    with pytest.raises(StartError, match=r"do not agree with package-lock\.json"):
        setup.front_end(build=False)
    assert (web / "package-lock.json").read_text() == "{}"
    program(folder, "npm", "exit 0")
    setup.front_end(build=False)
    program(folder, "npm", "exit 1")
    setup.front_end(build=False)  # nothing changed since: npm is not asked again
    (web / "package.json").write_text('{"changed": true}')
    with pytest.raises(StartError, match="Could not install the front end's packages"):
        setup.front_end(build=False)


def test_every_licence_is_known():
    rows = [*licences.python_packages(), *licences.web_packages()]
    assert [r for r in rows if not r.licence] == []
    assert {r.name for r in rows} >= {"numpy", "Django", "react"}
    fonts = [r for r in rows if r.where == "font"]
    assert {r.licence for r in fonts} == {"OFL-1.1"}
    assert len(fonts) == 2
