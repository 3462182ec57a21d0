"""All passes of a take in one OpenEXR file for each frame, as layers."""

from collections.abc import Callable
from pathlib import Path
from typing import Any

from numpy.typing import NDArray

from vexel.core.document.passes import PASSES
from vexel.core.document.shot import read_shot_document
from vexel.core.errors import Failure, Mistake
from vexel.disk.write import write_whole
from vexel.sources.contained_path import contained_file
from vexel.stage.exr import exr_bytes, raw_channels
from vexel.store.folder_take import LEDGER, read_ledger
from vexel.store.frame_states import READY

Layers = dict[str, NDArray[Any]]


def write_layers(
    take: Path, folder: Path, camera: str = "", on_step: Callable[[int, int], None] = lambda done, of: None
) -> list[Path]:
    """Write a file for each frame of a take in OpenEXR.

    Parameters
    ----------
    take : Path
        Its folder.
    folder : Path
        A new one, or an empty one.
    camera : str
        Which camera of a take that holds several.
    on_step : callable
        Called with frames done and frames in all.

    Returns
    -------
    list of Path

    Raises
    ------
    Mistake
        When the take is no take of OpenEXR files, or the folder holds files.
    Failure
        When a frame is not there.
    """
    ledger = read_ledger(take) if (take / LEDGER).is_file() else None
    if ledger is None:
        raise Mistake(f"{take} is not a take: capture one with vexel capture --to")
    shot = read_shot_document(ledger["shot"])
    if shot.picture.format != "exr":
        raise Mistake(f"the take holds {shot.picture.format} files: set picture.format to exr and capture again")
    cameras = list(dict.fromkeys(camera_pass.camera for camera_pass in shot.camera_passes))
    if camera and camera not in cameras:
        raise Mistake(f"the take has no camera {camera!r}; it has {', '.join(cameras)}")
    if len(cameras) > 1 and not camera:
        raise Mistake(f"the take has {len(cameras)} cameras: choose one of {', '.join(cameras)} with --camera")
    if folder.exists() and any(folder.iterdir()):
        raise Mistake(f"{folder} already holds files: name a new folder")
    chosen = camera or cameras[0]
    labels = [one.label for one in shot.camera_passes]
    by_frame: dict[int, dict[str, Path]] = {}
    for row in ledger["frames"]:
        of = shot.camera_passes[labels.index(row["camera_pass"]) if "camera_pass" in row else 0]
        if of.camera != chosen:
            continue
        if row["state"] not in READY:
            raise Failure(f"frame {row['number']:,} of {of.render_pass} is not made: capture with --resume")
        by_frame.setdefault(row["number"], {})[of.render_pass] = contained_file(take, row["file"], LEDGER)
    folder.mkdir(parents=True, exist_ok=True)
    made = []
    for done, (number, files) in enumerate(sorted(by_frame.items()), start=1):
        first = next(iter(files.values()))
        file = folder / f"{first.stem.rsplit('.', 2)[0]}.layers.{number + shot.names.start:04}.exr"
        write_whole(file, exr_bytes(layers_of(files)))
        made.append(file)
        on_step(done, len(by_frame))
    return made


def layers_of(files: dict[str, Path]) -> Layers:
    """Channels of the passes of one frame: the first picture plain, others with their pass before them.

    Depths are ``Z`` and normals ``N.X``, ``N.Y``, ``N.Z``, as in separate files.
    """
    layers: Layers = {}
    for render_pass, file in files.items():
        traits = PASSES[render_pass]  # type: ignore[index]
        held, beside = raw_channels(file), "R" in layers
        for name, values in held.items():
            if traits.distances or (traits.directions and name != "A"):
                layers[name] = values
            elif not traits.directions:
                layers[f"{render_pass}.{name}" if beside else name] = values
    return layers
