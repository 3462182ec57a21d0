"""The encoder's command line that makes the same file from the frames on disk."""

import re
import shlex
from collections.abc import Sequence
from fractions import Fraction

from vexel.core.errors import Mistake
from vexel.core.recipes.colour_tags import MATRICES, PRIMARIES, TRANSFERS
from vexel.core.recipes.form import depth_of
from vexel.core.recipes.recipe import Recipe
from vexel.core.time.rate import Rate
from vexel.imaging.images import ImageMetadata, image_metadata
from vexel.output.job.job import Job
from vexel.output.writers.codecs import CODECS, Knob, key_distance, muxing
from vexel.output.writers.gif import GIF_DITHER
from vexel.sources.pictures.sequence_report import oddities_of

_EXACT = "flags=bicubic+accurate_rnd+full_chroma_inp+full_chroma_int"
_FILTERS = {"area": "area", "lanczos": "lanczos", "bicubic": "bicubic", "nearest": "neighbor"}
_NUMBER = re.compile(r"(\d+)(?=\D*$)")


def command_of(job: Job, program: str = "ffmpeg") -> list[str]:
    """The words of the command.

    Raises
    ------
    Mistake
        Where no such line makes the same: what other programs put together, or sizes that are searched for.
    """
    recipe = job.recipe
    if recipe.form.kind in ("page", "folder", "text") or recipe.container in ("zip", "still"):
        raise Mistake(f"{recipe.makes} is not made by an encoder's command line: copy the files themselves")
    if recipe.quality.at_most:
        raise Mistake("a size is searched for, which no single line does: give the recipe a level instead")
    if any(mix for _, mix in job.timeline.picks):
        raise Mistake("frames that are mixed in linear light are not made by one line: use nearest or refuse")
    pattern, start = _pattern(job)
    words = [program, "-y", "-framerate", _rate(job.footage.clock.rate), "-start_number", str(start), "-i", pattern]
    if recipe.sound.file:
        words += ["-i", recipe.sound.file]
    words += _filters(job)
    words += ["-frames:v", str(job.timeline.count)]
    if recipe.codec == "gif":
        return [*words, "-loop", str({0: 0, 1: -1}.get(recipe.timing.plays, recipe.timing.plays - 1)), str(job.file)]
    if recipe.codec == "apng":
        return [
            *words,
            "-c:v",
            "apng",
            "-pred",
            "mixed",
            "-plays",
            str(recipe.timing.plays),
            "-f",
            "apng",
            str(job.file),
        ]
    if recipe.container == "webp":
        lossless = recipe.codec == "webp-lossless"
        level = recipe.quality.level if recipe.quality.level is not None else 85
        words += ["-c:v", "libwebp_anim", "-lossless", "1" if lossless else "0"]
        return [*words, "-quality", f"{75 if lossless else level:g}", "-loop", str(recipe.timing.plays), str(job.file)]
    return [*words, *_codec(job), str(job.file)]


def posix(words: Sequence[str]) -> str:
    """A line for a POSIX shell."""
    return shlex.join(words)


def windows(words: Sequence[str]) -> str:
    """A line for the command prompt of Windows: quoted by its rules, percent signs doubled in batch files alone."""
    quoted = []
    for word in words:
        if word and not re.search(r'[\s"&|<>^()%!;,=\']', word):
            quoted.append(word)
        else:
            quoted.append('"' + re.sub(r'(\\*)"', r'\1\1\\"', word).removesuffix("\\") + '"')
    return " ".join(quoted)


def _pattern(job: Job) -> tuple[str, int]:
    """The frames as a printf pattern with the number of the first that is shown."""
    files = job.footage.files
    shown = [position for position, _ in job.timeline.picks]
    first = files[0]
    found = _NUMBER.search(first.stem)
    if found is None or job.footage.held:
        raise Mistake(
            f"the frames have no numbers in a row, as {first.name}: write them to a folder first, by `frames`"
        )
    if image_metadata(first) != ImageMetadata() or oddities_of(first) or first.suffix.lower() == ".hdr":
        raise Mistake(
            f"{first.name} has an orientation tag, a colour profile or linear light, which the line ignores: "
            "write the frames to a folder first, by `png`"
        )
    digits = len(found[1])
    head, tail = first.stem[: found.start()], first.stem[found.end() :]
    width = f"0{digits}" if found[1].startswith("0") or digits > 1 else ""
    for n in (shown[0], shown[-1]):
        if files[n].name != f"{head}{int(found[1]) + n:0{digits}d}{tail}{first.suffix}":
            raise Mistake(f"the frames have no numbers in a row, as {files[n].name}: write them out by `frames`")
    name = f"{head.replace('%', '%%')}%{width}d{tail.replace('%', '%%')}{first.suffix}"
    return str(first.parent / name), int(found[1]) + shown[0]


def _rate(rate: Rate) -> str:
    return f"{rate.fps.numerator}/{rate.fps.denominator}" if rate.fps.denominator > 1 else str(rate.fps)


def _filters(job: Job) -> list[str]:
    placement, recipe = job.placement, job.recipe
    fitted = placement.fitted
    chain = []
    if job.footage.premultiplied:
        chain.append("unpremultiply=inplace=1")
    left, top, wide, high = fitted.part
    if (wide, high) != (job.source.width, job.source.height):
        chain.append(f"crop={wide}:{high}:{left}:{top}")
    if fitted.scaled != (wide, high):
        how = f"scale={fitted.scaled[0]}:{fitted.scaled[1]}:flags={_FILTERS[placement.filter]}"
        # Colours weighted by what they cover, so that no fringe comes from what is clear.
        chain += ["premultiply=inplace=1", how, "unpremultiply=inplace=1"] if placement.alpha else [how]
    if fitted.scaled != (job.width, job.height):
        colour = "black@0" if placement.alpha else placement.ground.replace("#", "0x")
        chain.append(f"pad={job.width}:{job.height}:{fitted.at[0]}:{fitted.at[1]}:color={colour}")
    if job.timeline.rate.fps != job.footage.clock.rate.fps:
        chain += _retimed(job)
    if job.timeline.repeats > 1:
        once = len(job.timeline.picks)
        chain.append(f"loop=loop={job.timeline.repeats - 1}:size={once}:start=0")
    if recipe.codec == "gif":
        return ["-filter_complex", _gif_filters(job, chain)]
    if recipe.colour.primaries != "bt709" or (job.source.deep and not placement.deep):
        chain += _converted(job)
    tagged: list[str] = []
    pixels = "bgra" if recipe.container == "webp" else job.pixels
    if pixels.startswith("yuv"):
        full = recipe.colour.range == "full"
        chain.append(
            f"scale={_EXACT}:in_range=pc:out_range={'pc' if full else 'tv'}:out_color_matrix={recipe.colour.matrix}"
            + _siting(job.pixels)
        )
        # Some encoders take the tags of the file from its frames.
        matrix = MATRICES[recipe.colour.matrix].ffmpeg
        tagged.append(
            f"setparams=color_primaries={_primaries(recipe)}:color_trc={_transfer(recipe)}:colorspace={matrix}"
        )
    if job.loses_alpha:
        ground = placement.ground.replace("#", "0x")
        size = f"s={job.source.width}x{job.source.height}:r={_rate(job.footage.clock.rate)}"
        behind = f"color=c={ground}:{size},format=rgba[ground];[ground][0:v]overlay=shortest=1:format=rgb"
        return ["-filter_complex", ",".join([behind, *chain, f"format={pixels}", *tagged])]
    return ["-vf", ",".join([*chain, f"format={pixels}", *tagged])]


def _retimed(job: Job) -> list[str]:
    """Each picture shows the frame that is nearest to its instant, of two the earlier.

    The filter shows the last frame whose time, rounded down to the file's pictures, is reached; so
    frames are late by as much as makes that the nearest.
    """
    old, new = job.footage.clock.rate.fps, job.timeline.rate.fps
    late = (1 - new / old / 2) / new
    ticks = old.numerator * new.numerator * 2 * late.denominator
    fine = f"settb=1/{ticks}" if ticks < 2**31 else "settb=1/1000000000"
    return [
        fine,
        f"setpts=PTS+({late.numerator}/{late.denominator})/TB",
        f"fps={_rate(job.timeline.rate)}:round=down:start_time=0",
    ]


def _siting(pixels: str) -> str:
    if "420" in pixels:
        return ":out_h_chr_pos=0:out_v_chr_pos=128"
    return ":out_h_chr_pos=0" if "422" in pixels else ""


def _converted(job: Job) -> list[str]:
    """Colours by other primaries, worked out in linear light, or of as many bits as ours are before the file's form."""
    given = "primariesin=bt709:transferin=iec61966-2-1:matrixin=gbr:rangein=full"
    wanted = f"primaries={_primaries(job.recipe)}:transfer=iec61966-2-1:matrix=gbr:range=full"
    planes = f"gbr{'a' if job.placement.alpha else ''}p"
    before, after = ("16le" if deep else "" for deep in (job.source.deep, job.placement.deep))
    # The filter makes 16 bits of 8 and 8 of 16 itself: the scaler would cut codes, and white would not be white.
    return [f"format={planes}{before}", f"zscale={given}:{wanted}", f"format={planes}{after}"]


def _primaries(recipe: Recipe) -> str:
    return PRIMARIES[recipe.colour.primaries].ffmpeg


def _transfer(recipe: Recipe) -> str:
    return TRANSFERS[recipe.colour.transfer].ffmpeg


def notes_of(job: Job) -> list[str]:
    """How the file of that line differs from ours, a sentence each."""
    notes = []
    if job.placement.alpha and job.recipe.form.quality is not None and job.recipe.form.kind == "video":
        notes.append("the line does not change colours under clear pixels: edges may get a fringe that ours do not")
    if job.recipe.form.quality is not None and job.recipe.form.kind == "video":
        notes.append("another version of the encoder than ours may make other choices at the same quality")
    if job.recipe.form.chapters and job.cues:
        notes.append("the line writes no chapters")
    if not job.placement.fitted.is_whole:
        notes.append("the line scales by FFmpeg's filter, whose pixels differ a little from ours")
    if job.recipe.colour.primaries != "bt709":
        notes.append("the line converts colours by FFmpeg's zscale filter, whose codes may differ by one from ours")
    if job.recipe.codec == "gif":
        notes.append("the line makes its palette by FFmpeg's filter, whose colours differ a little from ours")
    return notes


def _gif_filters(job: Job, chain: list[str]) -> str:
    palette = job.recipe.palette
    own = palette.of == "frame"
    before = "".join(f"{step}," for step in chain)
    colours = max(palette.colours, 4)
    make = f"palettegen=stats_mode={'single' if own else 'full'}:reserve_transparent=1:max_colors={colours}"
    use = f"paletteuse=dither={GIF_DITHER[palette.dither]}" + (":new=1" if own else ":diff_mode=rectangle")
    return f"[0:v]{before}split[one][other];[one]{make}[palette];[other][palette]{use}:alpha_threshold=128"


def _codec(job: Job) -> list[str]:
    recipe = job.recipe
    codec = CODECS[recipe.codec]
    bits = round(recipe.quality.kilobits * 1000) if recipe.quality.kilobits else None
    settings = dict(codec.settings(job, Knob(recipe.quality.level, bits)))
    rate = settings.pop("b", None)
    words = ["-c:v", codec.encoder]
    if rate:
        words += ["-b:v", rate]
    for name, value in settings.items():
        words += [f"-{name}:v" if name in ("profile", "level") else f"-{name}", value]
    if distance := key_distance(job):
        words += ["-g", str(distance)]
    if codec.tag and recipe.container in ("mp4", "mov"):
        words += ["-tag:v", codec.tag]
    if job.pixels.startswith("yuv"):
        matrix = MATRICES[recipe.colour.matrix].ffmpeg
        words += ["-colorspace", matrix, "-color_primaries", _primaries(recipe), "-color_trc", _transfer(recipe)]
        words += ["-color_range", "pc" if recipe.colour.range == "full" else "tv"]
    if depth_of(job.pixels) > 8 and recipe.codec == "ffv1":
        words += ["-pix_fmt", job.pixels]
    for name, value in muxing(job).items():
        words += [f"-{name}", value]
    if recipe.sound.file:
        seconds = float(Fraction(job.timeline.seconds))
        words += ["-map", "0:v", "-map", "1:a", "-af", f"apad,atrim=0:{seconds:.6f}", "-ac", "2", "-ar", "48000"]
        words += ["-b:a", f"{recipe.sound.kilobits}k"]
    return words
