"""What Rulvek is built of: ``make audit``. Everything is pinned by its hash, and nothing in it is known to be broken.

The first is looked at here; the second is asked of the registries that the parts come from. Where they do not answer
that, it says so and ends with code 2: not knowing is not the same as knowing that all is well.
"""

import json
import re
import subprocess
import sys
from pathlib import Path

ROOT = Path(__file__).parents[1]
AUDITOR = ROOT / ".tools" / "bin" / "pip-audit"
BROKEN, UNKNOWN = 1, 2


def unpinned() -> list[str]:
    """Parts that could be another one tomorrow, one line each."""
    found = []
    for name in ("run", "dev"):
        text = (ROOT / "requirements" / f"{name}.txt").read_text(encoding="utf-8").replace("\\\n", " ")
        lines = [line for line in text.splitlines() if line and not line.startswith((" ", "#"))]
        found += [f"{name}: {line.split()[0]}" for line in lines if "==" not in line or "--hash=sha256:" not in line]
    packages = json.loads((ROOT / "web" / "package-lock.json").read_text(encoding="utf-8"))["packages"]
    found += [
        f"web: {name}" for name, one in packages.items() if name and not one.get("integrity") and not one.get("link")
    ]
    return found


def python_parts() -> tuple[list[str], int]:
    """Advisories of what runs on the server, and how many parts nobody could say anything of."""
    asked = [AUDITOR, "-r", ROOT / "requirements" / "run.txt", "--require-hashes", "--disable-pip", "-f", "json"]
    done = subprocess.run([*asked, "--progress-spinner", "off"], capture_output=True, text=True)
    parts = json.loads(done.stdout or "{}").get("dependencies", [])
    known = [f"{one['name']} {one['version']}: {bad['id']}" for one in parts for bad in one.get("vulns", [])]
    return known, sum("skip_reason" in one for one in parts) if parts else len(_pinned())


def _pinned() -> list[str]:
    return re.findall(r"^[a-z0-9].*?==", (ROOT / "requirements" / "run.txt").read_text(encoding="utf-8"), re.M)


def web_parts() -> tuple[list[str], bool]:
    """Advisories of what browsers load, and whether the registry answered."""
    done = subprocess.run(["npm", "audit", "--omit=dev", "--json"], cwd=ROOT / "web", capture_output=True, text=True)
    said = json.loads(done.stdout or "{}")
    found = [f"{name}: {one['severity']}" for name, one in said.get("vulnerabilities", {}).items()]
    return found, "vulnerabilities" in said


def main() -> int:
    """Look, ask, tell."""
    loose = unpinned()
    known, unasked = python_parts()
    of_web, answered = web_parts()
    for line in (*loose, *known, *of_web):
        print(line)
    print(f"{len(loose)} parts are not pinned by a hash; {len(known) + len(of_web)} advisories are known.")
    if unasked:
        print(f"Of {unasked} Python packages the registry did not say anything: ask again from another network.")
    if not answered:
        print("The registry of the web packages did not answer: ask again from another network.")
    return BROKEN if loose or known or of_web else UNKNOWN if unasked or not answered else 0


if __name__ == "__main__":
    sys.exit(main())
