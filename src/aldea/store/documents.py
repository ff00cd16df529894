"""Plan documents as they were written: each fetched and read once, found by the digest of its text.

A page asks for the digest of a draft alone; the text, a hundred times as long, comes only where
this process has not read it yet.
"""

from dataclasses import dataclass

from aldea.core.base.bounded import BoundedCache
from aldea.core.plan.document import Plan
from aldea.core.plan.text import plan_sha256, read_plan

MOST_BYTES = 96_000_000
BYTES_A_LETTER = 10  # of a text, its plan, and what follows from the plan alone; measured


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Document:
    """A text that was checked when it was written, with its digest and its plan."""

    sha256: str
    text: str
    plan: Plan


_read: BoundedCache[Document] = BoundedCache(MOST_BYTES)


def known_document(sha256: str) -> Document | None:
    """The document of a digest, where this process has read it."""
    return _read.get(sha256)


def document_of(text: str) -> Document:
    """The document of a text; read once as long as there is room for it."""
    sha256 = plan_sha256(text)
    document = _read.get(sha256)
    if document is None:
        document = Document(sha256=sha256, text=text, plan=read_plan(text))
        _read.put(sha256, document, BYTES_A_LETTER * len(text))
    return document
