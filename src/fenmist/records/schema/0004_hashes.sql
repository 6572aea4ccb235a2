-- Version 4: every row carries a hash of itself, events are chained, and no statement can put one in another's place.
-- row_sha256(…), chain_sha256(…) and as_written(…) are Fenmist's own functions (records/rows.py).
DROP TRIGGER event_is_kept; DROP TRIGGER event_is_final;
DROP TRIGGER definition_is_kept; DROP TRIGGER definition_is_final;
DROP TRIGGER part_is_kept; DROP TRIGGER part_is_final;
DROP TRIGGER attachment_is_kept; DROP TRIGGER attachment_is_final;
DROP TRIGGER issue_is_kept; DROP TRIGGER issue_is_final;
DROP INDEX issue_by_job;
DROP TABLE summary;
DROP TABLE used_part;
ALTER TABLE logbook RENAME TO logbook_3;
ALTER TABLE part RENAME TO part_3;
ALTER TABLE job RENAME TO job_3;
ALTER TABLE definition RENAME TO definition_3;
ALTER TABLE event RENAME TO event_3;
ALTER TABLE attachment RENAME TO attachment_3;
ALTER TABLE issue RENAME TO issue_3;

CREATE TABLE logbook (
    key TEXT PRIMARY KEY NOT NULL,
    value TEXT NOT NULL,
    row_sha256 TEXT NOT NULL
) STRICT;

CREATE TABLE part (
    id TEXT NOT NULL,
    revision INTEGER NOT NULL,
    content_hash TEXT NOT NULL,
    saved_at TEXT NOT NULL,          -- ISO 8601 with offset
    payload TEXT NOT NULL,           -- JSON of the part; quantities in SI units named in it
    row_sha256 TEXT NOT NULL,
    PRIMARY KEY (id, revision)
) STRICT;

CREATE TABLE job (
    id TEXT PRIMARY KEY NOT NULL,
    created_at TEXT NOT NULL,
    row_sha256 TEXT NOT NULL
) STRICT;

CREATE TABLE definition (
    job TEXT NOT NULL REFERENCES job (id),
    revision INTEGER NOT NULL,
    saved_at TEXT NOT NULL,
    label TEXT NOT NULL,             -- what the edit was
    payload TEXT NOT NULL,           -- JSON of the job without its events
    row_sha256 TEXT NOT NULL,
    PRIMARY KEY (job, revision)
) STRICT;

CREATE TABLE event (
    job TEXT NOT NULL REFERENCES job (id),
    seq INTEGER NOT NULL,            -- from 1, without gaps
    id TEXT UNIQUE NOT NULL,
    kind TEXT NOT NULL,
    at TEXT NOT NULL,
    payload TEXT NOT NULL,           -- JSON of the event
    chain_sha256 TEXT NOT NULL,      -- over this row and the chain of the one before it; the first one's is the job's id
    PRIMARY KEY (job, seq)
) STRICT;

-- Where each job's record ends, so that a lost end is seen. Grows only.
CREATE TABLE head (
    job TEXT PRIMARY KEY NOT NULL REFERENCES job (id),
    revision INTEGER NOT NULL,       -- of its newest definition
    seq INTEGER NOT NULL,            -- of its last event, 0 without
    chain_sha256 TEXT NOT NULL,      -- of its last event; the job's id without
    row_sha256 TEXT NOT NULL
) STRICT;

CREATE TABLE attachment (
    sha256 TEXT PRIMARY KEY NOT NULL, -- of the unpacked bytes
    name TEXT NOT NULL,               -- of the file it came from
    saved_at TEXT NOT NULL,           -- ISO 8601 with offset
    packed BLOB NOT NULL,             -- zlib
    row_sha256 TEXT NOT NULL          -- without the bytes, which have their own
) STRICT;

CREATE TABLE issue (
    number TEXT NOT NULL,
    revision INTEGER NOT NULL,
    job TEXT NOT NULL REFERENCES job (id),
    supersedes INTEGER,               -- the revision it replaces, or nothing
    reason TEXT NOT NULL,             -- why it was issued again
    issued_at TEXT NOT NULL,          -- ISO 8601 with offset
    record_sha256 TEXT NOT NULL,      -- of the job's record it was made from
    content TEXT NOT NULL,            -- JSON of everything on the page
    pdf_sha256 TEXT NOT NULL,
    pdf BLOB NOT NULL,
    row_sha256 TEXT NOT NULL,         -- without the pages, which have their own
    PRIMARY KEY (number, revision)
) STRICT;
CREATE INDEX issue_by_job ON issue (job);

-- Worked out from the record and thrown away at will; `stamp` tells what of the record it was made from.
CREATE TABLE summary (
    job TEXT PRIMARY KEY NOT NULL REFERENCES job (id),
    stamp TEXT NOT NULL,
    device TEXT NOT NULL,             -- part id of the device
    serial TEXT NOT NULL,             -- its serial number, where it has one
    payload TEXT NOT NULL,            -- JSON of the line in the list
    past TEXT NOT NULL,               -- JSON of the errors found, for the meter's history
    parts TEXT NOT NULL,              -- JSON of the part ids in the newest definition
    words TEXT NOT NULL,              -- everything that can be searched for, in lower case
    row_sha256 TEXT NOT NULL
) STRICT;

INSERT INTO logbook SELECT key, value, row_sha256(key, value) FROM logbook_3;
INSERT INTO part SELECT id, revision, content_hash, saved_at, payload,
    row_sha256(id, revision, content_hash, saved_at, payload) FROM part_3 ORDER BY rowid;
INSERT INTO job SELECT id, created_at, row_sha256(id, created_at) FROM job_3 ORDER BY rowid;
INSERT INTO definition SELECT job, revision, saved_at, label, payload,
    row_sha256(job, revision, saved_at, label, payload) FROM definition_3 ORDER BY rowid;
INSERT INTO event SELECT job, seq, id, kind, at, as_written(payload, payload_sha256),
    chain_sha256(job, seq, id, kind, at, payload) OVER (PARTITION BY job ORDER BY seq) FROM event_3;
INSERT INTO head SELECT job, revision, seq, chain, row_sha256(job, revision, seq, chain) FROM (
    SELECT job.id AS job, (SELECT max(revision) FROM definition WHERE job = job.id) AS revision,
        coalesce((SELECT max(seq) FROM event WHERE job = job.id), 0) AS seq,
        coalesce((SELECT chain_sha256 FROM event WHERE job = job.id ORDER BY seq DESC LIMIT 1), job.id) AS chain
    FROM job);
INSERT INTO attachment SELECT sha256, name, saved_at, packed, row_sha256(sha256, name, saved_at) FROM attachment_3;
INSERT INTO issue SELECT number, revision, job, supersedes, reason, issued_at, record_sha256, content, pdf_sha256, pdf,
    row_sha256(number, revision, job, supersedes, reason, issued_at, record_sha256, content, pdf_sha256)
    FROM issue_3 ORDER BY rowid;

DROP TABLE issue_3; DROP TABLE attachment_3; DROP TABLE event_3; DROP TABLE definition_3;
DROP TABLE job_3; DROP TABLE part_3; DROP TABLE logbook_3;

CREATE TRIGGER event_is_kept BEFORE DELETE ON event BEGIN SELECT RAISE(ABORT, 'events are kept'); END;
CREATE TRIGGER event_is_final BEFORE UPDATE ON event BEGIN SELECT RAISE(ABORT, 'events are final'); END;
CREATE TRIGGER event_is_new BEFORE INSERT ON event
    WHEN EXISTS (SELECT 1 FROM event WHERE (job = NEW.job AND seq = NEW.seq) OR id = NEW.id OR rowid = NEW.rowid)
    BEGIN SELECT RAISE(ABORT, 'events are final'); END;
CREATE TRIGGER definition_is_kept BEFORE DELETE ON definition BEGIN SELECT RAISE(ABORT, 'definitions are kept'); END;
CREATE TRIGGER definition_is_final BEFORE UPDATE ON definition BEGIN SELECT RAISE(ABORT, 'definitions are final'); END;
CREATE TRIGGER definition_is_new BEFORE INSERT ON definition
    WHEN EXISTS (SELECT 1 FROM definition WHERE (job = NEW.job AND revision = NEW.revision) OR rowid = NEW.rowid)
    BEGIN SELECT RAISE(ABORT, 'definitions are final'); END;
CREATE TRIGGER job_is_kept BEFORE DELETE ON job BEGIN SELECT RAISE(ABORT, 'jobs are kept'); END;
CREATE TRIGGER job_is_final BEFORE UPDATE ON job BEGIN SELECT RAISE(ABORT, 'jobs are final'); END;
CREATE TRIGGER job_is_new BEFORE INSERT ON job WHEN EXISTS (SELECT 1 FROM job WHERE id = NEW.id OR rowid = NEW.rowid)
    BEGIN SELECT RAISE(ABORT, 'jobs are final'); END;
CREATE TRIGGER head_is_kept BEFORE DELETE ON head BEGIN SELECT RAISE(ABORT, 'heads are kept'); END;
CREATE TRIGGER head_grows BEFORE UPDATE ON head
    WHEN NEW.job IS NOT OLD.job OR NEW.revision < OLD.revision OR NEW.seq < OLD.seq
    BEGIN SELECT RAISE(ABORT, 'heads are kept'); END;
CREATE TRIGGER head_is_new BEFORE INSERT ON head WHEN EXISTS (SELECT 1 FROM head WHERE job = NEW.job OR rowid = NEW.rowid)
    BEGIN SELECT RAISE(ABORT, 'heads are kept'); END;
CREATE TRIGGER part_is_kept BEFORE DELETE ON part BEGIN SELECT RAISE(ABORT, 'parts are kept'); END;
CREATE TRIGGER part_is_final BEFORE UPDATE ON part BEGIN SELECT RAISE(ABORT, 'parts are final'); END;
CREATE TRIGGER part_is_new BEFORE INSERT ON part
    WHEN EXISTS (SELECT 1 FROM part WHERE (id = NEW.id AND revision = NEW.revision) OR rowid = NEW.rowid)
    BEGIN SELECT RAISE(ABORT, 'parts are final'); END;
CREATE TRIGGER attachment_is_kept BEFORE DELETE ON attachment BEGIN SELECT RAISE(ABORT, 'attachments are kept'); END;
CREATE TRIGGER attachment_is_final BEFORE UPDATE ON attachment BEGIN SELECT RAISE(ABORT, 'attachments are final'); END;
CREATE TRIGGER attachment_is_new BEFORE INSERT ON attachment
    WHEN EXISTS (SELECT 1 FROM attachment WHERE sha256 = NEW.sha256 OR rowid = NEW.rowid)
    BEGIN SELECT RAISE(ABORT, 'attachments are final'); END;
CREATE TRIGGER issue_is_kept BEFORE DELETE ON issue BEGIN SELECT RAISE(ABORT, 'certificates are kept'); END;
CREATE TRIGGER issue_is_final BEFORE UPDATE ON issue BEGIN SELECT RAISE(ABORT, 'certificates are final'); END;
CREATE TRIGGER issue_is_new BEFORE INSERT ON issue
    WHEN EXISTS (SELECT 1 FROM issue WHERE (number = NEW.number AND revision = NEW.revision) OR rowid = NEW.rowid)
    BEGIN SELECT RAISE(ABORT, 'certificates are final'); END;
