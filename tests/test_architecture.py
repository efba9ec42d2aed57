import ast
import pkgutil
import subprocess
import sys
from pathlib import Path

import true_compass

# Everything that must work where there is no Qt.
BELOW_APP = ("core", "files", "session", "cli")


def modules_below_app() -> list[str]:
    folder = str(Path(true_compass.__file__).parent)
    found = [
        module.name
        for module in pkgutil.walk_packages([folder], "true_compass.")
        if module.name.split(".")[1] in BELOW_APP
    ]
    assert len(found) > 15
    return found


def test_nothing_below_the_app_needs_qt_or_loads_scipy() -> None:
    lines = [
        "import sys",
        "sys.modules['PyQt6'] = None",
        *(f"import {name}" for name in modules_below_app()),
        "assert 'scipy' not in sys.modules",
    ]
    subprocess.run([sys.executable, "-c", "\n".join(lines)], check=True)


def test_that_guard_bites() -> None:
    code = "import sys; sys.modules['PyQt6'] = None; import true_compass.drawing.ring"
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, check=False)
    assert done.returncode == 1


def test_values_that_hold_arrays_are_compared_by_identity() -> None:
    """Comparing two of them field by field would ask an array whether it is true."""
    for name in ("core", "drawing"):
        for path in (Path(true_compass.__file__).parent / name).rglob("*.py"):
            for node in ast.walk(ast.parse(path.read_text(encoding="utf-8"))):
                if not isinstance(node, ast.ClassDef):
                    continue
                fields = [
                    ast.unparse(n.annotation) for n in node.body if isinstance(n, ast.AnnAssign)
                ]
                made = " ".join(map(ast.unparse, node.decorator_list))
                if "dataclass" in made and any("Floats" in f or "ndarray" in f for f in fields):
                    assert "eq=False" in made, f"{path.name}: {node.name}"


def glued(tree: ast.AST) -> list[str]:
    """Sentences in which a word is chosen in the middle: they could not be translated."""
    found = []
    for node in ast.walk(tree):
        values = node.values if isinstance(node, ast.JoinedStr) else []
        for value in values:
            if isinstance(value, ast.FormattedValue) and isinstance(value.value, ast.IfExp):
                words = (value.value.body, value.value.orelse)
                texts = [w.value for w in words if isinstance(w, ast.Constant)]
                if any(isinstance(t, str) and len(t.strip()) > 1 for t in texts):
                    found.append(ast.unparse(node))
    return found


def test_no_sentence_is_glued_from_pieces() -> None:
    assert glued(ast.parse("f\"the valve {'opens' if up else 'closes'} here\""))
    for path in sorted(Path(true_compass.__file__).parent.rglob("*.py")):
        # What the form of all figures shows is read back by the program: no language of people.
        if path.name != "readers.py":
            assert glued(ast.parse(path.read_text(encoding="utf-8"))) == [], path
