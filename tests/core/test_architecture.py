"""Dependencies point one way: web → server → core; inside the core downward in the order of the pipeline."""

import ast
import importlib
import subprocess
import sys
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[2]
CORE = ROOT / "core" / "fortimetra"
SERVER = ROOT / "server"
# A package may import those before it.
ORDER = [
    "later",
    "errors",
    "version",
    "units",
    "settings",
    "model",
    "sound",
    "hear",
    "align",
    "measure",
    "judge",
    "workbench",
    "technique",
    "coach",
    "drills",
    "player",
    "card",
    "pipeline",
    "guess",
    "formats",
]
ALLOWED_OUTSIDE = {
    "numpy",
    "scipy",
    "numba",
    "soundfile",
    "soxr",
    "av",
    "pydantic",
    "pyloudnorm",
    "mido",
    "music21",
    "defusedxml",
}
ARRAYS = {"FloatArray", "Samples", "NDArray"}


# Numbers that are no thresholds: counts, halves, units; under a thousandth, the tolerance of arithmetic.
NO_THRESHOLDS = {0, 1, 2, 3, -1, 0.5}
UNITS = {10, 12, 20, 60, 100, 1000, 1200}
LEAST_THRESHOLD = 1e-3
IDENTITY = (ast.Is, ast.IsNot, ast.In, ast.NotIn)
# File formats are bytes at places.
BYTES = {"kind.py", "decode.py"}


def bare_thresholds(path: Path) -> list[str]:
    """Numbers that something is compared with, by the line."""
    found = []
    for node in ast.walk(ast.parse(path.read_text())):
        if not isinstance(node, ast.Compare) or all(isinstance(op, IDENTITY) for op in node.ops):
            continue
        scaled = {id(n) for part in ast.walk(node) if isinstance(part, ast.BinOp) for n in (part.left, part.right)}
        for part in (p for side in (node.left, *node.comparators) for p in ast.walk(side)):
            value = part.value if isinstance(part, ast.Constant) else None
            if not isinstance(value, int | float) or isinstance(value, bool) or value in NO_THRESHOLDS:
                continue
            whole = value >= 2**32 or (value in UNITS and id(part) in scaled)
            if abs(value) > LEAST_THRESHOLD and not whole:
                found.append(f"{path.name}:{part.lineno}: {value}")
    return found


@pytest.mark.parametrize("stage", ["sound", "hear", "align", "measure", "judge", "coach"])
def test_what_is_compared_is_compared_with_a_setting(stage):
    files = [p for p in (CORE / stage).glob("*.py") if p.name not in BYTES]
    assert [line for p in files for line in bare_thresholds(p)] == []


def imports(path: Path) -> set[str]:
    found = set()
    for node in ast.walk(ast.parse(path.read_text())):
        if isinstance(node, ast.Import):
            found |= {a.name for a in node.names}
        elif isinstance(node, ast.ImportFrom) and node.module and node.level == 0:
            found |= {node.module} | {f"{node.module}.{a.name}" for a in node.names}
    return found


def core_files():
    return sorted(CORE.rglob("*.py"))


@pytest.mark.parametrize("path", core_files(), ids=lambda p: str(p.relative_to(CORE)))
def test_core_imports_only_what_it_may(path):
    outside = (
        {name.split(".")[0] for name in imports(path)} - {"fortimetra", "__future__"} - set(sys.stdlib_module_names)
    )
    assert outside <= ALLOWED_OUTSIDE


@pytest.mark.parametrize("path", core_files(), ids=lambda p: str(p.relative_to(CORE)))
def test_core_packages_import_downward(path):
    package = path.relative_to(CORE).parts[0].removesuffix(".py")
    if package not in ORDER:
        return  # the command line, the package's own names and the warm-up stand above all
    rank = ORDER.index(package)
    for name in imports(path):
        parts = name.split(".")
        if parts[0] == "fortimetra" and len(parts) > 1 and parts[1] in ORDER:
            assert ORDER.index(parts[1]) <= rank, f"{package} imports {name}"


# An app of the server may import those before it; what an earlier one has to tell a later one is a signal.
APPS = [
    "people", "jobs", "guitars", "drills", "bench", "takes", "reviews", "measuring", "plans", "reports", "archive",
    "demo", "keeper",
]  # fmt: skip


def app_files():
    return sorted(p for p in (SERVER / "apps").rglob("*.py") if "migrations" not in p.parts and p.name != "__init__.py")


def test_every_app_has_its_place():
    assert {p.parent.name for p in (SERVER / "apps").glob("*/apps.py")} == set(APPS)


@pytest.mark.parametrize("path", app_files(), ids=lambda p: str(p.relative_to(SERVER / "apps")))
def test_apps_import_downward(path):
    app = path.relative_to(SERVER / "apps").parts[0]
    for name in imports(path):
        parts = name.split(".")
        if parts[0] == "apps" and len(parts) > 1:
            assert APPS.index(parts[1]) <= APPS.index(app), f"{app} imports {name}"


def test_the_project_imports_no_app_but_for_its_addresses():
    for path in sorted((SERVER / "config").rglob("*.py")):
        if path.name in {"api.py", "urls.py"}:
            continue
        assert not [n for n in imports(path) if n.split(".")[0] == "apps"], path


# What the server asks of the core is exported by these; behind them files may move.
FRONTS = {"fortimetra", "fortimetra.units", "fortimetra.warm_up"} | {
    f"fortimetra.{name}"
    for name in ("model", "drills", "coach", "card", "formats", "player", "workbench", "judge")
}  # fmt: skip


def server_modules():
    return sorted(p for p in SERVER.rglob("*.py") if "node_modules" not in p.parts)


def test_the_server_uses_the_core_by_its_fronts():
    for path in server_modules():
        for node in ast.walk(ast.parse(path.read_text())):
            if isinstance(node, ast.ImportFrom) and (node.module or "").split(".")[0] == "fortimetra":
                assert node.module in FRONTS, f"{path.relative_to(SERVER)} imports {node.module}"


def test_the_fronts_load_no_signal_processing():
    code = f"import sys, {', '.join(sorted(FRONTS - {'fortimetra.warm_up'}))}; print(*sys.modules)"
    loaded = set(
        subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True).stdout.split()
    )
    assert "fortimetra.coach" in loaded
    assert not loaded & {"numba", "scipy.signal", "av", "music21", "fortimetra.pipeline"}


@pytest.mark.parametrize("front", sorted(FRONTS - {"fortimetra.units", "fortimetra.warm_up"}))
def test_every_exported_name_is_there(front):
    module = importlib.import_module(front)
    for name in module.__all__:
        assert getattr(module, name) is not None
    with pytest.raises(AttributeError, match="no attribute 'nothing_of_this_name'"):
        module.nothing_of_this_name  # noqa: B018


def test_only_workers_tasks_measure():
    for path in SERVER.rglob("*.py"):
        names = imports(path)
        measures = {"fortimetra.pipeline", "fortimetra.measure_take", "fortimetra.analyse", "fortimetra.guess"} & names
        if measures:
            assert path.relative_to(SERVER).as_posix() == "apps/measuring/tasks.py", path


def _arrays_unsaid(path: Path) -> list[str]:
    """Public functions that take or give arrays and do not say of which shape."""
    found = []
    for node in ast.parse(path.read_text()).body:
        if isinstance(node, ast.FunctionDef) and not node.name.startswith("_"):
            kinds = [a.annotation for a in (*node.args.args, *node.args.kwonlyargs)] + [node.returns]
            names = {n.id for kind in kinds if kind for n in ast.walk(kind) if isinstance(n, ast.Name)}
            if names & ARRAYS and "shape" not in (ast.get_docstring(node) or ""):
                found.append(node.name)
    return found


@pytest.mark.parametrize("package", ["sound", "hear", "align", "measure", "judge", "player", "workbench"])
def test_public_functions_of_arrays_state_shapes(package):
    unsaid = {file.name: names for file in (CORE / package).rglob("*.py") if (names := _arrays_unsaid(file))}
    assert unsaid == {}


def test_web_features_do_not_import_each_other():
    features = ROOT / "web" / "src" / "features"
    for path in features.rglob("*.ts*"):
        own = path.relative_to(features).parts[0]
        for line in path.read_text().splitlines():
            if "~/features/" in line:
                assert f"~/features/{own}/" in line, f"{path}: {line}"
