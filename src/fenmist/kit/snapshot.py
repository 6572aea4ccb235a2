"""Parts as content: a job embeds what it used, found again by the hash of everything that was stated."""

import hashlib
from typing import TYPE_CHECKING

import msgspec

if TYPE_CHECKING:
    from fenmist.kit.part import Part


def content_hash(part: "Part") -> str:
    """SHA-256 over the part's canonical JSON; changes with anything that is stated of it."""
    return hashlib.sha256(msgspec.json.encode(part, order="deterministic")).hexdigest()
