"""A hand-over: a take with all that made it, in a folder or a ZIP that opens as a project elsewhere."""

import hashlib
import json
import secrets
import shutil
import zipfile
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from pathlib import Path, PurePath
from typing import Any

from vexel.core.document.shot import Shot
from vexel.core.errors import Failure, Mistake
from vexel.core.evaluate.plan import Plan
from vexel.core.time.clock import decimal
from vexel.core.wording import counted, slug
from vexel.disk.disk_errors import os_sentence
from vexel.disk.named_place import named_place
from vexel.disk.write import part_of, publish, write_whole
from vexel.output.job.receipt import Receipt, check
from vexel.sources.archive import SPARED_BYTES, Limits, unpack
from vexel.sources.contained_path import contained_file, is_private
from vexel.sources.files import outside_reads, source_files
from vexel.sources.outside_files import ENVIRONMENT, OUTSIDE, files_of
from vexel.store.consent import IDENTITY
from vexel.store.documents.shots import spelled
from vexel.store.folder_take import LEDGER, read_ledger
from vexel.store.frame_states import READY
from vexel.store.user_files import SECRETS, secrets_of

BACKDROP = "background"
"""Folder for the image behind a picture: a file of the source may have the same name."""
MADE = "files"
"""Folder for the files that were made of the take."""
SUMS, README = "SHA256SUMS", "README.txt"
_CHUNK = 1 << 20
MOST_FILES = 1_000_000


@dataclass(frozen=True)
class Handed:
    """What is handed over.

    Attributes
    ----------
    shot : Shot
        As the frames were made.
    main : str
        Name of the source's main file.
    sources : mapping of str to Path
        All files of the source by their names in it.
    outside : mapping of str to Path
        What the source declares to read beyond its folder, by the names by which it declares it.
    backdrop : Path or None
        The image behind the picture.
    ledger : mapping
        See `vexel.store.folder_take.ledger_document`.
    frames : mapping of str to Path
        By their names in the take.
    paths : mapping of str to str
        Texts of the camera's path, by their file names.
    made : mapping of str to Path
        Files that were made of the take, by their names.
    left_out : tuple of str
        Which of those are not handed over, and why.
    """

    shot: Shot
    main: str
    sources: Mapping[str, Path]
    outside: Mapping[str, Path]
    backdrop: Path | None
    ledger: Mapping[str, Any]
    frames: Mapping[str, Path]
    paths: Mapping[str, str]
    made: Mapping[str, Path] = field(default_factory=dict)
    left_out: tuple[str, ...] = ()

    @property
    def declared(self) -> dict[str, Path]:
        """What of `outside` is handed over: what is there, and not hidden, such as a key in a home folder."""
        return {name: place for name, place in self.outside.items() if place.exists() and not is_private(name)}

    @classmethod
    def of_folder(cls, document: Path, shot: Shot, take: Path, plan: Plan | None, paths: Mapping[str, str]) -> "Handed":
        """The take in a folder, of the shot in a file.

        Parameters
        ----------
        plan : Plan or None
            Of the present shot, with which every frame is compared; None compares none.

        Raises
        ------
        Mistake
            When no frame of it is finished, or one is not a frame of the plan.
        """
        ledger = read_ledger(take)
        names = [row["file"] for row in ledger["frames"] if row["state"] in READY]
        if not names:
            raise Mistake(f"{take} holds no finished frame: capture it first")
        if plan is not None:
            _refuse_other_plan(take, document, ledger, plan)
        place, image = document.absolute().parent, shot.picture.behind.image
        main = named_place(place, shot.source.file)
        files = source_files(shot.source.kind, main, shot.source.options())
        return cls(
            shot,
            main.name,
            files.all_of(shot.source.kind),
            outside_reads(shot.source, place, files, (*secrets_of(), *SECRETS)).places,
            named_place(place, image) if image else None,
            ledger,
            {name: contained_file(take, name, LEDGER) for name in names},
            paths,
        )


def _refuse_other_plan(take: Path, document: Path, ledger: Mapping[str, Any], plan: Plan) -> None:
    """Refuse frames that differ from those of the present shot: a hand-over promises that they match."""
    passes = {one.label: number for number, one in enumerate(plan.shot.camera_passes)}
    only = next(iter(passes))
    rows = [row for row in ledger["frames"] if row["state"] in READY]
    other = [
        row
        for row in rows
        if (label := row.get("camera_pass", only)) not in passes
        or not plan.has(row["number"], passes[label], row.get("key", ""))
    ]
    if other:
        differ = counted(len(other), "frame differs", "frames differ")
        raise Mistake(
            f"{take} is not a take of the present {document.name}: {differ}, the first is "
            f"{other[0]['file']}. Update it with vexel capture {document.name} --to {take} "
            "--resume, or name the take of this shot"
        )


def listed(handed: Handed) -> list[tuple[str, int]]:
    """What a hand-over holds beside its frames: names and bytes, to be looked through before it is written."""
    files = {f"sources/{name}": file for name, file in sorted(handed.sources.items())}
    for number, (name, place) in enumerate(handed.declared.items()):
        files |= {str(_outside_name(number, name) / inner): place / inner for inner in files_of(place)}
    if handed.backdrop is not None:
        files[f"sources/{BACKDROP}/{handed.backdrop.name}"] = handed.backdrop
    files |= {f"{MADE}/{name}": file for name, file in handed.made.items()}
    return [(name, file.stat().st_size) for name, file in files.items()]


def write_handover(
    handed: Handed, place: Path, step: Callable[[int], None] = lambda done: None, *, overwrite: bool = False
) -> list[str]:
    """Write it; it is there whole, or not at all.

    Parameters
    ----------
    handed : Handed
    place : Path
        A new folder, or a file whose name ends with ``.zip``.
    step : callable
        Called with how many frames are copied; may raise to end it.

    Returns
    -------
    list of str
        The files in it.

    Raises
    ------
    Mistake, Failure
    """
    zipped = place.suffix.lower() == ".zip"
    if place.exists() and not (overwrite and zipped):
        raise Mistake(f"{place} already exists: choose another name" + (", or add --overwrite" if zipped else ""))
    part = part_of(place)
    folder = part_of(place) if zipped else part
    try:
        names = _fill(folder, handed, step)
        if zipped:
            _pack(folder, part, names)
        publish(part, place, replace=overwrite)
    except OSError as error:
        raise Failure(f"{place} cannot be written: {os_sentence(error)}") from None
    finally:
        shutil.rmtree(folder, ignore_errors=True)
        part.unlink(missing_ok=True) if part.is_file() else shutil.rmtree(part, ignore_errors=True)
    return names


def prove_handover(place: Path, recipe: str, planned: int, made: int, left_out: Sequence[str]) -> Receipt:
    """Read a ZIP of a hand-over back: its frames, the files made of them, and every file against its checksum.

    Parameters
    ----------
    planned, made : int
        How many frames and files it must hold.
    left_out : sequence of str
        See `Handed.left_out`.
    """
    with zipfile.ZipFile(place) as archive:
        names = set(archive.namelist()) - {SUMS}
        lines = [line.split("  ", 1) for line in archive.read(SUMS).decode().splitlines()]
        sums = {name: digest for digest, name in lines}
        right = sum(_sum_of(archive, name) == sums.get(name) for name in names)
        found = sum(row["state"] in READY for row in json.loads(archive.read(f"take/{LEDGER}"))["frames"])
    checks = (
        check("frames", f"{planned:,}", f"{found:,}"),
        check("files", f"{made:,}", f"{sum(name.startswith(f'{MADE}/') for name in names):,}"),
        check("checksums", f"{len(names):,} hold", f"{right:,} hold"),
    )
    return Receipt(
        str(place), recipe, place.stat().st_size, checks, (f"opens as a project: vexel unpack {place.name}", *left_out)
    )


def open_handover(archive: Path, folder: Path) -> int:
    """Unpack a hand-over into a new folder; how many files that makes.

    Raises
    ------
    Mistake, SourceError
    """
    if folder.exists() and any(folder.iterdir()):
        raise Mistake(f"{folder} already holds files: name a new folder")
    if not archive.is_file():
        raise Mistake(f"there is no file {archive}")
    # A take may be as large as the disk: its frames are pictures that somebody means to have.
    try:
        there = next(place for place in folder.absolute().parents if place.is_dir())
        room = max(shutil.disk_usage(there).free - SPARED_BYTES, 0)
        count = len(unpack(archive, folder, Limits(members=MOST_FILES, bytes=room)))
        # This project was made by somebody else, in spite of any claim in the archive.
        # No list of own projects holds this identity, so its code waits for a review.
        write_whole(folder / IDENTITY, f"handover-{secrets.token_hex(8)}\n".encode())
    except OSError as error:
        raise Failure(f"{folder} cannot be written: {error.strerror or error}") from None
    return count


def _fill(folder: Path, handed: Handed, step: Callable[[int], None]) -> list[str]:
    _write(folder / "take" / LEDGER, json.dumps(handed.ledger, indent=1))
    for number, (name, file) in enumerate(handed.frames.items(), 1):
        _copy(file, folder / "take" / name)
        step(number)
    moved = _with_source(folder, handed)
    _write(folder / "shots" / f"{slug(handed.shot.title)}.json", spelled(moved))
    for name, text in handed.paths.items():
        _write(folder / "camera" / name, text)
    for name, file in handed.made.items():
        _copy(file, folder / MADE / name)
    _write(folder / README, _readme(handed))
    names = sorted(str(file.relative_to(folder)) for file in folder.rglob("*") if file.is_file())
    _write(folder / SUMS, "".join(f"{_sum(folder / name)}  {name}\n" for name in names))
    return [*names, SUMS]


def _with_source(folder: Path, handed: Handed) -> Shot:
    """The shot of the hand-over, with its source beside it."""
    shot = handed.shot
    for name, file in handed.sources.items():
        _copy(file, contained_file(folder / "sources", name, handed.main))
    patch: dict[str, Any] = {"source": {"file": f"../sources/{handed.main}"}}
    for number, (name, place) in enumerate(handed.declared.items()):
        to = _outside_name(number, name)
        for inner in files_of(place):
            _copy(place / inner, folder / to / inner)
        patch["source"].setdefault("reads_from", {})[name] = f"../{to}"
    if handed.backdrop is not None:
        _copy(handed.backdrop, folder / "sources" / BACKDROP / handed.backdrop.name)
        patch["picture"] = {"background": f"image:../sources/{BACKDROP}/{handed.backdrop.name}"}
    whole = shot.model_dump(mode="json")
    for name, values in patch.items():
        whole[name] = whole[name] | values
    return Shot.model_validate_json(json.dumps(whole))


def _readme(handed: Handed) -> str:
    shot, frames, paths = handed.shot, len(handed.frames), handed.paths
    clock, size = shot.clock.exact, shot.picture
    lines = [
        shot.title,
        "=" * len(shot.title),
        "",
        f"{counted(frames, 'frame')} of {size.width} x {size.height}, {clock.playback.label}, "
        f"{decimal(clock.frames / clock.playback.fps)} s",
        "",
        "take/         the frames, and take.json: a row a frame with its state, key and digest",
        "shots/        the shot: everything that decided the frames, as one JSON document",
        "sources/      what was before the camera",
    ]
    if handed.declared:
        lines.append(f"{OUTSIDE}/      what its code reads elsewhere: {', '.join(handed.declared)}")
    if paths:
        lines.append(f"camera/       its place in every frame: {', '.join(sorted(paths))}")
    if handed.made:
        lines.append(f"{MADE}/        made of the take: {', '.join(sorted(handed.made))}")
    lines += [f"Not in it: {reason}" for reason in handed.left_out]
    variables = [name for name in getattr(shot.source, "reads", ()) if name.startswith(ENVIRONMENT)]
    if lacking := [*(name for name in handed.outside if name not in handed.declared), *variables]:
        lines.append(f"Not in it, though its code reads it: {', '.join(lacking)}")
    lines += [
        f"{SUMS}    check all files with: sha256sum -c {SUMS}",
        "",
        "This folder opens as a project: vexel serve --home FOLDER.",
        "Its code runs once you have reviewed and trusted it.",
        "",
    ]
    return "\n".join(lines)


def _outside_name(number: int, name: str) -> Path:
    """The place of a declared file in a hand-over; two declarations may end with the same name."""
    return Path(OUTSIDE, str(number), PurePath(name).name or "files")


def _copy(file: Path, to: Path) -> None:
    to.parent.mkdir(parents=True, exist_ok=True)
    shutil.copyfile(file, to)


def _write(file: Path, text: str) -> None:
    file.parent.mkdir(parents=True, exist_ok=True)
    file.write_text(text, encoding="utf-8")


def _sum(file: Path) -> str:
    with file.open("rb") as stream:
        return hashlib.file_digest(stream, "sha256").hexdigest()


def _sum_of(archive: zipfile.ZipFile, name: str) -> str:
    with archive.open(name) as stream:
        digest = hashlib.sha256()
        while block := stream.read(_CHUNK):
            digest.update(block)
    return digest.hexdigest()


def _pack(folder: Path, file: Path, names: list[str]) -> None:
    """Pictures do not become smaller by packing, and texts hardly matter beside them."""
    with zipfile.ZipFile(file, "w", zipfile.ZIP_STORED) as archive:
        for name in names:
            archive.write(folder / name, name)
