"""The provenance record that files carry: title, date, and digests of the frames and the document of each."""

import hashlib
import json
from collections.abc import Sequence
from datetime import UTC, datetime
from pathlib import PurePosixPath, PureWindowsPath
from typing import Any, Literal

from pydantic import BaseModel, ConfigDict, Field

from vexel.core.recipes.recipe import Recipe
from vexel.output.footage.footage import Footage
from vexel.output.job.job import Job

MARK = "vexel:"
"""What a record begins with in a file, so that it is found in any."""
Digest = str


class Origin(BaseModel):
    """How a file was made.

    Attributes
    ----------
    title : str
    date : str
        On which the file was made, UTC.
    kind : {"shot", "reel", "frames"}
    frames, document, recipe_digest : str
        SHA-256 of the frames' files in order, of the document and of the recipe; empty where not known.
    camera_pass : str
        Label of the camera and pass of a shot.
    recipe : str
        Name of the recipe.
    made : dict
        The whole document, where the file carries it.
    settings : dict
        The whole recipe, where the file carries it.
    """

    model_config = ConfigDict(frozen=True, extra="ignore")

    vexel: Literal[1] = 1
    title: str = Field(default="", max_length=1000)
    date: str = Field(default="", max_length=32)
    kind: Literal["shot", "reel", "frames"] = "frames"
    frames: Digest = Field(default="", max_length=64)
    document: Digest = Field(default="", max_length=64)
    camera_pass: str = Field(default="", max_length=300)
    recipe: str = Field(default="", max_length=40)
    recipe_digest: Digest = Field(default="", max_length=64)
    made: dict[str, Any] = {}
    settings: dict[str, Any] = {}

    @property
    def text(self) -> str:
        """As files carry it: ASCII, without signs that markup takes for its own."""
        plain = json.dumps(self.model_dump(exclude_defaults=True) | {"vexel": 1}, ensure_ascii=True, sort_keys=True)
        return MARK + plain.replace("<", "\\u003c").replace(">", "\\u003e").replace("&", "\\u0026")


def origin_of(job: Job) -> Origin | None:
    """The provenance record of a file; None where its recipe asks for nothing."""
    wanted, footage = job.recipe.origin, job.footage
    if wanted == "nothing":
        return None
    full = wanted == "full"
    recipe = lean(job.recipe)
    return Origin(
        # Not the file's own name: the same frames give the same bytes.
        title=footage.title,
        date=footage.dated or datetime.now(UTC).date().isoformat(),
        kind=footage.made_of,
        frames=frames_digest(footage),
        document=document_digest(footage.document),
        camera_pass=footage.camera_pass,
        recipe=job.recipe.name,
        recipe_digest=recipe_digest(job.recipe),
        made=without_places(json.loads(footage.document)) if full and footage.document else {},
        settings=without_places(recipe) if full else {},
    )


def frames_digest(footage: Footage) -> Digest:
    """Of the frames' files, in order; empty where the content of one is not known."""
    if not footage.files or footage.made_of == "reel":
        return ""
    known = [footage.known.get(file) for file in footage.files]
    return digest_of_frames([one.digest if one is not None else "" for one in known])


def digest_of_frames(digests: Sequence[str]) -> Digest:
    """One digest of those of all frames; empty where one is not known."""
    return hashlib.sha256("\n".join(digests).encode()).hexdigest() if digests and all(digests) else ""


def document_digest(document: str) -> Digest:
    """Of a document in its saved form; empty for none."""
    if not document:
        return ""
    same = json.dumps(json.loads(document), sort_keys=True, ensure_ascii=True)
    return hashlib.sha256(same.encode()).hexdigest()


def recipe_digest(recipe: Recipe) -> Digest:
    """Of all settings of a recipe that decide the file."""
    return hashlib.sha256(json.dumps(lean(recipe), sort_keys=True).encode()).hexdigest()


def lean(recipe: Recipe) -> dict[str, Any]:
    """A recipe without usual values, and without what does not change a file."""
    return recipe.model_dump(mode="json", exclude_defaults=True, exclude={"about", "loses", "group", "names"})


def without_places(value: Any) -> Any:
    """JSON values in which absolute paths are names alone: no file names a place of the machine."""
    if isinstance(value, dict):
        return {name: without_places(one) for name, one in value.items()}
    if isinstance(value, list):
        return [without_places(one) for one in value]
    if isinstance(value, str) and _is_place(value):
        return PurePosixPath(PureWindowsPath(value).as_posix()).name
    return value


def _is_place(text: str) -> bool:
    return text.startswith(("/", "~", "\\\\")) or PureWindowsPath(text).is_absolute()
