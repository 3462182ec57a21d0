"""What is off with a reel, as far as its document and the facts of its media tell."""

from collections.abc import Iterator
from dataclasses import replace
from fractions import Fraction

from vexel.core.document.fit import MIDDLE
from vexel.core.finding import Finding, Fix
from vexel.core.reel.formats import ENLARGED, scale_of
from vexel.core.reel.item_spec import AnyItem, PlayedSpec, TitleItem
from vexel.core.reel.items_patch import change_item, remove_item
from vexel.core.reel.node import Node, Shown
from vexel.core.reel.played_item import MissingItem, Playing
from vexel.core.reel.reel_plan import UNSAID, ReelPlan, may_go_in_step
from vexel.core.reel.reel_spec import LABEL_FIELDS
from vexel.core.reel.tracks import missing_items
from vexel.core.time.clock import decimal
from vexel.core.time.rate import Rate
from vexel.core.wording import counted, nearest_name

READ_SECONDS, READ_CHARACTERS = Fraction(1), 15
"""What a title takes at least, and characters that are read a second (subtitles: 12 to 17, common practice)."""


MOST_NAMED = 3
"""Settings that a finding names."""


def reel_findings(plan: ReelPlan) -> Iterator[Finding]:
    """Findings of a reel, item by item; computed on request."""
    if plan.sequence is None:
        return
    yield from _of_labels(plan)
    for number, item in enumerate(plan.reel.items):
        yield from _of_item(plan, number, item)
        if number:
            yield from _of_transition(plan, number)


def _of_labels(plan: ReelPlan) -> Iterator[Finding]:
    known = {name for facts in plan.facts.values() if facts is not None for name in facts.dials}
    for name in plan.label_dials:
        if name not in known:
            yield Finding(
                "label-unknown",
                f"A label says {{{name}}}, which is neither a field nor a dial that a shot of the reel drives or sets; "
                f"{nearest_name(name, (*LABEL_FIELDS, *known))}",
                f"A dash is shown in its place: {UNSAID}.",
            )


def _of_item(plan: ReelPlan, number: int, item: AnyItem) -> Iterator[Finding]:
    assert plan.sequence is not None
    track, name = plan.sequence.tracks[number], plan.names[number]
    for gone in missing_items(track):
        fixes = [Fix("Play all of it", change_item(number, first=0, last=None))] if _is_outside(item, gone) else []
        yield Finding(
            "item-missing",
            gone.why or f"{name}: {gone.what} cannot be opened",
            f"{counted(gone.count, 'frame')} of the reel {'is a hole' if gone.count == 1 else 'are a hole'}, and no "
            "file is made.",
            (*fixes, Fix("Remove the item", remove_item(number))),
        )
    if isinstance(item, TitleItem):
        yield from _of_title(plan, number, item)
    if isinstance(track, Playing):
        yield from _of_playing(plan, number, track)


def _is_outside(item: AnyItem, gone: MissingItem) -> bool:
    """Whether an item asks for frames that its media do not have."""
    return isinstance(item, PlayedSpec) and bool(gone.why) and (item.first > 0 or item.last is not None)


def _of_title(plan: ReelPlan, number: int, item: TitleItem) -> Iterator[Finding]:
    assert plan.sequence is not None
    wanted = READ_SECONDS + Fraction(len(item.text.replace("\n", "")), READ_CHARACTERS)
    alone = plan.sequence.tracks[number].count - sum(plan.sequence.overlaps[max(number - 1, 0) : number + 1])
    lasts = Fraction(alone * plan.frames, plan.sequence.count) / plan.rate.fps
    if item.text and lasts < wanted:
        frames = -(-wanted * plan.rate.fps // 1)
        more = int(frames) + plan.sequence.tracks[number].count - alone
        yield Finding(
            "title-too-short",
            f"{plan.names[number]} is on screen alone for {decimal(lasts, 2)} s",
            f"Reading it takes about {decimal(wanted, 1)} s.",
            (Fix(f"Show it for {counted(more, 'frame')}", change_item(number, frames=more, seconds=None)),),
        )


def _of_playing(plan: ReelPlan, number: int, track: Playing) -> Iterator[Finding]:
    assert plan.sequence is not None
    name, facts = plan.names[number], track.facts
    pace = track.pace * plan.sequence.count / plan.frames
    if pace != 1 and not (track.item.between == "true" and facts.renewable):
        yield from _of_pace(plan, number, track, pace)
    scale = scale_of((facts.width, facts.height), (plan.reel.width, plan.reel.height), track.item.fit)
    if scale > ENLARGED:
        yield Finding(
            "item-enlarged",
            f"{name} is {facts.width} × {facts.height} and is shown {decimal(scale, 2)} times as large",
            "It looks soft beside the others.",
            (
                Fix(
                    f"Make the reel {facts.width} × {facts.height}",
                    {"width": facts.width, "height": facts.height},
                ),
                Fix("Show it without scaling", change_item(number, fit="none")),
            ),
        )
    if facts.stale:
        yield Finding(
            "take-outdated",
            f"The take of {name} is older than its shot",
            "The reel shows what the shot was, not what it is.",
        )
    if track.runs_out:
        yield Finding(
            "motion-runs-out",
            f"{name} continues beyond the end of the matched motion",
            "It freezes on its last frame.",
        )


def _of_pace(plan: ReelPlan, number: int, track: Playing, pace: Fraction) -> Iterator[Finding]:
    """Frames that are dropped, doubled or blended, and the alternatives; nothing for a picture that does not move."""
    assert plan.sequence is not None
    count = max(round(track.moving * plan.frames / plan.sequence.count), 1)
    places = [min(n * pace, Fraction(track.steps - 1)) if not track.closes else n * pace for n in range(count)]
    between = sum(place.denominator > 1 for place in places)
    shown = {(place - Fraction(1, 2)).__ceil__() for place in places}
    dropped, doubled = max(track.steps - len(shown), 0), count - len(shown)
    blends = track.item.between == "blend"
    parts = [f"drops {dropped:,}"] if dropped and not (blends and pace < 2) else []
    parts += [f"blends {between:,}"] if blends and between else [f"repeats {doubled:,}"] if doubled else []
    if not parts or track.steps == 1:
        return
    fixes = []
    if track.facts.renewable:
        fixes.append(Fix(f"Capture {counted(between, 'true frame')}", change_item(number, between="true")))
    if not blends:
        fixes.append(Fix("Blend neighbours", change_item(number, between="blend")))
    rate = Rate(track.facts.rate)
    unfitted = track.item.frames is None and track.item.seconds is None and track.item.speed == 1
    if unfitted and plan.frames == plan.sequence.count and track.facts.rate != plan.rate.fps:
        fixes.append(Fix(f"Play the reel at {rate.label}", {"rate": str(rate.fps)}))
    yield Finding(
        "frames-do-not-fit",
        f"{plan.names[number]} has {counted(track.steps, 'frame')} for {count:,} in the reel, which "
        f"{' and '.join(parts)}",
        "Motion stutters where frames are dropped or doubled, and is soft where they are blended.",
        tuple(fixes),
    )


def _of_transition(plan: ReelPlan, number: int) -> Iterator[Finding]:
    """From the item before to this one."""
    assert plan.sequence is not None
    transition, overlap = plan.sequence.transitions[number - 1], plan.sequence.overlaps[number - 1]
    names = f"{plan.names[number - 1]} and {plan.names[number]}"
    before, after = plan.sequence.tracks[number - 1], plan.sequence.tracks[number]
    if transition.frames > overlap:
        kept = {"frames": overlap} if overlap else {"kind": "cut", "frames": 0}
        yield Finding(
            "transition-too-long",
            f"The transition of {names} has {counted(transition.frames, 'frame')}, and there is room for {overlap:,}",
            f"It is shortened to {counted(overlap, 'frame')}.",
            (Fix("Shorten the transition", change_item(number - 1, transition=kept)),),
        )
    if transition.in_step and not may_go_in_step(before, after):
        yield Finding(
            "motion-not-matched",
            f"{names} do not show one shot at one pace, so the second cannot continue where the first is",
            "It begins at its own first frame.",
            (Fix("Begin it by itself", change_item(number - 1, transition={"in_step": False})),),
        )
    if isinstance(before, Playing) and isinstance(after, Playing):
        yield from _of_looks(names, before, after)
    if overlap == 0 and isinstance(before, Playing) and isinstance(after, Playing):
        last, first = before.at(Fraction(before.count - 1)), after.at(Fraction(0))
        same = isinstance(last, Shown) and _unfitted(last) == _unfitted(first)
        if same and not (before.item.hold_end or after.item.hold_start):
            yield Finding(
                "frame-doubled",
                f"The last frame of {plan.names[number - 1]} is the first of {plan.names[number]}",
                "Motion stops for a frame where they meet.",
                (Fix("Begin one frame later", change_item(number, first=after.item.first + 1)),),
            )


def _of_looks(names: str, before: Playing, after: Playing) -> Iterator[Finding]:
    """Settings in which takes of one source differ, though they follow each other in one pass."""
    one, other = before.facts, after.facts
    like = one.subject and one.subject == other.subject and before.item.ref.render_pass == after.item.ref.render_pass
    apart = [name for name in one.look if like and one.look[name] != other.look.get(name)]
    if apart:
        said = [f"{name} ({one.look[name]} and {other.look.get(name, 'none')})" for name in apart[:MOST_NAMED]]
        more = f" and {counted(len(apart) - MOST_NAMED, 'more setting')}" if len(apart) > MOST_NAMED else ""
        yield Finding(
            "looks-differ",
            f"{names} show one source with another {', '.join(said)}{more}",
            "The picture changes where they meet, though the subject does not.",
        )


def _unfitted(node: Node) -> Node:
    """A frame without its placement in the picture."""
    return replace(node, fit="contain", focus=MIDDLE) if isinstance(node, Shown) else node
