"""Runs all tests in two processes side by side, the longest modules first: ``python -m tests.run [part …]``.

A failure is printed as soon as it happens, and again at the end. Parts are folders, modules or
classes, such as ``core``, ``screens.test_bench`` or ``test_cli``.
"""

import json
import os
import subprocess
import sys
import threading
import time
import unittest
from pathlib import Path

ROOT = Path(__file__).parent
PROCESSES = int(os.environ.get("VEXEL_TEST_PROCESSES", "2"))
LONGEST_FIRST = (
    "screens",
    "test_cli",
    "test_wheel",
    "api",
    "workers",
    "sources",
    "output",
    # Its workers want all cores: beside pages that wait for events it would make those late.
    "test_bench",
    "stage",
    "interchange",
    "store",
    "core",
)


def modules(parts):
    """Names of the test modules, those that take long first."""
    files = (file for file in ROOT.rglob("test_*.py"))
    names = [".".join(file.relative_to(ROOT.parent).with_suffix("").parts) for file in files]
    chosen = [name for name in names if not parts or any(f".{part}" in f"{name}." for part in parts)]
    unknown = [part for part in parts if part not in ("",) and not any(f".{part}" in f"{name}." for name in names)]
    if unknown:
        sys.exit(f"there is no test named {', '.join(unknown)}")

    def order(name):
        part = name.split(".")[1]
        size = (ROOT.parent / f"{name.replace('.', '/')}.py").stat().st_size
        return LONGEST_FIRST.index(part) if part in LONGEST_FIRST else len(LONGEST_FIRST), -size

    return sorted(chosen, key=order)


class Timed(unittest.TextTestResult):
    """Prints failures at once, and keeps how long each test took."""

    def startTest(self, test):  # noqa: N802
        self._begun = time.monotonic()
        super().startTest(test)

    def stopTest(self, test):  # noqa: N802
        SECONDS[str(test)] = time.monotonic() - self._begun
        super().stopTest(test)

    def _say(self, kind, test, error):
        text = f"{'=' * 70}\n{kind}: {test}\n{'-' * 70}\n{self._exc_info_to_string(error, test)}"
        print(text, flush=True)
        FAILURES.append(text)

    def addError(self, test, err):  # noqa: N802
        self._say("ERROR", test, err)
        super().addError(test, err)

    def addFailure(self, test, err):  # noqa: N802
        self._say("FAIL", test, err)
        super().addFailure(test, err)

    def addSubTest(self, test, subtest, err):  # noqa: N802
        if err is not None:
            self._say("FAIL", subtest, err)
        super().addSubTest(test, subtest, err)

    def printErrors(self):  # noqa: N802
        """They were printed as they happened."""


SECONDS = {}
FAILURES = []
BROKEN = {"ran": 0, "bad": True, "skipped": 0, "seconds": 0.0, "tests": {}, "failures": []}
"""What is told of a module whose process broke down."""


def work():
    """Run the modules whose names come on standard input; a line of JSON for each goes to descriptor 3."""
    answers = os.fdopen(3, "w")
    for line in sys.stdin:
        name, begun = line.strip(), time.monotonic()
        SECONDS.clear()
        FAILURES.clear()
        suite = unittest.defaultTestLoader.loadTestsFromName(name)
        with open(os.devnull, "w") as nowhere:
            result = unittest.TextTestRunner(nowhere, resultclass=Timed, warnings="ignore").run(suite)
        told = {"name": name, "ran": result.testsRun, "bad": not result.wasSuccessful(),
                "skipped": len(result.skipped), "seconds": time.monotonic() - begun, "tests": SECONDS,
                "failures": FAILURES}  # fmt: skip
        print(json.dumps(told), file=answers, flush=True)


def serve(waiting, lock, done):
    """Keep one worker busy until no module waits."""
    read, write = os.pipe()
    worker = subprocess.Popen(
        [sys.executable, "-c", f"import os; os.dup2({write}, 3); from tests.run import work; work()"],
        stdin=subprocess.PIPE, text=True, pass_fds=(write,), cwd=ROOT.parent,
    )  # fmt: skip
    os.close(write)
    with os.fdopen(read) as answers:
        while True:
            with lock:
                if not waiting:
                    break
                name = waiting.pop(0)
            worker.stdin.write(f"{name}\n")
            worker.stdin.flush()
            line = answers.readline()
            told = json.loads(line) if line else BROKEN | {"name": name}
            done.append(told)
            failed = "  FAILED" if told["bad"] else ""
            print(f"{name:<46} {told['ran']:>4} tests {told['seconds']:7.1f} s{failed}", flush=True)
            if not line:
                break
        worker.stdin.close()
        worker.wait()


def main():
    """Run the parts that are named, or all."""
    parts = [part for part in sys.argv[1:] if not part.startswith("-")]
    waiting, lock, done, begun = modules(parts), threading.Lock(), [], time.monotonic()
    threads = [threading.Thread(target=serve, args=(waiting, lock, done)) for _ in range(PROCESSES)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    slowest = sorted(((s, t) for told in done for t, s in told["tests"].items()), reverse=True)[:10]
    print("slowest: " + ", ".join(f"{test.split()[0]} {seconds:.0f} s" for seconds, test in slowest))
    skipped, bad = sum(told["skipped"] for told in done), [told["name"] for told in done if told["bad"]]
    print(f"{sum(told['ran'] for told in done)} tests in {time.monotonic() - begun:.0f} s, {skipped} skipped")
    for told in done:
        # Once more at the end: of a long output often only the end is kept.
        print("".join(text[-6000:] for text in told["failures"]), end="")
    print("FAILED: " + ", ".join(bad) if bad else "OK")
    sys.exit(1 if bad else 0)


if __name__ == "__main__":
    main()
