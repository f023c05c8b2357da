CREATE TABLE productions (
  id INT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  name VARCHAR(120) NOT NULL,
  created DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3)
);

CREATE TABLE media (
  hash CHAR(64) CHARACTER SET ascii PRIMARY KEY,
  name VARCHAR(255) NOT NULL,
  source JSON NOT NULL,
  probe JSON NOT NULL,
  notes JSON NOT NULL,
  frame_count INT UNSIGNED NOT NULL,
  state ENUM('waiting', 'ready', 'failed') NOT NULL DEFAULT 'waiting',
  problem TEXT NULL,
  created DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3)
);

CREATE TABLE shots (
  id INT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  production_id INT UNSIGNED NOT NULL,
  name VARCHAR(120) NOT NULL,
  media_hash CHAR(64) CHARACTER SET ascii NOT NULL,
  range_from INT UNSIGNED NOT NULL,
  range_to INT UNSIGNED NOT NULL,
  revision INT UNSIGNED NOT NULL DEFAULT 1,
  created DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
  CONSTRAINT shot_production FOREIGN KEY (production_id) REFERENCES productions (id) ON DELETE CASCADE,
  CONSTRAINT shot_media FOREIGN KEY (media_hash) REFERENCES media (hash),
  CONSTRAINT shot_range CHECK (range_from <= range_to)
);

CREATE TABLE screens (
  id INT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  shot_id INT UNSIGNED NOT NULL,
  recipe JSON NOT NULL,
  revision INT UNSIGNED NOT NULL DEFAULT 1,
  updated DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3) ON UPDATE CURRENT_TIMESTAMP(3),
  CONSTRAINT screen_shot FOREIGN KEY (shot_id) REFERENCES shots (id) ON DELETE CASCADE
);

CREATE TABLE screen_revisions (
  screen_id INT UNSIGNED NOT NULL,
  revision INT UNSIGNED NOT NULL,
  recipe JSON NOT NULL,
  saved DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
  PRIMARY KEY (screen_id, revision),
  CONSTRAINT revision_screen FOREIGN KEY (screen_id) REFERENCES screens (id) ON DELETE CASCADE
);

CREATE TABLE solves (
  id INT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  screen_id INT UNSIGNED NOT NULL,
  identity CHAR(64) CHARACTER SET ascii NOT NULL,
  pin JSON NOT NULL,
  reference_frame INT UNSIGNED NOT NULL,
  forwards JSON NULL,
  backwards JSON NULL,
  created DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
  KEY solve_identity (screen_id, identity),
  CONSTRAINT solve_screen FOREIGN KEY (screen_id) REFERENCES screens (id) ON DELETE CASCADE
);

CREATE TABLE solve_frames (
  solve_id INT UNSIGNED NOT NULL,
  frame INT UNSIGNED NOT NULL,
  homography JSON NULL,
  sigma JSON NOT NULL,
  trust DOUBLE NOT NULL,
  evidence JSON NOT NULL,
  reason TEXT NULL,
  PRIMARY KEY (solve_id, frame),
  CONSTRAINT frame_solve FOREIGN KEY (solve_id) REFERENCES solves (id) ON DELETE CASCADE
);

CREATE TABLE deliveries (
  id INT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  shot_id INT UNSIGNED NOT NULL,
  settings JSON NOT NULL,
  revision INT UNSIGNED NOT NULL,
  file_name VARCHAR(200) NOT NULL,
  bytes BIGINT UNSIGNED NULL,
  sha256 CHAR(64) CHARACTER SET ascii NULL,
  created DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
  CONSTRAINT delivery_shot FOREIGN KEY (shot_id) REFERENCES shots (id) ON DELETE CASCADE
);

CREATE TABLE jobs (
  id INT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  kind ENUM('ingest', 'follow', 'deliver') NOT NULL,
  media_hash CHAR(64) CHARACTER SET ascii NULL,
  shot_id INT UNSIGNED NULL,
  screen_id INT UNSIGNED NULL,
  solve_id INT UNSIGNED NULL,
  delivery_id INT UNSIGNED NULL,
  input JSON NOT NULL,
  state ENUM('waiting', 'running', 'done', 'failed', 'cancelled') NOT NULL DEFAULT 'waiting',
  frames_done INT UNSIGNED NOT NULL DEFAULT 0,
  frames_total INT UNSIGNED NOT NULL DEFAULT 0,
  message TEXT NULL,
  attempt INT UNSIGNED NOT NULL DEFAULT 0,
  token INT UNSIGNED NOT NULL DEFAULT 0,
  heartbeat DATETIME(3) NULL,
  cancel_wanted TINYINT(1) NOT NULL DEFAULT 0,
  created DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
  KEY job_state (state, id),
  CONSTRAINT job_shot FOREIGN KEY (shot_id) REFERENCES shots (id) ON DELETE CASCADE,
  CONSTRAINT job_screen FOREIGN KEY (screen_id) REFERENCES screens (id) ON DELETE CASCADE,
  CONSTRAINT job_delivery FOREIGN KEY (delivery_id) REFERENCES deliveries (id) ON DELETE CASCADE
);
