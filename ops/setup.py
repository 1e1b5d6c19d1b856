"""Bring a Debian machine to where the application can run: packages, virtual environment, front end."""

from __future__ import annotations

import fcntl
import hashlib
import os
import shutil
import subprocess
import sys
import sysconfig
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from pathlib import Path

from ops.say import StartError, call, step

ROOT = Path(__file__).resolve().parent.parent
VAR = ROOT / "var"
VENV = ROOT / ".venv"
PYTHON = VENV / "bin" / "python"
LOGS = VAR / "log"
WEB = ROOT / "web"

# Debian package → a file that shows it is there.
# The products of the measuring are small: threads that wait for each other take many times as long as one.
ONE_THREAD = {"OMP_NUM_THREADS": "1", "OPENBLAS_NUM_THREADS": "1"}
PYTHON_PACKAGES = {
    "libmariadb-dev": "/usr/include/mariadb/mysql.h",
    "gcc": "/usr/bin/gcc",
    "libc6-dev": "/usr/include/stdio.h",
    "pkg-config": "/usr/bin/pkg-config",
}
_LIBRARIES = f"/usr/lib/{sysconfig.get_config_var('MULTIARCH') or 'x86_64-linux-gnu'}"
SERVER_PACKAGES = {
    "mariadb-server": "/usr/sbin/mariadbd",
    "redis-server": "/usr/bin/redis-server",
    "nginx": "/usr/sbin/nginx",
    # What the lesson sheet's PDF is set with.
    "libpango-1.0-0": f"{_LIBRARIES}/libpango-1.0.so.0",
    "libpangoft2-1.0-0": f"{_LIBRARIES}/libpangoft2-1.0.so.0",
    "libharfbuzz-subset0": f"{_LIBRARIES}/libharfbuzz-subset.so.0",
}
TEST_PACKAGES = {
    "chromium-headless-shell": "/usr/lib/chromium/chromium-headless-shell",
    "chromium-driver": "/usr/bin/chromedriver",
    "fluidsynth": "/usr/bin/fluidsynth",
    "timgm6mb-soundfont": "/usr/share/sounds/sf2/TimGM6mb.sf2",
}
# Of this many earlier states of the sources what was compiled is left.
COMPILED_KEPT = 4
POLICY = Path("/usr/sbin/policy-rc.d")
NO_NETWORK = "check that this machine reaches its package registries (apt, PyPI, npm), then start again"


@contextmanager
def one_at_a_time(name: str) -> Iterator[None]:
    """Keep two commands from setting up the same thing at once; the second waits."""
    VAR.mkdir(exist_ok=True)
    with (VAR / f"{name}.lock").open("w") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        yield


def debian(packages: dict[str, str]) -> None:
    """Install the Debian packages of which the tell-tale file is missing."""
    missing = [name for name, file in packages.items() if not Path(file).exists()]
    if not missing:
        return
    if shutil.which("apt-get") is None:
        raise StartError(
            f"These programs are missing: {', '.join(missing)}, and this is not a Debian machine.",
            "install them by hand; the file each is looked for under: " + ", ".join(packages[m] for m in missing),
        )
    sudo = [] if os.geteuid() == 0 else ["sudo", "-n"]
    if sudo and (shutil.which("sudo") is None or subprocess.run([*sudo, "true"], capture_output=True).returncode):
        raise StartError(
            f"Debian packages are missing and this account may not install them: {', '.join(missing)}.",
            f"run once: sudo apt-get install {' '.join(missing)}",
        )
    log = LOGS / "apt.log"
    apt = [*sudo, "env", "DEBIAN_FRONTEND=noninteractive", "apt-get", "-o", "DPkg::Lock::Timeout=300", "-y"]
    with step(f"Debian packages: {', '.join(missing)}"), no_system_services(sudo):
        call([*apt, "update"], log=log, what="Could not refresh Debian's package list", do=NO_NETWORK)
        call(
            [*apt, "install", "--no-install-recommends", *missing],
            log=log,
            what="Could not install Debian packages",
            do=NO_NETWORK,
        )


@contextmanager
def no_system_services(sudo: Sequence[str]) -> Iterator[None]:
    """Packages installed here must not start a database or a broker of their own."""
    if POLICY.exists():
        yield
        return
    subprocess.run([*sudo, "sh", "-c", f"printf '#!/bin/sh\\nexit 101\\n' > {POLICY}; chmod +x {POLICY}"], check=True)
    try:
        yield
    finally:
        subprocess.run([*sudo, "rm", "-f", str(POLICY)], check=False)


def digest(files: Sequence[Path]) -> str:
    """Of the names and contents of files of the checkout."""
    total = hashlib.sha256()
    for file in sorted(files):
        total.update(file.relative_to(ROOT).as_posix().encode() + b"\0" + file.read_bytes())
    return total.hexdigest()


def compiled() -> str:
    """Folder of what numba compiles of these sources, another one for other sources: numba looks for changes in a
    function's own file alone, but a compiled function holds what it calls.
    """
    sources = [f for f in (ROOT / "core" / "fortimetra").rglob("*.py") if b"njit" in f.read_bytes()]
    kept = VAR / "numba" / digest(sources)[:16]
    if not kept.exists() and kept.parent.exists():
        others = sorted(kept.parent.iterdir(), key=lambda f: f.stat().st_mtime)
        for old in others[:-COMPILED_KEPT]:
            shutil.rmtree(old, ignore_errors=True) if old.is_dir() else old.unlink(missing_ok=True)
    return str(kept)


def python(*, tests: bool = False) -> None:
    """Make or refresh the virtual environment from the hashed requirements."""
    wanted = "test" if tests else "app"
    digests = {
        kind: f"{kind} {sys.version_info[:2]} "
        + digest([ROOT / "requirements" / f"{n}.txt" for n in ("bootstrap", "build", kind)] + [ROOT / "pyproject.toml"])
        for kind in ("app", "test")
    }
    with one_at_a_time("python"):
        stamp = VENV / "fortimetra.stamp"
        have = stamp.read_text() if stamp.exists() else ""
        if PYTHON.exists() and (have == digests["test"] or (not tests and have == digests["app"])):
            return
        debian(PYTHON_PACKAGES)
        with step("Python packages"):
            log = LOGS / "python.log"
            stamp.unlink(missing_ok=True)
            if not PYTHON.exists():
                shutil.rmtree(VENV, ignore_errors=True)
                call(
                    [sys.executable, "-m", "venv", VENV],
                    log=log,
                    what="Could not make the virtual environment",
                    do="install Debian's python3-venv package, then start again",
                )
            requirements = ROOT / "requirements"
            call(
                [PYTHON, "-m", "pip", "-q", "install", "--require-hashes", "-r", requirements / "bootstrap.txt"],
                log=log,
                what="Could not install the package installer",
                do=NO_NETWORK,
            )
            env = os.environ | {"VIRTUAL_ENV": str(VENV), "UV_NO_CONFIG": "1", "UV_LINK_MODE": "copy"}
            uv = VENV / "bin" / "uv"
            # Sync removes what is not listed, uv itself included: it is run from a copy.
            runner = VAR / "uv"
            shutil.copy2(uv, runner)
            call(
                [
                    runner,
                    "pip",
                    "sync",
                    "--require-hashes",
                    "--strict",
                    "--build-constraints",
                    requirements / "build.txt",
                    requirements / f"{wanted}.txt",
                ],
                log=log,
                env=env,
                what="Could not install the Python packages",
                do=NO_NETWORK,
            )
            call(
                [runner, "pip", "install", "--no-deps", "--no-build-isolation", "-e", ROOT],
                log=log,
                env=env,
                what="Could not install the measuring core",
                do="read the lines above; a changed pyproject.toml is the usual reason",
            )
            stamp.write_text(digests[wanted])


def bench_python() -> None:
    """Add what the benchmarks compare with to the environment of the tests; a later refresh takes it out again."""
    python(tests=True)
    requirements = ROOT / "requirements"
    have = subprocess.run(
        [PYTHON, "-c", "import aubio, pyworld, swift_f0"], capture_output=True, check=False
    ).returncode
    if have == 0:
        return
    with step("packages to compare with"):
        env = os.environ | {"VIRTUAL_ENV": str(VENV), "UV_NO_CONFIG": "1", "UV_LINK_MODE": "copy"}
        # aubio has no wheel and builds with the numpy that is there.
        for file, extra in (("build", []), ("bench", ["--no-build-isolation", "--no-deps"])):
            call(
                [VAR / "uv", "pip", "install", "--require-hashes", *extra, "-r", requirements / f"{file}.txt"],
                log=LOGS / "python.log",
                env=env,
                what="Could not install the packages the benchmarks compare with",
                do=NO_NETWORK,
            )


def front_end(*, build: bool = True) -> None:
    """Install the front end's packages and build it, if its sources changed."""
    with one_at_a_time("web"):
        sources = [f for f in (WEB / "src").rglob("*") if f.is_file()] + [
            f for f in WEB.iterdir() if f.is_file() and f.suffix in {".json", ".ts", ".html"}
        ]
        packages = digest([WEB / "package.json", WEB / "package-lock.json"])
        stamp = WEB / "node_modules" / ".fortimetra-stamp"
        log = LOGS / "web.log"
        if not stamp.exists() or stamp.read_text() != packages:
            _node()
            with step("front-end packages"):
                lock = WEB / "package-lock.json"
                before = lock.read_bytes()
                call(
                    ["npm", "install", "--no-save", "--no-audit", "--no-fund", "--ignore-scripts"],
                    cwd=WEB,
                    log=log,
                    what="Could not install the front end's packages",
                    do=NO_NETWORK,
                )
                if lock.read_bytes() != before:
                    lock.write_bytes(before)
                    raise StartError(
                        "The front end's packages do not agree with package-lock.json.",
                        "run npm install in web/, look at what changed in the lock file and commit it",
                    )
                stamp.write_text(packages)
        built = WEB / "dist" / ".fortimetra-stamp"
        now = digest(sources)
        if build and (not built.exists() or built.read_text() != now):
            _node()
            with step("front end"):
                call(
                    ["npm", "run", "--silent", "build"],
                    cwd=WEB,
                    log=log,
                    what="Could not build the front end",
                    do="the lines above name the file; mend it and start again",
                )
                call(
                    [PYTHON, "-m", "whitenoise.compress", "-q", WEB / "dist"],
                    log=log,
                    what="Could not compress the front end's files",
                    do="look at the lines above",
                )
                built.write_text(now)


def _node() -> None:
    if shutil.which("npm") is None:
        raise StartError("Node.js with npm is missing.", "install Node 20 (Debian: nodejs and npm), then start again")
