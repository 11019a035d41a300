-- Whose file this is ("Lpds"), and which start of the app wrote it last: see store/data_file.py.
PRAGMA application_id = 1282434163;
CREATE TABLE file_mark (mark TEXT NOT NULL) STRICT;
