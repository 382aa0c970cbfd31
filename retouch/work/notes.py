"""What is to be said about a pass where it stands."""

from __future__ import annotations

from retouch.edit import Edit
from retouch.passes import registry


def notes(edit: Edit) -> dict[str, list[str]]:
    """Sentences about passes that lack something of the face, or that others above them upset, by the
    pass's id.
    """
    out: dict[str, list[str]] = {}
    for n, one in enumerate(edit.passes):
        kind = registry.kind(one.kind)
        if not one.acts:
            continue
        said = [kind.lacks(kind.values(one))] if kind.lacks is not None else []
        if kind.upset_by is not None:
            said += [kind.upset_by(above) for above in edit.passes[n + 1 :] if above.acts]
        found = [text for text in said if text is not None]
        if found:
            out[one.id] = found
    return out
