"""Which writer writes which form."""

from collections.abc import Mapping
from types import MappingProxyType

from vexel.core.recipes.form import FORMS
from vexel.output.writers.animated import AnimatedWriter
from vexel.output.writers.cues import CueWriter
from vexel.output.writers.gif import GifWriter
from vexel.output.writers.image_files import AsMadeWriter, SequenceWriter, StillWriter
from vexel.output.writers.page import PageWriter
from vexel.output.writers.video import MUXERS, VideoWriter
from vexel.output.writers.writer import Writer

_OTHERS: Mapping[str, type[Writer]] = {
    "gif": GifWriter,
    "webp": AnimatedWriter,
    "apng": AnimatedWriter,
    "folder": SequenceWriter,
    "still": StillWriter,
    "page": PageWriter,
    "vtt": CueWriter,
}
WRITERS: Mapping[str, type[Writer]] = MappingProxyType(
    {
        name: AsMadeWriter
        if form.codec == "as-made"
        else VideoWriter
        if form.container in MUXERS
        else _OTHERS[form.container]
        for name, form in FORMS.items()
        if form.codec != "handover"
    }
)
"""By a form's name; a hand-over is made by `handover`, of more than frames."""
