-- Version 3: certificates as they were issued, what a list shows of each job, and files kept beside entries.
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
    PRIMARY KEY (number, revision)
) STRICT;

CREATE INDEX issue_by_job ON issue (job);
CREATE TRIGGER issue_is_kept BEFORE DELETE ON issue BEGIN SELECT RAISE(ABORT, 'certificates are kept'); END;
CREATE TRIGGER issue_is_final BEFORE UPDATE ON issue BEGIN SELECT RAISE(ABORT, 'certificates are final'); END;

-- Worked out from the record and thrown away at will; `stamp` tells what of the record it was made from.
CREATE TABLE summary (
    job TEXT PRIMARY KEY NOT NULL REFERENCES job (id),
    stamp TEXT NOT NULL,
    device TEXT NOT NULL,             -- part id of the device
    serial TEXT NOT NULL,             -- its serial number, where it has one
    payload TEXT NOT NULL,            -- JSON of the line in the list
    past TEXT NOT NULL,               -- JSON of the errors found, for the meter's history
    words TEXT NOT NULL               -- everything that can be searched for, in lower case
) STRICT;

-- Which parts a job's newest definition holds, to answer "used in".
CREATE TABLE used_part (
    job TEXT NOT NULL REFERENCES job (id),
    part TEXT NOT NULL,
    PRIMARY KEY (job, part)
) STRICT;
CREATE INDEX used_part_by_part ON used_part (part);
INSERT OR IGNORE INTO used_part
    SELECT definition.job, json_extract(item.value, '$.id')
    FROM definition, json_each(definition.payload, '$.kit') AS item
    WHERE (definition.job, definition.revision) IN (SELECT job, max(revision) FROM definition GROUP BY job);
