"""Reels as the interface shows them; of an edit it hears what has changed since its last answer."""

import secrets
import threading
from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass
from itertools import count, islice

from cachetools import LRUCache

from vexel.core.errors import VexelError
from vexel.core.reel.item_spec import AnyItem, ItemSpec, PlayedSpec
from vexel.core.reel.media import MediaRef
from vexel.core.reel.played_item import Playing
from vexel.core.reel.reel_brief import ReelPart, reel_brief
from vexel.core.reel.reel_plan import media_name
from vexel.core.reel.tracks import Track, missing_items
from vexel.core.time.rate import Rate
from vexel.core.wording import counted
from vexel.output.reel.open_reel import OpenReel
from vexel.store.documents.reels import KeptReel
from vexel.store.project import Project
from vexel.web.jobs.reel_service import ReelService
from vexel.web.schemas.common import FindingBody
from vexel.web.schemas.reels import ReelBody, ReelItemBody, ReelPartBody, ToCapture

MOST_FINDINGS = 100
"""Listed at most; the findings of a reel of 5,000 items would be a megabyte."""
KEPT_ANSWERS = 16


@dataclass(frozen=True)
class _Answer:
    """The items of the last answer for a reel, for comparison with the next answer."""

    reel_id: str
    items: Sequence[AnyItem]
    bodies: Sequence[ReelItemBody]
    tracks: Sequence[Track]
    scale: tuple[int, int]


class ReelBodies:
    """Answers about reels, and remembers the last of them.

    Of a reel of 5,000 items an answer has 2 MB. An interface that names its last answer gets only the items
    between those that are the same at the begin and at the end.
    """

    def __init__(self, project: Project, reels: ReelService) -> None:
        self._project, self._reels = project, reels
        self._answers: LRUCache[str, _Answer] = LRUCache(KEPT_ANSWERS)
        self._turn = threading.Lock()
        self._session, self._numbers = secrets.token_hex(4), count(1)

    def body(self, kept: KeptReel, since: str = "") -> ReelBody:
        """All that the place of a reel shows of it, but for pictures.

        Parameters
        ----------
        since : str
            The `state` of an answer that the interface has.
        """
        reel = kept.value
        body = ReelBody(
            id=kept.id, document=reel, revision=kept.revision, undo=kept.undo, redo=kept.redo, frames=0, seconds=0,
            rate=float(reel.exact_rate.fps), reason="", trouble="", brief=[], items=[],
            findings=[], to_capture=[], to_renew=[],
            path=str(self._project.reels.folder / f"{kept.id}.json"),
        )  # fmt: skip
        try:
            opened = self._reels.open(reel)
            plan = opened.plan
            lacks = self._reels.to_capture(opened)
            findings = list(islice(opened.findings, MOST_FINDINGS + 1))
        except VexelError as error:
            return body.model_copy(update={"trouble": str(error), "brief": [ReelPart(reel.title)]})
        answer = self._answer(kept.id, reel.items, opened)
        state, before = self._remembered(answer, since)
        head, tail = _same(before, answer) if before is not None else (0, 0)
        middle = slice(head, len(reel.items) - tail)
        return body.model_copy(
            update={
                "frames": plan.frames,
                "seconds": float(plan.frames / plan.rate.fps),
                "reason": plan.reason,
                "brief": reel_brief(plan),
                "document": reel.model_copy(update={"items": reel.items[middle]}),
                "items": answer.bodies[middle],
                "starts": list(plan.starts),
                "edges": list(plan.edges),
                "findings": [FindingBody(**asdict(finding)) for finding in findings[:MOST_FINDINGS]],
                "more_findings": len(findings) > MOST_FINDINGS,
                "to_capture": _counts(opened, lacks),
                "to_renew": _counts(opened, self._reels.to_renew(opened)),
                "state": state,
                "since": since if before is not None else "",
                "head": head,
                "tail": tail,
            }
        )

    def _remembered(self, answer: _Answer, since: str) -> tuple[str, _Answer | None]:
        """Keep an answer; its name, and the answer that the interface has."""
        with self._turn:
            before = self._answers.get(since)
            state = f"{self._session}.{next(self._numbers)}"
            self._answers[state] = answer
        return state, before if before is not None and before.reel_id == answer.reel_id else None

    def _answer(self, reel_id: str, items: Sequence[AnyItem], opened: OpenReel) -> _Answer:
        """The items as they came out; those of the last answer whose tracks are the same are taken over."""
        plan = opened.plan
        if plan.sequence is None:
            return _Answer(reel_id, items, [], [], (0, 0))
        scale = plan.sequence.count, plan.frames
        with self._turn:
            last = next((one for one in reversed(list(self._answers.values())) if one.reel_id == reel_id), None)
        known: dict[int, ReelItemBody] = {}
        if last is not None and last.scale[0] * scale[1] == last.scale[1] * scale[0]:
            known = {id(track): body for track, body in zip(last.tracks, last.bodies, strict=True)}
        bodies = []
        for number, track in enumerate(plan.sequence.tracks):
            body = known.get(id(track))
            overlap = plan.sequence.overlaps[number] if number < len(plan.sequence.overlaps) else 0
            bodies.append(body if body is not None and body.overlap == overlap else _item(opened, number, overlap))
        return _Answer(reel_id, items, bodies, plan.sequence.tracks, scale)


def _same(before: _Answer, now: _Answer) -> tuple[int, int]:
    """How many items are the same at the begin and at the end."""
    most = min(len(before.items), len(now.items))

    def is_same(one: int, other: int) -> bool:
        bodies = before.bodies[one], now.bodies[other]
        items = before.items[one], now.items[other]
        return (bodies[0] is bodies[1] or bodies[0] == bodies[1]) and (items[0] is items[1] or items[0] == items[1])

    head = 0
    while head < most and is_same(head, head):
        head += 1
    tail = 0
    while tail < most - head and is_same(len(before.items) - 1 - tail, len(now.items) - 1 - tail):
        tail += 1
    return head, tail


def _counts(opened: OpenReel, counts: Mapping[MediaRef, int]) -> list[ToCapture]:
    facts = opened.plan.facts
    return [ToCapture(label=media_name(ref, facts.get(ref)), frames=count) for ref, count in counts.items()]


def _item(opened: OpenReel, number: int, overlap: int) -> ReelItemBody:
    plan = opened.plan
    assert plan.sequence is not None
    item, track = plan.reel.items[number], plan.sequence.tracks[number]
    facts = opened.media[item.ref].facts if isinstance(item, PlayedSpec) and item.ref in opened.media else None
    gone = opened.gone.get(item.ref) if isinstance(item, PlayedSpec) else None
    source = ""
    if facts is not None:
        source = f"{counted(facts.frames, 'frame')} at {Rate(facts.rate).label}, {facts.width} × {facts.height}"
    return ReelItemBody(
        name=plan.names[number],
        kind=item.kind,
        media=facts.frames if facts else 0,
        pace=float(track.pace * plan.sequence.count / plan.frames) if isinstance(track, Playing) else 1,
        parts=[
            ReelPartBody(name=name, passes=_passes(opened, part))
            for name, part in zip(plan.part_names(number), item.parts, strict=True)
        ],
        passes=_passes(opened, item),
        frames=track.count,
        overlap=overlap,
        source=source,
        width=facts.width if facts is not None else 0,
        height=facts.height if facts is not None else 0,
        trouble=str(gone) if gone else next((one.why for one in missing_items(track) if one.why), ""),
    )


def _passes(opened: OpenReel, item: ItemSpec) -> list[tuple[str, str]]:
    """Cameras and passes that an item could show."""
    media = opened.media.get(item.ref) if isinstance(item, PlayedSpec) else None
    return list(media.facts.passes) if media else []
