-- The camera of a shot's whole scene: what is known of it, and what was solved with that.
CREATE TABLE cameras (
  shot_id INT UNSIGNED PRIMARY KEY,
  settings JSON NOT NULL,
  media_hash CHAR(64) CHARACTER SET ascii NULL,
  solved_with JSON NULL,
  solved JSON NULL,
  told TEXT NULL,
  made DATETIME(3) NULL,
  CONSTRAINT camera_shot FOREIGN KEY (shot_id) REFERENCES shots (id) ON DELETE CASCADE
);

ALTER TABLE jobs MODIFY kind ENUM('ingest', 'follow', 'deliver', 'prove', 'camera') NOT NULL;
