"""``vexel`` and ``python -m vexel``: the command line, quiet when it is interrupted while it loads."""

# The module in C: an import of `signal` could be interrupted with a traceback.
import _signal  # type: ignore[import-not-found]

_signal.signal(_signal.SIGINT, _signal.SIG_DFL)


def run() -> None:
    """Run the command line."""
    from vexel.cli import main

    _signal.signal(_signal.SIGINT, _signal.default_int_handler)
    main(prog_name="vexel")


if __name__ == "__main__":
    run()
