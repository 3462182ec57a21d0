"""Blueprint: sweeps, the variants of a shot on their contact sheet."""

from flask import Blueprint, Response, request

from vexel.core.document.shot import Shot
from vexel.core.document.source_spec import WithDials
from vexel.core.errors import Missing, Mistake
from vexel.core.reel.reel_spec import read_reel_document
from vexel.core.sweep.reel_of_sweep import reel_of_sweep
from vexel.core.sweep.settings import settings_of
from vexel.core.sweep.sheet import sheet_rows
from vexel.core.sweep.table import read_table
from vexel.core.sweep.variants import (
    Variant,
    axis_values,
    pictures_of,
    said_size,
    swept_shot,
    variant_shot,
    variants,
)
from vexel.core.wording import slug
from vexel.output.exporting.contact_sheet import ContactSheet, SheetCell, sheet_html, sheet_pdf, sheet_png
from vexel.store.documents.shots import spelled
from vexel.store.frame_states import READY
from vexel.web.jobs.frames.captures import RunLimits
from vexel.web.jobs.frames.sweeps import IN_ONE, variant_at
from vexel.web.routes.bench.viewfinder import FrameOrder, fitted
from vexel.web.schemas.sweeps import (
    AxisBody,
    MadeReel,
    MadeShot,
    SettingBodies,
    SettingBody,
    SweepBody,
    SweepOrder,
    SweepReel,
    SweepRuns,
    TableBody,
    TableText,
    VariantBody,
)
from vexel.web.services import services
from vexel.web.spec import answers, spec

blueprint = Blueprint("sweeps", __name__, url_prefix="/api")
SHEETS = {
    "png": (sheet_png, "image/png"),
    "pdf": (sheet_pdf, "application/pdf"),
    "html": (sheet_html, "text/html"),
}
CHECKED = 50
"""Variants whose values are looked at whenever they are listed; all are, before a capture."""
SHEET_SIDE = 320
"""Longest side of the pictures of an exported sheet."""


@blueprint.get("/shots/<shot_id>/sweep")
@spec.validate(resp=answers(SweepBody))
def get_sweep(shot_id: str) -> SweepBody:
    """The variants of a shot, with their newest runs."""
    kept = services().project.shots.get(shot_id)
    shot = kept.value
    if shot.sweep is None:
        return SweepBody(revision=kept.revision, variants=[], axes=[], kept=0, pictures=0, sentence="", trouble="")
    try:
        found = variants(shot.sweep)
        for one in found[:CHECKED]:
            variant_shot(shot, one)
    except Mistake as error:
        return SweepBody(
            revision=kept.revision, variants=[], axes=[], kept=0, pictures=0, sentence="", trouble=str(error)
        )
    newest = services().sweeps.newest(shot_id)
    frames = services().project.ledger.overview([row.id for row in newest.values()])
    made = len([one for one in found if not one.left_out])

    def body(one: Variant) -> VariantBody:
        row = newest.get(one.name) or newest.get(IN_ONE)
        states = frames.get(row.id, {}) if row is not None else {}
        return VariantBody(
            number=one.number,
            name=one.name,
            values=dict(one.values),
            place=list(one.place),
            left_out=one.left_out,
            favourite=one.favourite,
            run=row.id if row is not None else None,
            state=row.state if row is not None else "",
            done=sum(count for state, (count, _) in states.items() if state in READY),
            count=row.count if row is not None else 0,
        )

    axes = [AxisBody(label=label, values=list(values)) for label, values in axis_values(shot.sweep)]
    bodies = [body(one) for one in found]
    return SweepBody(
        revision=kept.revision,
        variants=bodies,
        axes=axes,
        kept=made,
        pictures=pictures_of(shot, made),
        sentence=said_size(shot, made),
        trouble="",
    )


@blueprint.get("/shots/<shot_id>/settings")
@spec.validate(resp=answers(SettingBodies))
def get_settings(shot_id: str) -> SettingBodies:
    """All that an axis of a shot may vary, with the shot's own values."""
    shot = services().project.shots.shot(shot_id)
    dials = services().facts(shot).dials if isinstance(shot.source, WithDials) else ()
    return SettingBodies(settings=[SettingBody(**vars(one)) for one in settings_of(shot, dials)])


@blueprint.get("/shots/<shot_id>/variants/<int:number>/view")
@spec.validate(tags=["viewfinder"])
def variant_view(shot_id: str, number: int, query: FrameOrder) -> Response:
    """A small frame of a variant, kept for the next look."""
    shot = services().project.shots.shot(shot_id)
    data = _picture(shot, variant_at(shot, number), query)
    return Response(data, mimetype="image/png", headers={"Cache-Control": "no-store"})


@blueprint.post("/shots/<shot_id>/variants/<int:number>/shot")
@spec.validate(resp=answers(MadeShot))
def shot_of_variant(shot_id: str, number: int) -> MadeShot:
    """A new shot with the values of a variant; the one that was made before, if it is unchanged."""
    shots = services().project.shots
    shot = shots.shot(shot_id)
    wanted = variant_shot(shot, variant_at(shot, number))
    there = slug(wanted.title)
    if shots.has(there) and spelled(shots.shot(there)) == spelled(wanted):
        return MadeShot(id=there)
    return MadeShot(id=shots.add(wanted).id)


@blueprint.post("/shots/<shot_id>/sweep/runs")
@spec.validate(resp=answers(SweepRuns))
def capture_sweep(shot_id: str, json: SweepOrder) -> SweepRuns:
    """Capture the variants of a shot that are not left out."""
    dials = services().facts(services().project.shots.shot(shot_id)).dials
    limits = RunLimits(frame_seconds=json.frame_seconds, tries=json.tries)
    runs = services().sweeps.capture(shot_id, dials, limits, json.draft, json.to_file, json.favourites)
    return SweepRuns(runs=runs)


@blueprint.post("/sweep/table")
@spec.validate(resp=answers(TableBody))
def table(json: TableText) -> TableBody:
    """Read a table of variants."""
    return TableBody(table=read_table(json.text))


@blueprint.get("/shots/<shot_id>/sweep/sheet.<kind>")
def sheet(shot_id: str, kind: str) -> Response:
    """The contact sheet as a file: png, pdf or html; ``?favourites=1`` holds those alone."""
    if kind not in SHEETS:
        raise Missing(f"there is no contact sheet as .{kind}: ask for png, pdf or html")
    shot = services().project.shots.shot(shot_id)
    if shot.sweep is None:
        raise Mistake("this shot has no variants: add an axis first")
    query = FrameOrder(frame=shot.sweep.frame, width=SHEET_SIDE, height=SHEET_SIDE, samples=4)
    rows = [
        [SheetCell(one.name, _picture(shot, one, query), one.favourite) if one else SheetCell("") for one in row]
        for row in sheet_rows(shot.sweep, favourites="favourites" in request.args)
    ]
    made, (write, kind_of) = ContactSheet(shot.title, f"frame {query.frame}", rows), SHEETS[kind]
    name = f"{slug(shot.title)}.sheet.{kind}"
    headers = {"Content-Disposition": f"attachment; filename={name}"}
    return Response(write(made), mimetype=kind_of, headers=headers)


@blueprint.post("/shots/<shot_id>/sweep/reel")
@spec.validate(resp=answers(MadeReel))
def reel_of_takes(shot_id: str, json: SweepReel) -> MadeReel:
    """A reel of the takes of a sweep: one after the other with a title each, or in a synchronized grid."""
    project = services().project
    shot = project.shots.shot(shot_id)
    if shot.sweep is None:
        raise Mistake("this shot has no variants: add an axis first")
    newest = services().sweeps.newest(shot_id)
    places = {name: f"run:{row.id}" for name, row in newest.items() if row.state == "done"}
    document = reel_of_sweep(shot, places, json.arrangement, json.favourites)
    return MadeReel(id=project.reels.add(read_reel_document(document)).id)


def _picture(shot: Shot, variant: Variant, query: FrameOrder) -> bytes:
    """A small picture of a variant; those of one take have one view, as in the take."""
    sweep = shot.sweep
    assert sweep is not None
    if sweep.makes == "shots" or variant.left_out:
        own = variant_shot(shot, variant)
        return services().glance(fitted(own, query), min(query.frame, own.clock.exact.frames - 1))
    kept = [one for one in variants(sweep) if not one.left_out]
    place = [one.number for one in kept].index(variant.number)
    return services().glance(fitted(swept_shot(shot, kept), query), place)
