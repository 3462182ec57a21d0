"""Print THIRD-PARTY.md: what is bundled with Vexel, and its licences.

It needs the built interface (``make ui``), its packages and the copied fonts.
"""

import json
from pathlib import Path

ROOT = Path(__file__).parents[1]
MODULES = ROOT / "ui/node_modules"
FONTS = ROOT / "src/vexel/fonts"
HEAD = """# Third-party notices

These packages and fonts are part of the built application and of the wheel. Python libraries are not: they are
installed beside it, each with its own licence.
"""


def notices() -> str:
    """The Markdown text of the notices."""
    rows, texts = [], {}
    for name in json.loads((ROOT / "src/vexel/web/dist/packages.json").read_text()):
        folder = MODULES / name
        about = json.loads((folder / "package.json").read_text())
        rows.append(f"| {name} | {about['version']} | {about['license']} |")
        texts.setdefault(_licence_text(folder), []).append(name)
    parts = [HEAD, "## Packages of the interface\n", "| Package | Version | Licence |\n|---|---|---|", *rows, ""]
    for text, names in texts.items():
        parts += [f"### {', '.join(names)}\n", f"```text\n{text}\n```\n"]
    parts.append("## Fonts for labels\n")
    for file in sorted(FONTS.glob("*.copyright")):
        parts += [f"### Debian package {file.stem}\n", f"```text\n{file.read_text().strip()}\n```\n"]
    return "\n".join(parts)


def _licence_text(folder: Path) -> str:
    files = [file for file in sorted(folder.iterdir()) if file.stem.lower() in ("license", "licence", "copying")]
    if not files:
        return "The package has no licence file; its metadata name the licence in the table."
    return files[0].read_text("utf-8").replace("\r\n", "\n").strip()


if __name__ == "__main__":
    print(notices(), end="")
