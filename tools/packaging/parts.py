"""Every part that ships, with its licence: `docs/licences.md`, the list for About, and an SBOM.

`parts.py licences` writes the two lists anew, `parts.py sbom` writes `dist/true-compass.cdx.json`
(CycloneDX).
"""

import json
import subprocess
import sys
from typing import Final

from tools.packaging.common import (
    DIST,
    ROOT,
    make_wheel,
    run,
    say,
    ship_python,
    tools_python,
    version,
)

SPDX: Final = {"LGPL v3": "LGPL-3.0-only", "BSD License": "BSD-3-Clause", "MIT License": "MIT"}
"""What packages call their licence, as SPDX spells it."""
INSIDE: Final = (
    ("Compass Text", "1", "OFL-1.1", "src/true_compass/look/fonts/OFL.txt", "the typeface"),
    ("CPython", "3.11", "PSF-2.0", "https://www.python.org", "in the .deb only"),
    (
        "PyInstaller bootloader",
        "6",
        "GPL-2.0-or-later WITH Bootloader-exception",
        "https://pyinstaller.org",
        "in the .deb only",
    ),
    ("OpenBLAS", "0.3", "BSD-3-Clause", "https://www.openblas.net", "inside numpy and scipy"),
    (
        "libgfortran, libquadmath",
        "5",
        "GPL-3.0-or-later WITH GCC-exception-3.1, LGPL-2.1-or-later",
        "https://gcc.gnu.org",
        "inside numpy and scipy",
    ),
)
"""What ships and is no Python package of its own."""
LISTS: Final = ROOT / "docs" / "licences.md"
ABOUT: Final = ROOT / "src" / "true_compass" / "look" / "parts.json"


def found() -> list[dict[str, str]]:
    """Every part by name."""
    told = subprocess.run(
        [
            str(tools_python().parent / "pip-licenses"),
            f"--python={ship_python()}",
            *("--format=json", "--with-urls", "--from=mixed"),
        ],
        check=True,
        capture_output=True,
        text=True,
    ).stdout
    parts = [
        {
            "name": one["Name"],
            "version": one["Version"],
            "licence": SPDX.get(one["License"], one["License"]),
            "home": one["URL"],
            "where": "a library",
        }
        for one in json.loads(told)
        if one["Name"].lower() not in ("true-compass", "pip", "setuptools")
    ]
    keys = ("name", "version", "licence", "home", "where")
    parts += [dict(zip(keys, one, strict=True)) for one in INSIDE]
    return sorted(parts, key=lambda part: part["name"].lower())


def write_licences() -> None:
    """Both lists."""
    parts = found()
    keys = ("name", "version", "licence", "where", "home")
    rows = [f"| {' | '.join(part[key] for key in keys)} |" for part in parts]
    head = (
        "# What ships, and under which licence\n\n"
        "True Compass itself is GPL-3.0-or-later ([LICENSE](../LICENSE)). `make licences` writes\n"
        "this list from the environment that is shipped.\n\n"
        "| part | version | licence (SPDX) | what it is | home |\n| --- | --- | --- | --- | --- |\n"
    )
    LISTS.write_text(head + "\n".join(rows) + "\n", encoding="utf-8")
    ABOUT.write_text(json.dumps(parts, indent=1, ensure_ascii=False) + "\n", encoding="utf-8")
    say(f"{len(parts)} parts: {LISTS.relative_to(ROOT)}, {ABOUT.relative_to(ROOT)}")


def write_sbom() -> None:
    """A software bill of materials of the shipped environment, with the program in it."""
    python, path = ship_python(), DIST / "true-compass.cdx.json"
    wheel = make_wheel()
    pip = (python, "-m", "pip", "--disable-pip-version-check", "-q", "install", "--no-deps")
    run(*pip, "--force-reinstall", wheel)
    run(
        tools_python().parent / "cyclonedx-py",
        *("environment", "--output-reproducible", "--of", "JSON", "--pyproject", "pyproject.toml"),
        *("--validate", "-o", path, python),
        quiet=True,
    )
    say(f"{path.relative_to(ROOT)}: {len(json.loads(path.read_text())['components'])} components")
    say(f"True Compass {version()}")


if __name__ == "__main__":
    {"licences": write_licences, "sbom": write_sbom}[sys.argv[1]]()
