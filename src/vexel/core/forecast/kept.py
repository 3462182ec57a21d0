"""Probes and what they foretold as JSON documents, kept beside takes and runs."""

from typing import Any

from pydantic import TypeAdapter, ValidationError

from vexel.core.forecast.foretold import Foretold, Probe

_PROBE, _FORETOLD = TypeAdapter(Probe), TypeAdapter(Foretold)


def probe_document(probe: Probe) -> dict[str, Any]:
    """A probe as a JSON document."""
    return _PROBE.dump_python(probe, mode="json")  # type: ignore[no-any-return]


def probe_of(document: Any) -> Probe | None:
    """The probe of a document; None where it is none, such as one of an older version."""
    try:
        return _PROBE.validate_python(document)
    except ValidationError:
        return None


def foretold_document(foretold: Foretold) -> dict[str, Any]:
    """What was foretold as a JSON document."""
    return _FORETOLD.dump_python(foretold, mode="json")  # type: ignore[no-any-return]


def foretold_of(document: Any) -> Foretold | None:
    """What a document says was foretold; None where it is none."""
    try:
        return _FORETOLD.validate_python(document)
    except ValidationError:
        return None
