"""Install the .deb on bare Debian 12 and 13 and start it there, in a folder of its own each.

Needs root and debootstrap, and says so where they are not. What was done is in `build/chroot.log`.
"""

import os
import shutil
import subprocess
import sys
import time
from pathlib import Path
from typing import Final

from tools.packaging.common import BUILD, DIST, say

SUITES: Final = {"bookworm": "Debian 12", "trixie": "Debian 13"}
LOG: Final = BUILD / "chroot.log"
WINDOW: Final = """
export XDG_RUNTIME_DIR=/tmp/run QT_LOGGING_RULES='*=false'; mkdir -p -m 700 /tmp/run
true-compass birch & first=$!
for n in $(seq 100); do [ -S /tmp/run/true-compass-*.sock ] && break; sleep 0.2; done
sleep 2
kill -0 $first || { echo "the window is not open"; exit 1; }
true-compass cedar || exit 1
sleep 2
import -window root /tmp/window.png 2>/dev/null
kill -TERM $first; wait $first; echo "the window closed with $?"
"""
CHECKS: Final = (
    ("its version", "true-compass --version"),
    ("a plan", "true-compass stops birch > /tmp/plan; head -1 /tmp/plan"),
    ("a wheel as PDF", "true-compass paper wheel birch -o /tmp/w.pdf && head -c 5 /tmp/w.pdf"),
    (
        "a lift table smoothed (SciPy)",
        'awk \'BEGIN{print "cam_deg,lift_mm"; for(i=0;i<=160;i+=4)'
        '{s=sin(3.14159265*i/160); printf "%d,%.3f\\n", i, 8*s*s}}\' > /tmp/t.csv && '
        "true-compass events birch --cylinder 1 --table-intake /tmp/t.csv | tail -1",
    ),
    (
        "shims assigned (SciPy)",
        "true-compass shims --shims 2.70,2.60 --gaps 0.13,0.12 --band 0.15/0.25 "
        "--stock 2.50:3.50:0.05 > /tmp/shims; head -1 /tmp/shims",
    ),
    (
        "lessons, scenarios, a table of jobs",
        "true-compass lesson list > /tmp/l && true-compass scenario list > /tmp/s && "
        "true-compass book blank birch -o /tmp/j.csv",
    ),
    (
        "the first screen without a display",
        "cd /tmp && env -u DISPLAY true-compass --demo && ls -l /tmp/true-compass-demo.png",
    ),
    ("a window on a screen, and a second start", "xvfb-run -a sh /tmp/window.sh"),
    (
        "what the second start asked for was open",
        'grep -o \'"engine.rig": "[a-z]*"\' /root/.config/true-compass/settings.json | grep cedar',
    ),
    ("its manual page", "gzip -t /usr/share/man/man1/true-compass.1.gz"),
    ("its kind of file", "grep x-true-compass-engine /usr/share/mime/globs2"),
)


class Chroot:
    """One bare system in a folder."""

    def __init__(self, suite: str) -> None:
        self.suite = suite
        self.root = BUILD / "chroot" / suite

    def run(self, command: str) -> tuple[int, str]:
        """A line of shell inside; its exit code and what it said."""
        env = {"PATH": "/usr/sbin:/usr/bin:/sbin:/bin", "HOME": "/root", "LANG": "C.UTF-8"}
        env["DEBIAN_FRONTEND"] = "noninteractive"
        done = subprocess.run(
            ["chroot", str(self.root), "bash", "-o", "pipefail", "-c", command],
            check=False,
            env=env,
            stdout=subprocess.PIPE,
            stderr=subprocess.STDOUT,
            text=True,
            errors="replace",
        )
        note(f"[{self.suite}] $ {command.strip().splitlines()[0]}\n{done.stdout.strip()}\n")
        return done.returncode, done.stdout.strip()

    def make(self) -> None:
        """A bare system by debootstrap, with the package's folder in it."""
        shutil.rmtree(self.root, ignore_errors=True)
        self.root.parent.mkdir(parents=True, exist_ok=True)
        words = ["debootstrap", "--variant=minbase", self.suite, str(self.root)]
        done = subprocess.run(words, check=False, capture_output=True, text=True)
        if done.returncode:
            note(done.stdout[-2000:] + done.stderr[-2000:])
            sys.exit(f"true-compass: debootstrap {self.suite} failed; see {LOG}")
        shutil.copyfile("/etc/resolv.conf", self.root / "etc" / "resolv.conf")
        (self.root / "tmp" / "window.sh").write_text(WINDOW, encoding="utf-8")


def note(text: str) -> None:
    """Add to the log."""
    with LOG.open("a", encoding="utf-8") as log:
        log.write(text)


def check(suite: str, package: Path) -> list[str]:
    """Everything on one system; the names of what went wrong."""
    chroot, wrong = Chroot(suite), []
    chroot.make()
    shutil.copyfile(package, chroot.root / "tmp" / package.name)
    begun = time.monotonic()
    code, told = chroot.run(
        f"apt-get -q update && apt-get -q -y install --no-install-recommends /tmp/{package.name}"
    )
    say(f"{SUITES[suite]}: installed in {time.monotonic() - begun:.0f} s, exit code {code}")
    if code:
        return [f"{suite}: installing: {told[-400:]}"]
    chroot.run(
        "apt-get -q -y install --no-install-recommends xvfb xauth imagemagick shared-mime-info"
    )
    for name, command in CHECKS:
        code, told = chroot.run(command)
        last = told.splitlines()[-1] if told else ""
        say(f"  {name}: {'well' if code == 0 else 'WRONG'}: {last[:90]}")
        if code:
            wrong.append(f"{suite}: {name}: {told[-400:]}")
    picture = chroot.root / "tmp" / "window.png"
    if picture.exists():
        shutil.copyfile(picture, BUILD / f"window-{suite}.png")
    code, told = chroot.run("apt-get -q -y remove true-compass && ls -d /usr/lib/true-compass")
    if code == 0:
        wrong.append(f"{suite}: removing leaves {told[-200:]}")
    say("  taken away again" if code else "  WRONG: something was left")
    return wrong


def main() -> int:
    """Both systems; the exit code."""
    if os.geteuid() != 0 or not shutil.which("debootstrap"):
        say("The chroot test needs root and debootstrap; here it was not run.")
        return 0
    packages = sorted(DIST.glob("true-compass_*.deb"))
    if not packages:
        sys.exit("true-compass: there is no package yet: make deb")
    LOG.parent.mkdir(exist_ok=True)
    LOG.write_text("", encoding="utf-8")
    wrong = [one for suite in SUITES for one in check(suite, packages[-1])]
    for one in wrong:
        say(one)
    say(f"The whole log: {LOG}")
    return 1 if wrong else 0


if __name__ == "__main__":
    sys.exit(main())
