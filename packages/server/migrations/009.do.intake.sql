-- What came of an upload: asked again, the same is answered, and nothing is made twice.
CREATE TABLE taken_uploads (
  upload VARCHAR(64) CHARACTER SET ascii PRIMARY KEY,
  media_hash CHAR(64) CHARACTER SET ascii NOT NULL,
  shot_id INT UNSIGNED NULL,
  taken DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
  CONSTRAINT taken_media FOREIGN KEY (media_hash) REFERENCES media (hash) ON DELETE CASCADE,
  CONSTRAINT taken_shot FOREIGN KEY (shot_id) REFERENCES shots (id) ON DELETE CASCADE
);
