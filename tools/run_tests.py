"""Runs the tests in two processes, most screens in one and all else in the other, and counts what they say.

The screens wait for a browser much of the time, so that both together take little longer than the longer one.
"""

import re
import subprocess
import sys
import tempfile
import time
from pathlib import Path

ROOT = Path(__file__).parents[1]
FOLDERS = ("core", "sources", "stage", "store", "crew", "output", "api")
PARTS = {
    "most screens": ["discover -s tests/screens -t . -p 'test_[!cj]*.py'"],
    "all else": [
        *(f"discover -s tests/{folder} -t ." for folder in FOLDERS),
        "tests.test_cli tests.test_guides",
        "discover -s tests/screens -t . -p 'test_[cj]*.py'",
    ],
}
"""What each process runs, one call of unittest after the other; both take about as long."""
TELL_SECONDS = 30


def main() -> int:
    """Exit status: 0 when every test passed."""
    with tempfile.TemporaryDirectory() as place:
        logs = {name: Path(place) / name.replace(" ", "-") for name in PARTS}
        running = {name: start(name, log) for name, log in logs.items()}
        begun = told = time.monotonic()
        while any(process.poll() is None for process in running.values()):
            time.sleep(0.5)
            if time.monotonic() - told > TELL_SECONDS:
                told = time.monotonic()
                done = ", ".join(f"{name} {ended(log)}" for name, log in logs.items())
                print(f"{told - begun:.0f} s: {done} tests ended", flush=True)
        status = max(process.returncode for process in running.values())
        texts = {name: log.read_text(errors="replace") for name, log in logs.items()}
    for name, text in texts.items():
        print(f"== {name}\n{text}")
    ran = sum(int(count) for text in texts.values() for count in re.findall(r"^Ran (\d+) tests?", text, re.MULTILINE))
    wrong = sum(
        int(count)
        for text in texts.values()
        for told in re.findall(r"^FAILED \((.*)\)", text, re.MULTILINE)
        for count in re.findall(r"(?:failures|errors)=(\d+)", told)
    )
    print(f"{ran - wrong} passed, {wrong} failed")
    return status


def ended(log: Path) -> int:
    """How many tests have ended: unittest writes a letter for each."""
    letters = re.findall(r"^[.FEsxu]+", log.read_text(errors="replace"), re.MULTILINE)
    return sum(map(len, letters))


def start(name: str, log: Path) -> "subprocess.Popen[bytes]":
    """One process that runs a part of the tests."""
    calls = "; ".join(f"{sys.executable} -m unittest {call} || status=1" for call in PARTS[name])
    script = f"status=0; {calls}; exit $status"
    return subprocess.Popen(["bash", "-c", script], cwd=ROOT, stdout=log.open("wb"), stderr=subprocess.STDOUT)


if __name__ == "__main__":
    sys.exit(main())
