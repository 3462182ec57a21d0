"""Facts and findings of an image sequence or a video that somebody else made."""

from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path
from typing import Any

import cv2

from vexel.core.checks.source_sentences import source_sentence
from vexel.core.document.shot import read_shot_document
from vexel.core.errors import Failure, Mistake, SourceError
from vexel.core.time.clock import decimal
from vexel.core.wording import counted, said_missing
from vexel.disk.finished import is_whole
from vexel.output.footage.footage import sequence
from vexel.output.inspecting.leftovers import Leftovers, leftovers_in
from vexel.output.origin.carried import record_in
from vexel.output.origin.record import Origin
from vexel.output.proving.cut_short import is_cut_short
from vexel.output.proving.readback import VideoFacts, video_facts
from vexel.output.reading.picture_file import read_picture
from vexel.sources.contained_path import contained_file
from vexel.sources.pictures.image_sequence import gaps
from vexel.sources.video.opening import open_media
from vexel.store.folder_take import LEDGER, finished_of, read_ledger
from vexel.store.frame_states import READY
from vexel.store.outputs import changed_since_receipt

CUT_SHORT = "the file is cut short: it ends before its container says that it ends"


def inspect(place: Path) -> dict[str, Any]:
    """Look at a folder or pattern of images, a take or a video file.

    Returns
    -------
    dict
        ``kind``, ``facts`` (name to value), ``findings`` (sentences) and
        ``damaged``, whether something is not whole.

    Raises
    ------
    Mistake
        When nothing of the kind is there.
    """
    if place.is_dir() or any(mark in place.name for mark in "%*?"):
        return _sequence(place)
    if not place.exists():
        raise Mistake(f"there is nothing at {place}")
    if not place.is_file():
        raise Mistake(f"{place} is neither a file nor a folder: name a video, a take or numbered images")
    return _video(place)


def _video(file: Path) -> dict[str, Any]:
    changed = changed_since_receipt(file)
    try:
        found = video_facts(file)
    except Mistake as error:
        why = [CUT_SHORT] if is_cut_short(file) else []
        why += [changed] if changed else []
        raise Failure(f"{error}; {'; '.join(why)}") if why else error from None
    shown = _as_shown(file, found)
    facts: dict[str, Any] = {
        "codec": found.codec,
        "size": f"{shown.width} × {shown.height}",
        "frames": shown.frames,
        "rate": f"{shown.rate.numerator}/{shown.rate.denominator}",
        "seconds": decimal(shown.seconds),
        "pixels": found.pixel_format,
        "alpha": "yes" if shown.alpha else "none",
        "colour": _colours(found),
        "bytes": file.stat().st_size,
    }
    if (found.width, found.height) != (shown.width, shown.height):
        facts["coded"] = f"{found.width} × {found.height}"
    if found.panorama:
        facts["panorama"] = found.panorama.label
    if found.sound is not None:
        facts["sound"] = f"{_sound(file)}, {decimal(found.sound)} s"
    if (origin := record_in(file)) is not None:
        facts["made"] = said_origin(origin)
    if found.chapters:
        facts["chapters"] = len(found.chapters)
    findings = [*shown.findings]
    if found.index_first is False:
        findings.append("the index is at the end of the file: over a network it plays only once it is fully loaded")
    if found.codec == "h264" and found.pixel_format != "yuv420p":
        findings.append(f"{found.pixel_format} does not play in every browser: yuv420p does")
    if set(found.tags[1:]) == {"untagged"} and found.codec == "h264":
        findings.append("colours are not tagged: players guess between BT.601 and BT.709")
    damage = [changed] if changed else []
    if found.cut_short:
        damage.insert(0, CUT_SHORT)
    if found.spoilt:
        damage.append(f"{counted(found.spoilt, 'frame does', 'frames do')} not decode as they should")
    return {
        "kind": "video", "path": str(file), "facts": facts, "findings": [*damage, *findings], "damaged": bool(damage),
    }  # fmt: skip


def said_origin(origin: Origin) -> str:
    """A provenance record, in a line."""
    parts = [origin.title, origin.date, f"recipe {origin.recipe}" if origin.recipe else "", origin.camera_pass]
    if origin.frames:
        parts.append(f"frames {origin.frames[:12]}")
    return ", ".join(filter(None, [*parts, "with its document" if origin.made else ""]))


@dataclass(frozen=True)
class _Shown:
    """What people see of a video: frames within its edit list, upright, of square pixels, at their times."""

    width: int
    height: int
    frames: int
    rate: Fraction
    seconds: Fraction
    alpha: bool
    findings: tuple[str, ...] = ()


def _as_shown(file: Path, found: VideoFacts) -> _Shown:
    """By the reader of clip sources, so that both report the same; by the packets where that fails."""
    from vexel.sources.kinds.clip import ClipFile

    try:
        clip = ClipFile(file)
        facts = clip.facts
    except SourceError as error:
        return _Shown(found.width, found.height, found.frames, found.rate, found.seconds, found.alpha, (str(error),))
    frames, size = facts.source_frames, facts.size
    assert frames is not None and size is not None
    rate = Fraction(frames.rate)
    lasts = Fraction(frames.times[-1]) + Fraction(frames.last) if frames.times else frames.count / rate
    said = tuple(source_sentence(odd) for odd in facts.findings)
    return _Shown(*size, frames.count, rate, lasts, clip.keeps_alpha, said)


def _colours(found: VideoFacts) -> str:
    """Range, matrix, primaries and transfer by their names, each once."""
    tags = found.tags if set(found.tags[1:]) != {"untagged"} else ("untagged",)
    return ", ".join(dict.fromkeys(tags))


def _sound(file: Path) -> str:
    with open_media(file) as container:
        context = container.streams.audio[0].codec_context
        channels = {1: "mono", 2: "stereo"}.get(context.layout.nb_channels, f"{context.layout.nb_channels} channels")
        return f"{context.codec.canonical_name}, {context.sample_rate:,} Hz, {channels}"


def _sequence(place: Path) -> dict[str, Any]:
    images = sequence(place)
    files, missing = list(images.values()), gaps(images)
    height, width = read_picture(files[0]).shape[:2]
    facts: dict[str, Any] = {
        "first": files[0].name,
        "last": files[-1].name,
        "frames": len(files),
        "size": f"{width} × {height}",
        "bytes": sum(file.stat().st_size for file in files),
    }
    findings, damaged = [], False
    if missing:
        findings.append(said_missing(missing))
    findings += leftovers_of(files).findings
    if (place / LEDGER).is_file():
        ledger = read_ledger(place)
        facts["title"] = ledger["shot"]["title"]
        facts["rate"] = str(read_shot_document(ledger["shot"]).clock.exact.playback)
        spoilt = [row["file"] for row in ledger["frames"] if row["state"] in READY and not _as_made(place, row)]
        if spoilt:
            damaged = True
            findings.append(
                f"{counted(len(spoilt), 'frame is', 'frames are')} not what was captured, the first is {spoilt[0]}: "
                "vexel capture --resume makes them again"
            )
        failed = [row for row in ledger["frames"] if row["state"] == "failed"]
        if failed:
            findings.append(
                f"{counted(len(failed), 'frame')} failed, the first is {failed[0]['number']}: {failed[0]['error']}"
            )
    return {"kind": "sequence", "path": str(place), "facts": facts, "findings": findings, "damaged": damaged}


def leftovers_of(files: list[Path]) -> Leftovers:
    """Files of a sequence that do not belong to the rest."""
    return leftovers_in(files, {file: _size(file) for file in files})


def images_of(place: Path) -> list[Path]:
    """The files of a sequence in order; see `vexel.output.footage.footage.sequence` for errors."""
    return list(sequence(place).values())


def _as_made(folder: Path, row: dict[str, Any]) -> bool:
    known = finished_of(row)
    return known is None or is_whole(contained_file(folder, row["file"], LEDGER), known, deep=True)


def _size(file: Path) -> tuple[int, int] | None:
    """Width and height of a PNG from its header, else by reading it."""
    with file.open("rb") as stream:
        head = stream.read(24)
    if head.startswith(b"\x89PNG"):
        return int.from_bytes(head[16:20], "big"), int.from_bytes(head[20:24], "big")
    pixels = cv2.imread(str(file), cv2.IMREAD_REDUCED_GRAYSCALE_8)
    return None if pixels is None else read_picture(file).shape[1::-1]
