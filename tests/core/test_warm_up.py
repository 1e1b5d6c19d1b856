"""After the warm-up nothing of the measuring is left to compile."""

import subprocess
import sys

# In a process of its own: here other tests have compiled what they need. What compiled functions alone call is compiled
# with them; what plain functions call has to have been called.
CODE = """
import ast, importlib, inspect, pkgutil
from numba.core.registry import CPUDispatcher
import fortimetra
from fortimetra.warm_up import warm_up
warm_up()
left, all_of = set(), 0
for package in ("hear", "align", "measure"):
    parent = importlib.import_module(f"fortimetra.{package}")
    for found in pkgutil.iter_modules(parent.__path__):
        module = importlib.import_module(f"fortimetra.{package}.{found.name}")
        for node in ast.walk(ast.parse(inspect.getsource(module))):
            if isinstance(node, ast.FunctionDef) and not node.decorator_list:
                for name in {n.id for n in ast.walk(node) if isinstance(n, ast.Name)}:
                    what = getattr(module, name, None)
                    if isinstance(what, CPUDispatcher):
                        all_of += 1
                        left |= set() if what.signatures else {f"{what.py_func.__module__}.{name}"}
print(all_of, *sorted(left))
"""


def test_the_first_take_waits_for_no_compiler():
    done = subprocess.run([sys.executable, "-c", CODE], capture_output=True, text=True, check=True)
    looked_at, *left = done.stdout.split()
    assert int(looked_at) > 10
    assert left == []
