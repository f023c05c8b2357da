-- Whom a job is for: the number of who asked for it; nobody's by itself.
ALTER TABLE jobs ADD COLUMN visitor VARCHAR(64) NOT NULL DEFAULT '';
