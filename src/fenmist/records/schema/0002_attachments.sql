-- Version 2: files that readings were taken from, kept by the hash of their bytes.
CREATE TABLE attachment (
    sha256 TEXT PRIMARY KEY NOT NULL, -- of the unpacked bytes
    name TEXT NOT NULL,               -- of the file it came from
    saved_at TEXT NOT NULL,           -- ISO 8601 with offset
    packed BLOB NOT NULL              -- zlib
) STRICT;

CREATE TRIGGER attachment_is_kept BEFORE DELETE ON attachment BEGIN SELECT RAISE(ABORT, 'attachments are kept'); END;
CREATE TRIGGER attachment_is_final BEFORE UPDATE ON attachment BEGIN SELECT RAISE(ABORT, 'attachments are final'); END;
