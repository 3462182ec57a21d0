"""The older ``python -m vexel.cli``, for scripts; see `vexel.__main__`."""

from vexel.cli import main

main(prog_name="vexel")
