"""Print docs/guides/commands.md, the guide to the command line, from the commands themselves."""

import click

from vexel.cli import main

HEAD = """# The command line

Every command of `vexel`, with all options. `vexel COMMAND --help` prints the same. A mistake in the call exits with
status 2, failed work with 1. Progress and findings go to standard error, results to standard output. With `--json`
standard output holds one object in every case; after an error it is `{"error": "…"}`.
"""


def guide() -> str:
    """The Markdown text of the guide."""
    parts = [HEAD]
    context = click.Context(main, info_name="vexel")
    for name in main.list_commands(context):
        command = main.commands[name]
        if not command.hidden:
            parts.append(_section(name, command))
    return "\n".join(parts)


def _section(name: str, command: click.Command) -> str:
    context = click.Context(command, info_name=name)
    usage = " ".join(command.collect_usage_pieces(context))
    description = " ".join((command.help or "").split())
    lines = [f"## {name}", "", f"`vexel {name} {usage}`", "", description, ""]
    records = [option.get_help_record(context) for option in command.params if isinstance(option, click.Option)]
    lines += ["| Option | |", "|---|---|"]
    lines += [f"| `{_cell(record[0])}` | {_cell(record[1])} |" for record in records if record is not None]
    return "\n".join([*lines, "", f"{(command.epilog or '').replace('Example: ', 'Example: `')}`", ""])


def _cell(text: str) -> str:
    return text.replace("|", "\\|").replace("  ", " ")


if __name__ == "__main__":
    print(guide(), end="")
