-- Version 1: what was stated and what was read. Nothing here is ever changed or taken away.
CREATE TABLE logbook (
    key TEXT PRIMARY KEY NOT NULL,
    value TEXT NOT NULL
) STRICT;

CREATE TABLE part (
    id TEXT NOT NULL,
    revision INTEGER NOT NULL,
    content_hash TEXT NOT NULL,
    saved_at TEXT NOT NULL,          -- ISO 8601 with offset
    payload TEXT NOT NULL,           -- JSON of the part; quantities in SI units named in it
    PRIMARY KEY (id, revision)
) STRICT;

CREATE TABLE job (
    id TEXT PRIMARY KEY NOT NULL,
    created_at TEXT NOT NULL
) STRICT;

CREATE TABLE definition (
    job TEXT NOT NULL REFERENCES job (id),
    revision INTEGER NOT NULL,
    saved_at TEXT NOT NULL,
    label TEXT NOT NULL,             -- what the edit was
    payload TEXT NOT NULL,           -- JSON of the job without its events
    PRIMARY KEY (job, revision)
) STRICT;

CREATE TABLE event (
    job TEXT NOT NULL REFERENCES job (id),
    seq INTEGER NOT NULL,
    id TEXT UNIQUE NOT NULL,
    kind TEXT NOT NULL,
    at TEXT NOT NULL,
    payload TEXT NOT NULL,           -- JSON of the event
    payload_sha256 TEXT NOT NULL,
    PRIMARY KEY (job, seq)
) STRICT;

CREATE TRIGGER event_is_kept BEFORE DELETE ON event BEGIN SELECT RAISE(ABORT, 'events are kept'); END;
CREATE TRIGGER event_is_final BEFORE UPDATE ON event BEGIN SELECT RAISE(ABORT, 'events are final'); END;
CREATE TRIGGER definition_is_kept BEFORE DELETE ON definition BEGIN SELECT RAISE(ABORT, 'definitions are kept'); END;
CREATE TRIGGER definition_is_final BEFORE UPDATE ON definition BEGIN SELECT RAISE(ABORT, 'definitions are final'); END;
CREATE TRIGGER part_is_kept BEFORE DELETE ON part BEGIN SELECT RAISE(ABORT, 'parts are kept'); END;
CREATE TRIGGER part_is_final BEFORE UPDATE ON part BEGIN SELECT RAISE(ABORT, 'parts are final'); END;
