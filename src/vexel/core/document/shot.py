"""The shot document: the whole plan of one piece of video, read from JSON."""

import json
from functools import cached_property
from typing import Any, Literal

from pydantic import Field, ValidationError, field_validator, model_validator

from vexel.core.document.camera_spec import CameraSpec, LensSpec, LightSpec
from vexel.core.document.clock_spec import ClockSpec
from vexel.core.document.lane_spec import Ease, LaneSpec
from vexel.core.document.naming import FIELDS, fields_named, filled, frame_name, other_fields
from vexel.core.document.part import Part
from vexel.core.document.passes import CameraPass, PictureIndex
from vexel.core.document.picture_spec import LabelSpec, NamesSpec, PictureSpec
from vexel.core.document.rig_spec import OrbitSpec
from vexel.core.document.source_spec import AnySource
from vexel.core.document.sweep_spec import NAME_COLUMN, SweepSpec
from vexel.core.document_text import document_text
from vexel.core.errors import Mistake
from vexel.core.lanes.easing import Easing
from vexel.core.merge_patch import merged
from vexel.core.recipes.frame_size import even_sides
from vexel.core.recipes.shipped import recipe_named
from vexel.core.time.rate import Rate
from vexel.core.validation_message import validation_message
from vexel.core.wording import nearest_name

DRAFT_LONG_SIDE = 480


class Shot(Part):
    """One piece of video, planned. Paths in it are relative to its file."""

    vexel: Literal[1] = 1
    title: str = Field(min_length=1, max_length=200)
    source: AnySource
    clock: ClockSpec
    camera: CameraSpec = CameraSpec()
    cameras: list[CameraSpec] = Field(
        default=[], max_length=16, description="further cameras, which capture at the same instants"
    )
    light: LightSpec = LightSpec()
    ease: Ease = Field(default="linear", description="of the shot as a whole, which all lanes and the rig follow")
    lanes: list[LaneSpec] = Field(default=[])
    picture: PictureSpec = PictureSpec()
    labels: list[LabelSpec] = Field(default=[], description="text on the frames")
    names: NamesSpec = NamesSpec()
    sweep: SweepSpec | None = Field(default=None, description="variants of the shot")
    recipe: str = Field(default="h264", description="what the take is to become, by the name of a recipe")

    @property
    def frame_content(self) -> dict[str, Any]:
        """The values that decide its frames, as JSON: all except its names and outputs."""
        unseen: Any = {"title": True, "recipe": True, "names": True, "clock": {"pins", "like", "repeats"}}
        unseen["source"] = {"ignores", "reads_from"}
        if not self.is_swept:
            unseen["sweep"] = True
        return self.model_dump(mode="json", exclude=unseen)

    @field_validator("recipe")
    @classmethod
    def _is_recipe(cls, name: str) -> str:
        return recipe_named(name).name

    @model_validator(mode="after")
    def _timed(self) -> "Shot":
        """A rig that times the shot gives its clock the frames; then all must fit together."""
        clock = self.clock
        frames = self.camera.rig.frames(self.camera.views, Rate.parse(clock.rate), clock.span)
        if frames is None:
            return self._fitting()
        if clock.retimed_from is not None:
            raise Mistake("clock.retimed_from: saved views are retimed by their dwells and travels: remove it")
        timed = clock.model_copy(update={"frames": frames, "seconds": None})
        return self.model_copy(update={"clock": timed})._fitting()

    def _fitting(self) -> "Shot":
        _ = self.clock.exact
        drives, rig = [lane.drive for lane in self.lanes], self.camera.rig.traits
        for drive in drives:
            if drives.count(drive) > 1:
                raise Mistake(f"two lanes drive {drive}: keep one of them")
            if drive.startswith("rig:") and rig.edit_instead:
                raise Mistake(f"lane {drive} cannot drive a rig of kind {rig.label}: {rig.edit_instead} instead")
            if rig.times_shot and any(drive in view.shows for view in self.camera.views):
                raise Mistake(f"{drive} is driven by a lane and shown by views as well: keep one of them")
            if drive.startswith("dial:") and not self.source.traits.dials:
                raise Mistake(f"lane {drive} drives a dial, but {self.source.kind} has none: remove the lane")
        labels = [label.name for label in self.labels if label.name]
        for drive in drives:
            if drive.startswith("label:") and drive.removeprefix("label:") not in labels:
                raise Mistake(f"lane {drive} drives a label, but none has that name: rename one, or remove the lane")
        if len(set(labels)) < len(labels):
            raise Mistake(f"two labels are named {max(labels, key=labels.count)}: rename one of them")
        if self.clock.exact.shutter.is_open and not self.source.traits.blurs:
            raise Mistake(
                f"clock.shutter: {self.source.kind} has whole frames only, which a shutter cannot blur: set it to 0"
            )
        self._check_names()
        self._check_swept()
        return self

    def _check_swept(self) -> None:
        sweep = self.sweep
        if sweep is None or sweep.clock is None:
            return
        if sweep.table is None or NAME_COLUMN not in sweep.table.columns:
            raise Mistake("sweep.clock is for takes whose frames are variants, which name each in a table: remove it")
        if len(sweep.table.rows) != self.clock.exact.frames:
            raise Mistake(f"the sweep has {len(sweep.table.rows):,} variants for {self.clock.exact.frames:,} frames")

    def _check_names(self) -> None:
        names = [camera.name for camera in self.all_cameras]
        if len(set(names)) < len(names):
            raise Mistake(f"two cameras are named {max(names, key=names.count)}: rename one of them")
        if self.names.pattern is None:
            return
        fields, sweep = fields_named(self.names.pattern), self.sweep
        varied = [] if sweep is None else sweep.fields
        for field in other_fields(self.names.pattern):
            if field not in varied:
                raise Mistake(f"names.pattern has no field {{{field}}}: {nearest_name(field, [*FIELDS, *varied])}")
        for field, many, what in (
            ("camera", self.cameras, "cameras"), ("pass", self.picture.passes[1:], "passes")
        ):  # fmt: skip
            if many and field not in fields:
                raise Mistake(f"names.pattern does not distinguish the {what}: add {{{field}}}")

    @property
    def is_swept(self) -> bool:
        """Whether its frames are the variants of a sweep, one each."""
        return self.sweep is not None and self.sweep.clock is not None

    @property
    def easing(self) -> Easing:
        """The easing of the shot as a whole."""
        return Easing.parse(self.ease)

    @property
    def all_cameras(self) -> list[CameraSpec]:
        """The shot's own camera, and the further ones."""
        return [self.camera, *self.cameras]

    @cached_property
    def camera_passes(self) -> list[CameraPass]:
        """What is made of every frame: each camera with each pass."""
        return [
            CameraPass(camera.name, render_pass) for camera in self.all_cameras for render_pass in self.picture.passes
        ]

    @property
    def pictures(self) -> int:
        """How many pictures a take of the shot has: every frame in every camera pass."""
        return self.clock.exact.frames * len(self.camera_passes)

    def picture_index(self, picture: int) -> PictureIndex:
        """Which picture has a number, counted as a take counts them."""
        frame, number = divmod(picture, len(self.camera_passes))
        return self.index_of(frame, number)

    def index_of(self, frame: int, camera_pass: int) -> PictureIndex:
        """A frame in one of the shot's camera passes."""
        passes = self.picture.passes
        camera, number = divmod(camera_pass, len(passes))
        picture = frame * len(self.camera_passes) + camera_pass
        return PictureIndex(picture, frame, camera_pass, camera, passes[number])

    def lens_of(self, camera_pass: int) -> LensSpec:
        """The lens through which a camera pass is seen."""
        return self.all_cameras[self.index_of(0, camera_pass).camera].lens

    def file_name(self, picture: int) -> str:
        """Name of the file of a picture, counted as a take counts them."""
        index, names = self.picture_index(picture), self.names
        pattern = names.pattern
        if pattern and self.sweep is not None:
            sweep = self.sweep
            # The shot itself is no variant.
            fields = sweep.row_fields(index.frame) if self.is_swept else dict.fromkeys(sweep.fields, "shot")
            pattern = filled(pattern, fields)
        return frame_name(
            self.title,
            index.render_pass,
            index.frame,
            self.clock.exact.frames,
            names.start,
            names.digits,
            self.all_cameras[index.camera].name if self.cameras else "",
            pattern,
            self.picture.suffix,
        )

    @property
    def orbit(self) -> OrbitSpec | None:
        """The turntable, where there is one and the kind of source alone says that a camera looks."""
        return self.camera.rig.turntable if self.source.traits.gives == "geometry" else None

    def draft(self) -> "Shot":
        """The same shot, small and quick: at most 480 pixels long, one sample."""
        size = self.picture
        scale = min(1.0, DRAFT_LONG_SIDE / max(size.width, size.height))
        width, height = even_sides(max(round(size.width * scale), 16), max(round(size.height * scale), 16))
        return self.sized(width, height, 1)

    def sized(self, width: int, height: int, samples: int) -> "Shot":
        """The same shot in frames of another size; a drawing still counts in the size it was laid out for."""
        picture = self.picture
        update = {"width": width, "height": height, "samples": samples, "layout": picture.laid_out}
        return self.model_copy(update={"picture": picture.model_copy(update=update)})


def read_shot(text: str | bytes, name: str = "the shot document") -> Shot:
    """Read and check a shot document.

    Parameters
    ----------
    text : str or bytes
        JSON.
    name : str
        What to call the document in an error.

    Raises
    ------
    Mistake
        Naming the document, the key and the cure.
    """
    decoded = document_text(text, name)
    try:
        return Shot.model_validate_json(decoded)
    except ValidationError as error:
        raise Mistake(f"{name}: {validation_message(error, Shot)}") from None


def read_shot_document(document: dict[str, Any], name: str = "the shot document") -> Shot:
    """Check a shot document that is made of JSON values already; see `read_shot`."""
    return read_shot(json.dumps(document), name)


def edited(shot: Shot, patch: dict[str, Any], name: str = "") -> Shot:
    """A shot with a merge patch applied to its full document, all defaults in it.

    A document on disk says only what is not as usual; a patch of such a lean
    document would find no part to land on, and no ``kind`` to go by.

    Raises
    ------
    Mistake
        When the shot would be wrong with it.
    """
    return read_shot_document(merged(shot.model_dump(mode="json"), patch), name or shot.title)
