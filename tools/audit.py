"""Hold the locked libraries against an index of advisories: `make audit`.

Exit code 0 where none is known, 1 where one is, 2 where no index could be reached: then nothing is
known, and that is said. The tool is pip-audit, in an environment of its own below `build`.
"""

import json
import subprocess
import sys
from collections.abc import Sequence
from pathlib import Path
from typing import Any, Final

ROOT: Final = Path(__file__).parents[1]
LOCKS: Final = ("requirements.lock", "requirements-dev.lock", "requirements-package.lock")
HOME: Final = ROOT / "build" / "auditor"
NONE_REACHED: Final = (
    "No index of advisories could be reached: nothing was checked. Try again with a network."
)


def auditor() -> Path | None:
    """The tool, installed where it is not; None where it cannot be had."""
    tool = HOME / "bin" / "pip-audit"
    if not tool.exists():
        subprocess.run([sys.executable, "-m", "venv", str(HOME)], check=True)
        pip = [str(HOME / "bin" / "python"), "-m", "pip", "--disable-pip-version-check", "-q"]
        subprocess.run([*pip, "install", "pip-audit"], check=False, stderr=subprocess.DEVNULL)
    return tool if tool.exists() else None


def findings_of(told: dict[str, Any]) -> list[str]:
    """What a report of the tool says, one line an advisory.

    >>> advisory = {"id": "GHSA-x", "fix_versions": ["2.1"]}
    >>> findings_of({"dependencies": [{"name": "a", "version": "2.0", "vulns": [advisory]}]})
    ['a 2.0: GHSA-x, mended in 2.1']
    """
    lines = []
    for part in told["dependencies"]:
        for advisory in part.get("vulns", ()):
            mended = ", ".join(advisory["fix_versions"]) or "no version yet"
            lines.append(f"{part['name']} {part['version']}: {advisory['id']}, mended in {mended}")
    return lines


def unknown_of(told: dict[str, Any]) -> list[str]:
    """Parts that the index does not know: of them nothing can be said."""
    return [part["name"] for part in told["dependencies"] if "skip_reason" in part]


def report(reports: Sequence[dict[str, Any]]) -> tuple[int, str]:
    """The exit code and what is said of the reports of all lock files."""
    parts = {part["name"] for told in reports for part in told["dependencies"]}
    unknown = {name for told in reports for name in unknown_of(told)}
    if unknown == parts:
        # Without a network the tool leaves everything out, and calls that no finding.
        return 2, NONE_REACHED
    lines = sorted({line for told in reports for line in findings_of(told)})
    said = lines or [f"No advisory is known for {len(parts - unknown)} of {len(parts)} libraries."]
    if unknown:
        said.append(f"The index knows nothing of: {', '.join(sorted(unknown))}.")
    return (1 if lines else 0), "\n".join(said)


def main() -> int:
    """Audit every lock file."""
    tool = auditor()
    if tool is None:
        print(NONE_REACHED)
        return 2
    reports = []
    for lock in LOCKS:
        words = [str(tool), "--disable-pip", "--require-hashes", "-f", "json", "-r", lock]
        ran = subprocess.run(words, cwd=ROOT, capture_output=True, text=True, check=False)
        try:
            reports.append(json.loads(ran.stdout))
        except ValueError:
            print(NONE_REACHED)
            return 2
    code, said = report(reports)
    print(said)
    return code


if __name__ == "__main__":
    sys.exit(main())
