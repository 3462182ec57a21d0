"""Blueprint: frames that running programs hand over, by plain HTTP.

A program has no session: it knows the key in the address, which no page of
another origin can know.
"""

import re
import shutil
import threading
import zlib
from contextlib import suppress
from pathlib import Path

from flask import Blueprint, request

from vexel.core.document.background import TRANSPARENT
from vexel.core.document.shot import read_shot_document
from vexel.core.errors import Mistake, SourceError, VexelError
from vexel.core.time.rate import Rate
from vexel.core.wording import slug
from vexel.disk.write import make_folder, publish, write_whole
from vexel.imaging.float_images import RADIANCE
from vexel.imaging.images import Header
from vexel.web.schemas.news import ShotChanged
from vexel.web.schemas.sources import PushBody
from vexel.web.services import Services, services
from vexel.web.spec import answers, spec

blueprint = Blueprint("push", __name__)
FOLDER = "pushed"
GROWS_EACH = 0.5
"""Seconds between two edits that lengthen a shot to the frames received; each is one edit for all of them."""
_PNG = b"\x89PNG\r\n\x1a\n"
_COLOUR_TYPE, _WITH_ALPHA = 25, (4, 6)
"""Place of a PNG file's colour type, and those with alpha (PNG third edition, 11.2.1)."""
_turn = threading.Lock()
_counts: dict[Path, int] = {}
"""Frames in the folders that were lately pushed to: counting thousands of files at every frame would be slow."""


@blueprint.get("/api/push")
@spec.validate(resp=answers(PushBody))
def push_address() -> PushBody:
    """The address for frames, to be copied by the user."""
    address = f"http://{request.host}/push/{services().project.push_key()}"
    return PushBody(
        address=address,
        python=f'with vexel.recorder(server="{address}", rate=24) as r:\n    r.add(picture)',
        curl=f'curl --data-binary @frame.png "{address}/my-frames?rate=24"',
    )


@blueprint.post("/push/<key>/<name>")
def push(key: str, name: str) -> dict[str, object]:
    """Take the next frame: the body is an image file. ``?rate=24`` comes with the first."""
    if slug(name) != name:
        raise Mistake(
            f"{name!r} is not a valid name for frames: use small letters, digits and hyphens, such as {slug(name)}"
        )
    with _turn:
        if "begin" in request.args:
            name = _unused(name)
            _begin(name, request.args.get("rate", ""), request.args.get("title", name))
            return {"name": name, "frames": 0}
        folder = _folder(name)
        rate = request.args.get("rate", "")
        if not folder.exists():
            _begin(name, rate, request.args.get("title", name))
        elif rate and Rate.parse(rate).fps != Rate.parse((folder / ".rate").read_text()).fps:
            raise Mistake(
                f"{name} came with {(folder / '.rate').read_text()} fps and now with {rate}: leave the rate out, or "
                "send these frames under another name"
            )
        if "end" in request.args:
            return {"name": name, "frames": _end(name)}
        number = _keep(folder, name)
        if number == 0:
            _first_shot(name, folder)
        else:
            _growing.note(services(), folder)
        return {"name": name, "number": number, "frames": number + 1}


def _folder(name: str) -> Path:
    return services().project.sources / FOLDER / name


def _unused(name: str) -> str:
    number, free = 2, name
    while _folder(free).exists():
        free, number = f"{name}-{number}", number + 1
    return free


def _begin(name: str, rate: str, title: str) -> None:
    if not rate:
        raise Mistake("the first frame needs the rate, such as ?rate=24: pictures have none")
    Rate.parse(rate)
    title = "".join(letter for letter in title if letter.isprintable()).strip() or name
    folder = _folder(name)
    make_folder(folder)
    _counts.pop(folder, None)
    write_whole(folder / ".rate", rate.encode())
    write_whole(folder / ".title", title[:200].encode())


def _keep(folder: Path, name: str) -> int:
    data = request.get_data()
    if not data:
        raise Mistake("the body is empty: send an image file, as curl --data-binary @frame.png does")
    if not _is_whole(data):
        raise Mistake("the picture is damaged or cut short: send it again")
    number = _counts.get(folder)
    if number is None:
        number = len(list(folder.glob(f"{name}.*")))
    arriving = folder / ".arriving"
    write_whole(arriving, data)
    try:
        _header(arriving)
    except SourceError:
        arriving.unlink()
        raise Mistake("the body is not a picture that Vexel can read: send PNG, JPEG, TIFF, WebP, EXR or HDR") from None
    suffix = ".png" if data.startswith(b"\x89PNG") else ".jpg" if data.startswith(b"\xff\xd8") else _suffix(data)
    first = next(folder.glob(f"{name}.00000.*"), None)
    if first is not None and first.suffix != suffix:
        # Two kinds of file are two sequences, each with holes where the other has frames.
        arriving.unlink()
        raise Mistake(
            f"frame {number:,} is a {suffix[1:].upper()} file, and {name} holds {first.suffix[1:].upper()}: send that, "
            "or begin another name"
        )
    publish(arriving, folder / f"{name}.{number:05d}{suffix}")
    _counts[folder] = number + 1
    return number


def _is_whole(data: bytes) -> bool:
    """Whether a picture's own marks say that all of it came; of kinds without such marks, yes."""
    if data.startswith(_PNG):
        at = len(_PNG)
        while at + 12 <= len(data):
            end = at + 12 + int.from_bytes(data[at : at + 4], "big")
            if end > len(data) or zlib.crc32(data[at + 4 : end - 4]) != int.from_bytes(data[end - 4 : end], "big"):
                return False
            if data[at + 4 : at + 8] == b"IEND":
                return True
            at = end
        return False
    if data.startswith(b"\xff\xd8"):
        return data.rstrip(b"\0").endswith(b"\xff\xd9")
    return not data.startswith(b"RIFF") or len(data) >= 8 + int.from_bytes(data[4:8], "little")


def _suffix(data: bytes) -> str:
    if data.startswith(RADIANCE):
        return ".hdr"
    return {b"RIFF": ".webp", b"v/1\x01": ".exr"}.get(data[:4], ".tif")


def _header(file: Path) -> Header:
    with services().media.asked() as process:
        return process.header(file)


def _is_clear(file: Path) -> bool:
    """Whether a picture is clear somewhere."""
    with services().media.asked() as process:
        return process.png(file)[_COLOUR_TYPE] in _WITH_ALPHA


def _first_shot(name: str, folder: Path) -> None:
    """A shot of the frames, so that they can be looked at while they come."""
    (first,) = folder.glob(f"{name}.00000.*")
    rate, header = (folder / ".rate").read_text(), _header(first)
    picture: dict[str, int | str] = {
        "width": max(header.width, 16), "height": max(header.height, 16), "samples": 1,
    }  # fmt: skip
    if header.alpha and _is_clear(first):
        picture["background"] = TRANSPARENT
    document = {
        "title": (folder / ".title").read_text(),
        "source": {"kind": "stills", "file": f"../sources/{FOLDER}/{name}/{first.name}", "rate": rate},
        "clock": {"rate": rate, "frames": 1, "span": "ends"},
        "picture": picture,
    }
    kept = services().project.shots.add(read_shot_document(document))
    write_whole(folder / ".shot", kept.id.encode())
    write_whole(folder / ".long", b"1")
    services().events.send(ShotChanged(id=kept.id, revision=kept.revision))


def _end(name: str) -> int:
    """Let the shot be as long as there are frames."""
    folder = _folder(name)
    frames = len(list(folder.glob(f"{name}.*")))
    if frames == 0:
        shutil.rmtree(folder)
        return 0
    _lengthen(services(), folder)
    return frames


def _lengthen(found: Services, folder: Path) -> None:
    """Make a shot as long as there are frames, unless the user has set another length in the meantime."""
    shot_id, long = (folder / ".shot").read_text(), folder / ".long"
    frames = len(list(folder.glob(f"{folder.name}.*")))
    if not re.fullmatch(r"[\w-]+", shot_id) or shot_id not in found.project.shots.ids():
        return
    ours = int(long.read_text()) if long.exists() else 1
    if found.project.shots.shot(shot_id).clock.frames != ours or frames == ours:
        return
    patch = {"clock": {"frames": frames, "seconds": None}}
    kept = found.project.shots.edit(shot_id, patch, "the frames that came", burst="frames")
    write_whole(long, str(frames).encode())
    found.events.send(ShotChanged(id=shot_id, revision=kept.revision))


class _Growing:
    """Shots that become longer while frames come: now and then, and a moment after the last one."""

    def __init__(self) -> None:
        self._waiting: set[Path] = set()

    def note(self, found: Services, folder: Path) -> None:
        """Record one more frame."""
        if folder in self._waiting:
            return
        self._waiting.add(folder)
        timer = threading.Timer(GROWS_EACH, self._lengthen, (found, folder))
        timer.daemon = True
        timer.start()

    def _lengthen(self, found: Services, folder: Path) -> None:
        with _turn:
            self._waiting.discard(folder)
            # It or its shot was deleted in the meantime; the frames stay in any case.
            with suppress(OSError, VexelError):
                _lengthen(found, folder)


_growing = _Growing()
