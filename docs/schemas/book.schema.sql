-- A book, version 2: SQLite, application_id 0x54434231
CREATE TABLE engine (id TEXT PRIMARY KEY, name TEXT NOT NULL, serial TEXT NOT NULL, source TEXT NOT NULL, digest TEXT NOT NULL) STRICT;
CREATE TABLE engine_copy (digest TEXT PRIMARY KEY, value TEXT NOT NULL) STRICT;
CREATE TABLE person (id TEXT PRIMARY KEY, name TEXT NOT NULL) STRICT;
CREATE TABLE job (id TEXT PRIMARY KEY, engine_id TEXT NOT NULL REFERENCES engine (id), engine_digest TEXT NOT NULL, day TEXT NOT NULL, made TEXT NOT NULL, person_id TEXT NOT NULL, clock REAL, by_distance INTEGER NOT NULL, head TEXT NOT NULL, changed TEXT NOT NULL, versions TEXT NOT NULL) STRICT;
CREATE INDEX job_of_engine ON job (engine_id, day, made);
CREATE TABLE item (job_id TEXT NOT NULL REFERENCES job (id), name TEXT NOT NULL, found_low REAL, found_high REAL, found_turns REAL, found_text TEXT NOT NULL, found_unit TEXT NOT NULL, left_low REAL, left_high REAL, left_turns REAL, left_text TEXT NOT NULL, left_unit TEXT NOT NULL, after_nut_low REAL, after_nut_high REAL, after_nut_turns REAL, after_nut_text TEXT NOT NULL, after_nut_unit TEXT NOT NULL, torque_nm REAL NOT NULL, stripe INTEGER NOT NULL, note TEXT NOT NULL, anew TEXT NOT NULL, shim_mm REAL, shim_left_mm REAL, more TEXT NOT NULL DEFAULT '', PRIMARY KEY (job_id, name)) STRICT, WITHOUT ROWID;
CREATE TABLE hand_test (id TEXT PRIMARY KEY, person_id TEXT NOT NULL, day TEXT NOT NULL, step_mm REAL NOT NULL, pairs TEXT NOT NULL) STRICT;
CREATE TABLE hot_cold (id TEXT PRIMARY KEY, engine_id TEXT NOT NULL, of TEXT NOT NULL, diff_mm REAL NOT NULL, temperature_c REAL, day TEXT NOT NULL) STRICT;
CREATE TABLE drawer (size_mm REAL PRIMARY KEY, count INTEGER NOT NULL) STRICT;
