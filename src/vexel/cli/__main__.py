"""``python -m vexel.cli``."""

from vexel.cli import main

main()
