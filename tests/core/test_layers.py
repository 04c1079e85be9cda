"""The core knows no Django, no HTTP and no server, and each of its packages only those above it."""

import ast
from pathlib import Path

import plinto_core
from tests.circles import circle_of

ROOT = Path(plinto_core.__file__).parent
FORBIDDEN = {"django", "ninja", "plinto_server", "plinto_demo", "http", "urllib", "socket", "gunicorn"}

#: Packages and modules in the order of their layers: each imports only what stands above it.
LAYERS = (
    "errors", "plain", "computed_once", "cores", "files", "compiled_kernels", "ready_kernels", "printed_page", "recipe",
    "colorimetry", "icc", "inks", "pipeline", "measurement", "press", "gamut", "separation", "adjust", "plate", "chain",
    "raster", "analysis", "route", "deliver", "screen", "profiling", "truth", "house_rules", "policy", "pdf",
    "inspection", "sandbox", "cli",
)  # fmt: skip


def imported(path):
    """Everything that a module imports from anywhere, functions included."""
    for node in ast.walk(ast.parse(path.read_text())):
        if isinstance(node, ast.Import):
            yield from (alias.name for alias in node.names)
        elif isinstance(node, ast.ImportFrom):
            module = node.module or ""
            yield from (f"{module}.{alias.name}" for alias in node.names) if module == "plinto_core" else [module]


def layer_of(path):
    """The package, or the module at the top, that a file belongs to."""
    parts = path.relative_to(ROOT).parts
    return parts[0] if len(parts) > 1 else path.stem


def test_core_imports_nothing_above_itself():
    found = []
    for path in ROOT.rglob("*.py"):
        # The sandbox speaks with its own process over a socket of the file system.
        allowed = {"socket"} if path.parent.name == "sandbox" else set()
        found += [(path.name, name) for name in imported(path) if name.split(".")[0] in FORBIDDEN - allowed]
    assert found == []


def test_each_layer_imports_only_what_stands_above_it():
    """Six packages imported each other in a circle, and nothing could fail for it."""
    upward, unknown = [], set()
    for path in ROOT.rglob("*.py"):
        own = layer_of(path)
        others = {name.split(".")[1] for name in imported(path) if name.startswith("plinto_core.")} - {"__version__"}
        unknown |= ({own} - {"__init__"} | others) - set(LAYERS)
        upward += [
            f"{path.relative_to(ROOT)} imports {other}"
            for other in others - unknown
            if own in LAYERS and other != own and LAYERS.index(other) > LAYERS.index(own)
        ]
    assert (upward, unknown) == ([], set())


def test_settings_load_nothing_that_computes():
    """Reading a recipe loaded 1,043 modules in two seconds: numba, SciPy, LittleCMS and a font among them."""
    import subprocess
    import sys

    code = "import sys; import plinto_core.recipe; print(sorted(sys.modules))"
    loaded = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True).stdout
    computing = ("numpy", "scipy", "numba", "imagecodecs", "tifffile", "PIL", "reportlab", "pikepdf")
    assert not [name for name in computing if f"'{name}'" in loaded]


def test_no_files_import_each_other_in_a_circle():
    """Layers are packages; inside of one, deliveries and their formats did."""
    assert circle_of(ROOT, "plinto_core") == []
