"""``vexel`` and ``python -m vexel``: the command line, quiet when it is interrupted while it loads."""

import sys


def run() -> None:
    """Run the command line."""
    try:
        from vexel.cli import main
    except KeyboardInterrupt:
        sys.exit("vexel: stopped")
    main(prog_name="vexel")


if __name__ == "__main__":
    run()
