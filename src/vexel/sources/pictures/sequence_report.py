"""What a numbered image sequence is, and what is odd about it."""

import itertools
import os
import re
from collections import Counter
from collections.abc import Mapping, Sequence
from pathlib import Path
from statistics import median

from PIL import Image

from vexel.core.errors import SourceError
from vexel.core.evaluate.source_facts import SourceFinding
from vexel.core.wording import spelled
from vexel.imaging.exr_layers import Layer, chosen_layer, exr_layers
from vexel.imaging.images import IMAGES, Header, header_of, profile_of
from vexel.imaging.tiff_files import tiff_kind
from vexel.sources.pictures.image_sequence import ImageSequence
from vexel.sources.pictures.sequence_members import Member

LEFTOVER_SECONDS = 600
"""Files that are older than the rest by more than this, and by more than the rest took, are leftovers."""


def headers_of(folder: Path, members: tuple[Member, ...]) -> dict[Header, list[str]]:
    """Names by what their headers say; those that cannot be read fail when their frame is made."""
    found: dict[Header, list[str]] = {}
    for member in members:
        try:
            found.setdefault(header_of(folder / member.name), []).append(member.name)
        except SourceError as error:
            found.setdefault(Header(0, 0, str(error)), []).append(member.name)
    return found


def usual_header(headers: Mapping[Header, Sequence[str]]) -> Header:
    """The size that most pictures have, with the depth that is most frequent among those."""
    counts = Counter[tuple[int, int]]()
    for header, names in headers.items():
        counts[header.width, header.height] += len(names)
    readable = [header for header in headers if header.width]
    usual = Header(0, 0, "unreadable")
    return max(readable, key=lambda h: (counts[h.width, h.height], len(headers[h])), default=usual)


def report(
    folder: Path,
    sequence: ImageSequence,
    members: tuple[Member, ...],
    headers: dict[Header, list[str]],
    gaps: str,
    other_sizes: str,
    layer: str,
) -> tuple[tuple[int, int] | None, tuple[tuple[str, str], ...], tuple[SourceFinding, ...]]:
    """The usual size, facts in words, and findings."""
    usual = usual_header(headers)
    about: tuple[tuple[str, str], ...] = (
        ("pattern", sequence.pattern),
        ("first", members[0].name),
        ("last", members[-1].name),
        ("pictures", f"{len(members):,}"),
        ("padding", f"{sequence.padding} digits" if sequence.padding > 1 else "none"),
        ("size", f"{usual.width} × {usual.height}"),
        ("depth", usual.depth),
    )
    findings = []
    if missing := sequence.missing:
        findings.append(
            SourceFinding("frames-missing", {"count": len(missing), "ranges": spelled(missing), "gaps": gaps})
        )
    if skipped := _skipped(folder, sequence):
        findings.append(SourceFinding("files-skipped", {"count": len(skipped), "file": skipped[0]}))
    if sequence.doubles:
        findings.append(SourceFinding("number-twice", {"count": len(sequence.doubles), "file": sequence.doubles[0]}))
    for header, names in headers.items():
        several: dict[str, int | float | str] = {"count": len(names), "file": names[0]}
        if header.width == 0:
            findings.append(SourceFinding("unreadable", several | {"reason": header.depth}))
        elif (header.width, header.height) != (usual.width, usual.height):
            sizes = {"found": f"{header.width} × {header.height}", "usual": f"{usual.width} × {usual.height}"}
            sizes["shown"] = other_sizes
            findings.append(SourceFinding("other-size", several | sizes))
        elif header.depth != usual.depth:
            findings.append(SourceFinding("other-depth", several | {"found": header.depth, "usual": usual.depth}))
    findings.extend(oddities_of(folder / members[0].name, layer))
    findings.extend(_odd_times(members))
    about += tuple(("layer", one.name) for one in layers_of(folder / members[0].name))
    return (usual.width, usual.height) if usual.width else None, about, tuple(findings)


def _skipped(folder: Path, sequence: ImageSequence) -> list[str]:
    """Numbered images of the same name with another ending, which are not part of the sequence."""
    own = {name for _, name in sequence.names} | set(sequence.doubles)
    stem = sequence.tail.rpartition(".")[0]
    numbered = re.compile(rf"{re.escape(sequence.head)}\d+{re.escape(stem)}(\.[^.]+)")
    names = (entry.name for entry in os.scandir(folder) if entry.is_file())
    found = ((name, numbered.fullmatch(name)) for name in names if name not in own)
    return sorted(name for name, match in found if match and match[1].lower() in IMAGES)


def oddities_of(file: Path, layer: str = "") -> list[SourceFinding]:
    """How an imported image file differs from what pictures hold, and what is done about it."""
    findings = []
    if profile := _profile(file):
        findings.append(SourceFinding("profile", {"name": profile, "file": file.name}))
    layers = layers_of(file)
    if len(layers) > 1 and not layer:
        shown = chosen_layer(layers, "", file.name)
        others = [one.name for one in layers if one is not shown]
        names = {"first": shown.name or "the main one", "others": ", ".join(others[:6])}
        findings.append(SourceFinding("layers", names))
    if file.suffix.lower() in (".tif", ".tiff") and (tiff := tiff_kind(file)) and tiff.words.startswith("float"):
        findings.append(SourceFinding("linear-floats", {"file": file.name}))
    return findings


def layers_of(first: Path) -> list[Layer]:
    """Layers of the first picture, which usually are those of all."""
    if first.suffix.lower() != ".exr":
        return []
    try:
        return exr_layers(first)
    except SourceError:
        return []


def _profile(first: Path) -> str:
    """The colour profile of the first picture, which usually is that of all."""
    try:
        with Image.open(first) as image:
            return profile_of(image)
    except (OSError, SyntaxError, ValueError):
        return ""


def _odd_times(members: tuple[Member, ...]) -> list[SourceFinding]:
    """Leftovers of an earlier capture, and numbers that run against the time."""
    if len(members) < 4:
        return []
    rising = sorted(members, key=lambda member: member.written)
    gaps = [b.written - a.written for a, b in itertools.pairwise(rising)]
    widest = max(range(len(gaps)), key=gaps.__getitem__)
    old, new = rising[: widest + 1], rising[widest + 1 :]
    took = new[-1].written - new[0].written
    if len(old) < len(new) and gaps[widest] > max(LEFTOVER_SECONDS, took):
        hours = (median(m.written for m in new) - median(m.written for m in old)) / 3600
        first = min(old, key=lambda member: member.number)
        return [SourceFinding("leftover", {"count": len(old), "hours": hours, "file": first.name})]
    times = [member.written for member in members]
    if all(a > b for a, b in itertools.pairwise(times)):
        return [SourceFinding("written-backwards")]
    return []
