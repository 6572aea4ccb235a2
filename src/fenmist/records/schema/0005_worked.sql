-- What came of a job's points, worked out from its record and thrown away at will; `stamp` tells of which record, and by
-- which program.
CREATE TABLE worked (
    job TEXT PRIMARY KEY NOT NULL REFERENCES job (id),
    stamp TEXT NOT NULL,
    points BLOB NOT NULL,
    row_sha256 TEXT NOT NULL
) STRICT;
