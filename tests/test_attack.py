"""A short run of every attack; `tools/attack.py` goes on for as long as one likes."""

import subprocess
import sys
from pathlib import Path

import pytest

TOOL = Path(__file__).parents[1] / "tools" / "attack.py"
# A busy machine is slow: here only what hangs is a fault, and the long run takes the time.
PATIENCE = ("--slow", "20", "--memory", "600", "--minutes", "5", "--grace", "8")


@pytest.mark.parametrize(
    ("name", "inputs"),
    [
        *(("engines", 300), ("lifts", 300), ("kept", 60), ("words", 80), ("hands", 100)),
        *(("doors", 4), ("lamps", 100)),
        *(("actions", 600), ("lessons", 60), ("results", 150), ("damaged", 30), ("tables", 150)),
        *(("kills", 3), ("books", 4), ("windows", 2), ("careful", 60)),
    ],
)
def test_no_input_ends_hangs_or_loses_anything(name: str, inputs: int) -> None:
    words = [sys.executable, str(TOOL), "--only", name, "--inputs", str(inputs), *PATIENCE]
    ran = subprocess.run(words, capture_output=True, text=True)
    assert ran.returncode == 0, ran.stdout + ran.stderr
    assert f"{name}: {inputs} inputs" in ran.stdout
