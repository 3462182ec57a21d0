"""Schemas of cameras: rigs, saved views, paths and lenses."""

from typing import Any

from pydantic import BaseModel, Field

from vexel.core.document.camera_spec import RigKind
from vexel.web.schemas.common import NamedValue


class RigBody(BaseModel):
    """Another kind of rig, beginning from how the camera moves now."""

    kind: RigKind
    frame: int = Field(default=0, ge=0, description="whose view a static camera takes")
    camera: int = Field(default=0, ge=0, description="which one, from the shot's own on")


class NewCamera(BaseModel):
    """A further camera, which stands where the shot's own one is in a frame."""

    frame: int = Field(default=0, ge=0)
    patch: dict[str, Any] = Field(default={}, description="merge patch that is shown and not saved")


class SaveView(BaseModel):
    """A view to be saved: that of a frame, with a drag's own camera if given."""

    frame: int = Field(ge=0)
    patch: dict[str, Any] = Field(default={}, description="merge patch that is shown and not saved")
    name: str = Field(default="", max_length=80)


class CameraPathBody(BaseModel):
    """How a camera moves, at most some hundred places of it."""

    name: str
    frames: list[int]
    positions: list[tuple[float, float, float]]
    looks: list[tuple[float, float, float]]
    ups: list[tuple[float, float, float]]
    views_wide_deg: list[float]
    views_high_deg: list[float]


class PathFiguresBody(BaseModel):
    """The cameras of a shot in plan and elevation, and how its own one moves."""

    cameras: list[CameraPathBody]
    centre: tuple[float, float, float]
    radius: float = Field(description="of the sphere about the subject")
    outlines: list[list[tuple[float, float]]] = Field(description="of the subject: from above, front and side")
    places: list[tuple[float, float, float]] = Field(description="keys of the path, or saved views")
    stops: list[int] = Field(description="shown frames at which keys or views are reached")
    frames: list[int] = Field(description="frames that the speeds belong to")
    speeds: list[float] = Field(description="units of the source a frame; empty where nothing moves")
    margins: list[float] = Field(description="room about the subject, in shares of half the frame")
    facts: list[NamedValue]


class PathFile(BaseModel):
    """A file with a camera path."""

    name: str = Field(max_length=200, description="its ending sets the format")
    data: str = Field(max_length=40_000_000, description="its bytes, in base64")
    camera: str = Field(default="", max_length=200, description="name of the camera, where glTF holds several")


class DistanceBody(BaseModel):
    """How far away something is along the line of sight."""

    distance: float | None = Field(description="in the source's units; null where nothing is")
    point: tuple[float, float, float] | None = Field(description="that is seen there")


class LensBody(BaseModel):
    """Field of view in degrees, and what is sharp, in the source's units."""

    wide_deg: float
    high_deg: float
    diagonal_deg: float
    hyperfocal: float | None = Field(description="null where all is sharp")
    near: float | None = Field(description="of what is sharp; null where the focus is not a stated distance")
    far: float | None = Field(description="null where that is infinite, or not known")
    sensors: dict[str, str] = Field(description="usual ones by their size, and what they are called")
