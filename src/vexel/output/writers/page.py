"""A web page that plays a take: one file that needs no server and no other address."""

import base64
import html
import json
from dataclasses import replace
from importlib.resources import files
from pathlib import Path
from string import Template
from typing import Any

import cv2
import numpy as np

from vexel.core.recipes.recipe import Recipe
from vexel.imaging.codes import to_bytes
from vexel.imaging.image_bytes import encoded_image
from vexel.output.job.job import Job
from vexel.output.job.pictures import Pixels
from vexel.output.origin.record import origin_of
from vexel.output.writers.search import SizeSearch
from vexel.output.writers.video import VideoWriter
from vexel.output.writers.writer import Writer

_POSTER_QUALITY = 80
DRAGS = {"turns": "drag to turn", "looks": "drag to look around"}
"""Shown over a page until it is first dragged."""
# A third is what base64 adds.
_OF_BASE64 = 4 / 3


class PageWriter(Writer):
    """A page with a video in it, or with single pictures where it turns under the finger."""

    def __init__(self, job: Job, part: Path) -> None:
        super().__init__(job, part)
        self._turns = job.recipe.codec == "frames"
        self._poster = b""
        self._frames: list[str] = []
        self._edge = ""
        self._search = SizeSearch.of(job) if self._turns else None
        self._film: VideoWriter | None = None
        if not self._turns:
            self._film = VideoWriter(_film_of(job), part.with_name(f"{part.name}.film"), self._weighed)
        start = min(job.recipe.page.start, job.timeline.count - 1)
        self._start = start

    @property
    def may_repeat(self) -> bool:
        """Whether it may ask for another round."""
        return self._search is not None or (self._film is not None and self._film.may_repeat)

    def prepare(self, pixels: Pixels) -> tuple[str, bytes, Any]:
        """The colour of its edge, the picture for the poster, if it were that one, and what the video wants."""
        edge = _edge_colour(pixels)
        if self._turns:
            level = self._search.knob.level if self._search else self.job.recipe.quality.level
            return edge, _webp(pixels, 82 if level is None else level), None
        assert self._film is not None
        return edge, b"", (self._film.prepare(pixels), pixels)

    def add(self, prepared: tuple[str, bytes, Any], number: int) -> None:
        """Take the next picture."""
        edge, picture, film = prepared
        if number == self._start:
            self._edge = edge
        if self._turns:
            self._frames.append(_uri(picture, "image/webp"))
            if number == self._start:
                self._poster = picture
            return
        assert self._film is not None
        frame, pixels = film
        if number == self._start and not self._poster:
            self._poster = _webp(pixels, _POSTER_QUALITY)
        self._film.add(frame, number)

    def end(self) -> bool:
        """Write the page; another round where its size is not yet that wanted."""
        if self._film is not None:
            if self._film.end():
                return True
            self.notes.extend(self._film.notes)
        self.part.write_text(self._page(self._film.part.read_bytes() if self._film else b""), encoding="utf-8")
        if self._film is not None:
            self._film.part.unlink()
        if self._search and self._search.another(self.part.stat().st_size):
            self._frames, self._poster = [], b""
            return True
        self.notes.extend(self._search.notes if self._search else [])
        self.notes.append(f"to embed it: {embedding(self.job)}")
        return False

    def _weighed(self, film: int) -> int:
        """Bytes of the page with a video of a size in it."""
        return len(self._page(b"").encode()) + round(film * _OF_BASE64)

    def close(self) -> None:
        """Let go of the video."""
        if self._film is not None:
            self._film.close()
            self._film.part.unlink(missing_ok=True)

    def _surroundings(self, mode: str) -> str:
        """The colour around the picture: that of its edge, unless the recipe names one."""
        if self.job.placement.alpha:
            return "transparent"
        named = self.job.recipe.ground != Recipe.model_fields["ground"].default
        return self.job.recipe.ground if named or mode == "looks" else self._edge or self.job.recipe.ground

    def _page(self, film: bytes) -> str:
        job, panorama = self.job, self.job.footage.panorama
        mode = "turns" if self._turns else "looks" if panorama else "plays"
        title = job.recipe.page.title or job.title
        count = job.timeline.count
        take: dict[str, Any] = {
            "title": title,
            "width": job.width,
            "height": job.height,
            "count": count,
            "rate": float(job.timeline.rate.fps),
            "start": self._start,
            "plays": job.recipe.timing.plays,
            "closes": job.footage.clock.span == "loop",
            "sense": job.footage.sense,
        }
        if self._turns:
            take["frames"] = self._frames
        else:
            take["video"] = _uri(film, "video/mp4")
        if panorama:
            take |= {"eyes": panorama.eyes, "degrees": 360 if panorama.covers == "sphere" else 180}
        folder = files("vexel.output.page")
        hint = {
            "turns": "drag or use the arrow keys to turn it",
            "looks": "drag or use the arrow keys to look around",
            "plays": "space pauses, arrow keys step",
        }[mode]
        role = f'role="slider" aria-valuemin="0" aria-valuemax="{count - 1}" aria-valuenow="{self._start}"'
        values = {
            "title": html.escape(title),
            "label": html.escape(f"{title}: {hint}"),
            "mode": {"looks": "look"}.get(mode, mode),
            "role": role if mode == "turns" else 'role="group"',
            "ground": self._surroundings(mode),
            "drag": f'<p id="hint" aria-hidden="true">↔ {DRAGS[mode]}</p>' if mode in DRAGS else "",
            "poster": f'<img src="{_uri(self._poster, "image/webp")}" alt="{html.escape(title)}">',
            # No text in it can end the element that holds it.
            "take": json.dumps(take).replace("<", "\\u003c"),
            "origin": origin.text if (origin := origin_of(job)) is not None else "",
            "script": (folder / f"{mode}.js").read_text("utf-8"),
        }
        return Template((folder / "page.html").read_text("utf-8")).substitute(values)


def embedding(job: Job) -> str:
    """The line that shows a page within another."""
    title = html.escape(job.recipe.page.title or job.title, quote=True)
    style = f"border:0;width:100%;aspect-ratio:{job.width}/{job.height}"
    return f'<iframe src="{html.escape(job.file.name, quote=True)}" title="{title}" style="{style}"></iframe>'


def _film_of(job: Job) -> Job:
    """The video within the page."""
    document = job.recipe.model_dump(exclude_defaults=True) | {"container": "mp4", "codec": "h264"}
    document.pop("page", None)
    document.setdefault("quality", {"level": 20})
    return replace(job, recipe=Recipe.model_validate(document))


def _edge_colour(pixels: Pixels) -> str:
    """The mean colour of a picture's border, as CSS writes it."""
    codes = to_bytes(pixels) if pixels.dtype == np.uint16 else pixels
    edges = np.concatenate([codes[0], codes[-1], codes[:, 0], codes[:, -1]])[:, :3]
    return "#" + "".join(f"{round(float(one)):02x}" for one in edges.mean(axis=0))


def _webp(pixels: Pixels, level: float) -> bytes:
    return encoded_image(".webp", pixels, [cv2.IMWRITE_WEBP_QUALITY, max(round(level), 1)])


def _uri(data: bytes, kind: str) -> str:
    return f"data:{kind};base64,{base64.b64encode(data).decode()}"
