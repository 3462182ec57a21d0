"""Runs all measuring scripts, or those that are named: ``python -m bench [NAME …]``; one that fails stops no other."""

import subprocess
import sys

SCRIPTS = (
    "object_capture", "viewfinder", "still_subject", "recapture", "compile", "server", "page_capture",
    "dispatch", "gif", "reel", "reel_edit", "sketch_capture", "simulation", "stage_start", "stills", "camera", "edit",
    "lists", "long_reel", "first_hour", "two_frames",
    "busy", "opening", "foretell", "storage", "resume", "review", "sheet", "player",
)  # fmt: skip


def main(names: list[str]) -> int:
    """Run each in a process of its own, and say at the end which failed."""
    unknown = sorted(set(names) - set(SCRIPTS))
    if unknown:
        print(f"there is no script named {', '.join(unknown)}; there are {', '.join(SCRIPTS)}", file=sys.stderr)
        return 2
    failed = [
        name
        for name in names or SCRIPTS
        if subprocess.run([sys.executable, "-m", f"bench.{name}"], check=False).returncode != 0
    ]
    if failed:
        print(f"FAILED: {', '.join(failed)}", file=sys.stderr)
    return 1 if failed else 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
