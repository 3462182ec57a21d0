"""Capture the first, middle and last frames of every demo shot and print the SHA-256 of each file.

Run it before and after a change that must not touch a pixel, and compare the two outputs::

    .venv/bin/python tools/frame_digests.py > before.json
    .venv/bin/python tools/frame_digests.py --against before.json

It uses the command line alone, so that it compares across any restructuring of the code.
"""

import argparse
import hashlib
import json
import subprocess
import sys
import tempfile
from pathlib import Path

from vexel.demo import lay_out

VEXEL = str(Path(sys.executable).with_name("vexel"))


def command(*arguments: str) -> str:
    """Output of one call of the command line."""
    return subprocess.run([VEXEL, *arguments], check=True, capture_output=True, text=True).stdout


def digests_of(shot: Path, folder: Path) -> dict[str, str]:
    """SHA-256 of the sampled frames' files by their names."""
    frames = json.loads(command("plan", str(shot), "--json"))["frames"]
    sampled = sorted({0, frames // 2, frames - 1})
    command("capture", str(shot), "--to", str(folder), "--frames", ",".join(map(str, sampled)), "--workers", "2")
    files = [file for file in folder.iterdir() if file.suffix != ".json"]
    return {file.name: hashlib.sha256(file.read_bytes()).hexdigest() for file in sorted(files)}


def main() -> None:
    """Sample all demo shots."""
    parser = argparse.ArgumentParser(description=__doc__.splitlines()[0])
    parser.add_argument("--against", type=Path, help="an earlier output; exit 1 where it differs")
    against = parser.parse_args().against
    with tempfile.TemporaryDirectory() as folder:
        home = Path(folder) / "home"
        lay_out(home)
        command("trust", str(home), "--yes")
        found = {}
        for shot in sorted((home / "shots").glob("*.json")):
            found[shot.stem] = digests_of(shot, Path(folder) / shot.stem)
            print(shot.stem, len(found[shot.stem]), file=sys.stderr, flush=True)
    if against is None:
        print(json.dumps(found, indent=1))
        return
    before = json.loads(against.read_text())
    # Files are named by the shot's title, which may have been put into other words.
    same = {name for name in before.keys() & found.keys() if [*before[name].values()] == [*found[name].values()]}
    changed = sorted({*before, *found} - same)
    count = sum(map(len, found.values()))
    print(f"{count} frames of {len(found)} shots; different: {', '.join(changed) or 'none'}")
    sys.exit(1 if changed else 0)


if __name__ == "__main__":
    main()
