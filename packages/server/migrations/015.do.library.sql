-- What a file is called in the library, where a person renamed it, and what it is grouped by.
ALTER TABLE media ADD COLUMN title VARCHAR(255) NULL;
ALTER TABLE media ADD COLUMN tags JSON NOT NULL DEFAULT '[]';

-- What was brought in for a production, whether anything shows it or not.
CREATE TABLE production_media (
  production_id INT UNSIGNED NOT NULL,
  media_hash CHAR(64) CHARACTER SET ascii NOT NULL,
  added DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
  PRIMARY KEY (production_id, media_hash),
  CONSTRAINT library_production FOREIGN KEY (production_id) REFERENCES productions (id) ON DELETE CASCADE,
  CONSTRAINT library_media FOREIGN KEY (media_hash) REFERENCES media (hash) ON DELETE CASCADE
);

-- So far every fill was offered in every production.
INSERT INTO production_media (production_id, media_hash, added)
SELECT p.id, m.hash, m.created
FROM productions p
JOIN media m ON NOT EXISTS (SELECT 1 FROM shots s WHERE s.media_hash = m.hash);
